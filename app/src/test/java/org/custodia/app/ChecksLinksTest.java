package org.custodia.app;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.PrintWriter;
import java.io.StringWriter;
import java.net.URI;
import java.nio.file.Path;
import java.util.List;
import java.util.Optional;
import org.custodia.link.rig.ScriptedSystem;
import org.custodia.wire.LinksFile;
import org.custodia.wire.LinksFileForm;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

class ChecksLinksTest {
    @TempDir
    Path directory;

    private final StringWriter said = new StringWriter();

    private int check(LinksFileForm.Content links, String actOn) throws InterruptedException {
        return new ChecksLinks(new PrintWriter(said)).check(links, Optional.ofNullable(actOn));
    }

    private static LinksFileForm.Content links(URI address) {
        return new LinksFileForm()
                .content(new LinksFile(
                        "x",
                        List.of(new LinksFile.Link("access", null, "tidewater", "Tidewater", address, "token")),
                        List.of(),
                        List.of()));
    }

    @Test
    void the_practice_site_meets_everything_and_lets_a_door_be_opened() throws InterruptedException {
        try (Rig rig = new Rig(directory)) {
            int code = check(LinksFiles.read(rig.site.linksFile()), "tidewater/vault-ante");
            assertThat(said.toString())
                    .contains("door.released came with it", "the command was sent twice and done once")
                    .contains("its packets begin as they should")
                    .contains(" 0 not met")
                    .contains("A console can work with these systems.")
                    .doesNotContain("NOT MET");
            assertThat(code).isZero();
        }
    }

    @Test
    void what_is_wrong_with_a_system_is_named_in_words() throws InterruptedException {
        try (ScriptedSystem system = new ScriptedSystem("tidewater")) {
            system.hasEvents(1, 20, "door.opened")
                    .has(21, "{\"epoch\":1,\"seq\":21,\"kind\":\"door.closed\",\"door\":\"attic\"}")
                    .has(22, "<nonsense>")
                    .has(24, system.event(24, "operator.verdict", ""));
            system.answers("time", "{}");
            system.answers("inventory/places", "{\"doors\":[{\"id\":\"vault\",\"capabilities\":[\"levitate\"]},{}]}");
            system.answers("inventory/people", "{\"people\":[{\"id\":\"p\",\"credentials\":[{}]}],\"more\":true}");
            system.answers("commands", "{\"result\":\"done\"}");
            assertThat(check(links(system.address()), null)).isEqualTo(1);
        }
        assertThat(said.toString())
                .contains("hello was answered all the same: whoever reaches the address can read everything")
                .contains("its field \"time\" is missing")
                .contains("a door without an id")
                .contains("passed over: levitate")
                .contains("so the list never ends")
                .contains("a badge of p without a number")
                .contains("a line cannot be understood: it is not JSON")
                .contains("they are Custodia’s own")
                .contains("event 21 has no time that can be")
                .contains("it answers \"done\"")
                .contains("What is not met is described in docs/link-protocol.md.")
                .doesNotContainPattern("(?i)exception|jackson|org\\.custodia");
    }

    @Test
    void whatever_a_console_would_not_read_is_named() throws InterruptedException {
        try (ScriptedSystem system = new ScriptedSystem("tidewater")) {
            system.hasEvents(1, 2, "door.opened");
            system.answers(
                    "inventory/places",
                    "{\"doors\":[{\"id\":\"vault\",\"readers\":[{\"id\":\"r\",\"side\":\"in\"}]}]}");
            system.answers(
                    "inventory/people",
                    "{\"people\":[{\"id\":\"p1\",\"stopped\":\"true\"},{\"id\":\"p2\",\"until\":\"2026-12-31\"},"
                            + "{\"id\":\"p3\",\"credentials\":[{\"number\":\"1\",\"from\":\"soon\"}]}]}");
            system.answers(
                    "inventory/rules",
                    "{\"levels\":[{\"id\":\"l\"}],\"timetables\":["
                            + "{\"id\":\"t1\",\"spans\":[{\"days\":[\"Mon\"]}]},"
                            + "{\"id\":\"t2\",\"spans\":[{\"days\":[\"MONDAY\"],\"from\":\"7:30\"}]},{\"id\":\"t3\"}],"
                            + "\"formats\":[{\"id\":\"f\",\"digits\":65}]}");
            assertThat(check(links(system.address()), null)).isEqualTo(1);
        }
        assertThat(said.toString())
                .contains("each record of the inventory can be read")
                .contains("a reader of tidewater/vault without an id or a side")
                .contains("p1", "stopped", "p2", "until", "p3", "from");
        assertThat(said.toString())
                .contains("the timetable t1", "the timetable t2", "the timetable t3")
                .doesNotContain("nothing is left out");
    }

    @Test
    void where_nothing_answers_that_is_all_that_is_said() throws InterruptedException {
        assertThat(check(links(URI.create("http://127.0.0.1:9/")), null)).isEqualTo(1);
        assertThat(said.toString())
                .contains("nothing answers at 127.0.0.1:9; is it running")
                .contains("1 not met");
        assertThatThrownBy(() -> check(links(URI.create("http://127.0.0.1:9/")), "vault"))
                .isInstanceOf(Main.CannotStartException.class);
    }
}
