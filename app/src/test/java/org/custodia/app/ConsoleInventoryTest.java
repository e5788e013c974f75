package org.custodia.app;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.function.Predicate;
import java.util.stream.IntStream;
import javafx.scene.Node;
import javafx.scene.control.Button;
import javafx.scene.control.ComboBox;
import javafx.scene.control.Label;
import javafx.scene.control.ListView;
import javafx.scene.control.MenuButton;
import javafx.scene.control.TextField;
import javafx.scene.control.ToggleButton;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventIntake.Unread;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Kinds;
import org.custodia.core.saying.Saying;
import org.custodia.core.setup.Found;
import org.custodia.core.setup.TranslationDesk;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.SystemId;
import org.custodia.desktop.watch.StripModel;
import org.custodia.desktop.watch.WatchView;
import org.junit.jupiter.api.Test;

/** In the window: putting in its place what systems have, saying what they mean, and taking it back. */
class ConsoleInventoryTest extends ConsoleFixture {
    private static final DoorId VAULT = new DoorId("tidewater/vault-ante");
    private static final DoorId LOBBY = new DoorId("tidewater/staff-lobby");

    private Optional<ListView<?>> shown(String named) {
        return all(".list-view").stream()
                .filter(n -> named.equals(n.getAccessibleText()) && visible(n))
                .<ListView<?>>map(n -> (ListView<?>) n)
                .findFirst();
    }

    private ListView<?> list(String named) {
        return fx(() -> shown(named).orElseThrow());
    }

    private static boolean visible(Node node) {
        return node == null || node.isVisible() && visible(node.getParent());
    }

    private boolean choose(String list, Predicate<Object> which) {
        return fx(() -> {
            Optional<ListView<?>> there = shown(list);
            if (there.isEmpty()) {
                return false;
            }
            ListView<?> view = there.get();
            int[] fitting = IntStream.range(0, view.getItems().size())
                    .filter(i -> which.test(view.getItems().get(i)))
                    .toArray();
            view.getSelectionModel().clearSelection();
            for (int i : fitting) {
                view.getSelectionModel().select(i);
            }
            return fitting.length > 0;
        });
    }

    private void chooseThings(String... names) {
        List<String> wanted = List.of(names);
        Rig.await()
                .until(() -> choose(
                        "what systems have",
                        f -> wanted.contains(((Found) f).said().name())));
    }

    private Optional<Button> button(String begins) {
        return fx(() -> all(".button").stream()
                .filter(Button.class::isInstance)
                .map(Button.class::cast)
                .filter(b -> visible(b) && b.getText() != null && b.getText().startsWith(begins))
                .findFirst());
    }

    private boolean offers(String begins) {
        return fx(() -> button(begins).filter(b -> !b.isDisabled()).isPresent());
    }

    private void fire(String begins) {
        Rig.await().until(() -> offers(begins));
        fx(() -> {
            button(begins).orElseThrow().fire();
            return null;
        });
    }

    private boolean noted(String text) {
        return fx(() -> window.shell().desk().notices().shown().stream()
                .anyMatch(n -> n.words().contains(text)));
    }

    private void show(String begins) {
        Rig.await()
                .until(() -> fx(() -> all(".toggle-button").stream()
                        .anyMatch(
                                n -> visible(n) && ((ToggleButton) n).getText().startsWith(begins))));
        fx(() -> {
            all(".toggle-button").stream()
                    .map(ToggleButton.class::cast)
                    .filter(b -> visible(b) && b.getText().startsWith(begins))
                    .findFirst()
                    .orElseThrow()
                    .fire();
            return null;
        });
    }

    @SuppressWarnings("unchecked")
    private Optional<ComboBox<Object>> combo(String named) {
        return all(".combo-box").stream()
                .filter(n -> named.equals(n.getAccessibleText()) && visible(n))
                .map(n -> (ComboBox<Object>) n)
                .findFirst();
    }

    /** Chooses in a box, as soon as it offers that. */
    private void chooseIn(String combo, String words) {
        Rig.await()
                .until(() -> fx(() -> combo(combo)
                        .flatMap(box -> box.getItems().stream()
                                .filter(i -> i.toString().contains(words))
                                .findFirst()
                                .map(item -> {
                                    box.setValue(item);
                                    return true;
                                }))
                        .orElse(false)));
    }

    private List<String> onWatch() {
        return fx(() -> window.shell().view(WatchView.class).model().strips().stream()
                .map(StripModel::door)
                .map(Door::name)
                .toList());
    }

    /** Who came, which the window has beside every view that is not in sight too. */
    private ListView<?> arrivals() {
        return fx(() -> (ListView<?>) window.shell()
                .view(WatchView.class)
                .node()
                .lookupAll(".arrivals .list-view")
                .iterator()
                .next());
    }

    private boolean lists(String list, String text) {
        return fx(() -> list(list).lookupAll(".label").stream()
                .anyMatch(n -> n instanceof Label l && visible(l) && l.getText().contains(text)));
    }

    @Test
    void a_door_is_called_otherwise_here_and_again_as_its_system_calls_it() {
        setup("Inventory");
        type("Find: a name, a kind, a site, a system, a controller", "staff lobby door");
        Rig.await().until(() -> fx(() -> list("what systems have").getItems().size()) >= 1);
        chooseThings("Staff lobby");
        assertThat(offers("Save")).isFalse();
        type("Name here", "Porter's lodge");
        type("Zone behind it", "Lodge");
        fire("Save");
        Rig.await().until(() -> onWatch().contains("Porter's lodge"));
        assertThat(rig.hub.sites().get().door(LOBBY).orElseThrow().inside()).isEqualTo("Lodge");
        Rig.await().until(() -> lists("what systems have", "called “Staff lobby” there"));
        // What it was called then, it is called where one looks back.
        assertThat(rig.hub
                        .sites()
                        .at(rig.clock.instant().minusSeconds(3_600))
                        .door(LOBBY)
                        .map(Door::name))
                .contains("Staff lobby");
        setup("Changes");
        Rig.await().until(() -> lists("what was set up", "Porter's lodge: placed here"));
        assertThat(lists("what was set up", "as its system says → Porter's lodge"))
                .isTrue();
        fire("Take back");
        Rig.await().until(() -> onWatch().contains("Staff lobby"));
        Rig.await().until(() -> lists("what was set up", "changed again since"));
        assertThat(rig.hub.log().find(EventQuery.all().kinds(Kinds.SET_UP)))
                .extracting(e -> e.detail("change").orElseThrow())
                .as("what the page had marked as looked at stands between them")
                .contains("renamed", "taken-back")
                .isSubsetOf("renamed", "reviewed", "taken-back");
    }

    @Test
    void what_is_left_out_is_off_the_watch_until_it_is_taken_in() {
        setup("Inventory");
        chooseThings("Staff lobby", "Loading bay");
        Rig.await().until(() -> shows(".placing .large", "2 chosen"));
        fire("Leave out");
        Rig.await().until(() -> onWatch().size() == 1);
        show("Left out 2");
        Rig.await().until(() -> fx(() -> list("what systems have").getItems().size()) == 2);
        // What goes on there is kept all the same, and not shown.
        long before = rig.hub.log().count(EventQuery.all().doors(Set.of(LOBBY)));
        present("staff-lobby", "20153");
        Rig.await().until(() -> rig.hub.log().count(EventQuery.all().doors(Set.of(LOBBY))) > before);
        ListView<?> arrivals = arrivals();
        present("vault-ante", "20388");
        Rig.await()
                .until(() -> fx(() -> arrivals.getItems().stream()
                        .anyMatch(e -> ((Event) e).door().filter(VAULT::equals).isPresent())));
        assertThat(fx(() -> arrivals.getItems().stream()
                        .anyMatch(e -> ((Event) e).door().filter(LOBBY::equals).isPresent())))
                .isFalse();
        chooseThings("Staff lobby", "Loading bay");
        fire("Take in");
        Rig.await()
                .until(() -> fx(() -> arrivals.getItems().stream()
                        .anyMatch(e -> ((Event) e).door().filter(LOBBY::equals).isPresent())));
        Rig.await().until(() -> rig.hub.sites().get().door(LOBBY).isPresent());
        Rig.await().until(() -> fx(() -> list("what systems have").getItems().isEmpty()));
    }

    @Test
    void what_is_new_is_marked_until_it_has_been_seen() {
        setup("Inventory");
        Rig.await()
                .until(() -> fx(() -> all(".toggle-button").stream()
                        .anyMatch(
                                n -> visible(n) && ((ToggleButton) n).getText().matches("New \\d{2,}"))));
        fire("Mark ");
        Rig.await().until(() -> fx(() -> button("Nothing new").isPresent()));
        show("New 0");
        Rig.await().until(() -> shows(".empty", "Nothing here fits"));
        show("All");
        // A call station is found by what it is, with the door it belongs to.
        type("Find: a name, a kind, a site, a system, a controller", "call station");
        Rig.await().until(() -> fx(() -> list("what systems have").getItems().size()) == 2);
        assertThat(lists("what systems have", "at Quay entrance")).isTrue();
    }

    @Test
    void several_move_to_a_site_that_is_made_here() {
        setup("Inventory");
        chooseThings("Staff lobby", "Loading bay", "Vault ante-room");
        chooseIn("Site", "A new site");
        type("Name of the site", "Old Custom House");
        type("Time zone, like Europe/London", "Moon/Base");
        fire("Add");
        Rig.await().until(() -> shows(".placing .caution", "“Moon/Base” is no time zone"));
        type("Time zone, like Europe/London", "Europe/London");
        // There is another button of that name, for neighbours, where one door is chosen.
        fire("Add");
        Rig.await().until(() -> offers("Save"));
        fire("Save");
        Rig.await().until(() -> rig.hub
                .sites()
                .get()
                .siteOf(LOBBY)
                .filter(s -> s.name().equals("Old Custom House"))
                .isPresent());
        type("Find: a name, a kind, a site, a system, a controller", "old custom");
        Rig.await().until(() -> fx(() -> list("what systems have").getItems().size()) == 3);
    }

    @Test
    void neighbours_are_said_by_hand_and_proposed_from_history() {
        setup("Inventory");
        chooseThings("Staff lobby");
        Rig.await().until(() -> shows(".neighbours .muted", "None said so far"));
        fire("Add");
        Rig.await().until(() -> shows(".neighbours .caution", "Choose the door"));
        chooseIn("A door", "name=North stair");
        type("how many seconds the walk takes", "soon");
        fire("Add");
        Rig.await().until(() -> shows(".neighbours .caution", "how many seconds"));
        type("how many seconds the walk takes", "25");
        fire("Add");
        Rig.await().until(() -> shows(".neighbours .label", "North stair: 25 s"));
        assertThat(rig.hub.sites().get().walks(LOBBY)).hasSize(1);
        fire("Neighbours from history");
        Rig.await()
                .until(() -> fx(() -> all(".notice .button").stream()
                        .anyMatch(n -> n instanceof Button b && b.getText().equals("Look at them"))));
        fire("Look at them");
        Rig.await().until(() -> shows(".import-preview .large", "that people take one after the other"));
        fire("Keep");
        Rig.await().until(() -> rig.hub.sites().get().walks().size() > 10);
        // What was said by hand is not proposed otherwise.
        assertThat(rig.hub.sites().get().walks(LOBBY)).anyMatch(w -> w.takes().equals(Duration.ofSeconds(25)));
    }

    @Test
    void what_a_system_sends_means_something_else_for_the_past_too_and_again_what_it_did() {
        present("staff-lobby", "99999");
        Rig.await().until(() -> rig.hub.log().count(EventQuery.all().kinds(Kinds.REFUSED)) > 0);
        long refused = rig.hub.log().count(EventQuery.all().kinds(Kinds.REFUSED).system(new SystemId("tidewater")));
        setup("Meanings");
        chooseIn("the system whose words are shown", "tidewater");
        Rig.await()
                .until(() -> choose(
                        "what the system sent",
                        r -> ((TranslationDesk.Row) r).sent().kind().equals("access.refused")));
        Rig.await().until(() -> shows(".placing .large", "access.refused"));
        Rig.await().until(() -> shows(".placing .ink", "Staff lobby"));
        assertThat(offers("Save")).isFalse();
        chooseIn("What it means here", "A kind of your own");
        type("words joined by dots, like gate.barrier-up", "log.gap");
        fire("Save");
        Rig.await().until(() -> noted("only Custodia itself writes"));
        type("words joined by dots, like gate.barrier-up", "gate.turned-away");
        fire("Save");
        Rig.await().until(() -> rig.hub.log().count(EventQuery.all().kinds(Kinds.of("gate.turned-away"))) == refused);
        Rig.await().until(() -> lists("what the system sent", "gate.turned-away: not known here"));
        show("Not known here 1");
        Rig.await()
                .until(() -> shows(".arrivals .label", "gate.turned-away")
                        || !all(".placing").isEmpty());
        MenuButton versions = fx(() -> all(".menu-button").stream()
                .filter(n ->
                        visible(n) && n instanceof MenuButton m && m.getText().equals("Version 1"))
                .map(MenuButton.class::cast)
                .findFirst()
                .orElseThrow());
        fx(() -> {
            versions.getItems().get(versions.getItems().size() - 1).fire();
            return null;
        });
        Rig.await().until(() -> rig.hub.log().count(EventQuery.all().kinds(Kinds.of("gate.turned-away"))) == 0);
        Rig.await().until(() -> fx(() -> versions.getText().equals("Version 2")));
        // A system's own word for how a lock stands means one of ours.
        show("All");
        Rig.await()
                .until(() -> choose(
                        "what the system sent",
                        r -> ((TranslationDesk.Row) r).sent().kind().equals("access.refused")));
        chooseIn("What it means here", ": unlocked");
        fire("Save");
        Rig.await().until(() -> rig.hub.intake().translation(new SystemId("tidewater")).rules().stream()
                .anyMatch(r -> r.kind().equals(Kinds.MODE) && r.reason().equals(Optional.of("unlocked"))));
    }

    @Test
    void messages_that_nobody_understands_are_counted_with_their_link_and_can_be_read() {
        rig.hub
                .intake()
                .keepUnread(Unread.of(
                        new SystemId("tidewater"), rig.clock.instant(), "{\"kind\":", Saying.of("unread.no-kind")))
                .join();
        setup("Links");
        Rig.await().until(() -> shows(".link-sends .caution", "1 message not understood"));
        setup("Meanings");
        chooseIn("the system whose words are shown", "tidewater");
        fire("1 message not understood");
        Rig.await().until(() -> shows(".import-preview .secondary", "{\"kind\":"));
        fire("Back to the list");
        Rig.await().until(() -> fx(() -> visible(list("what the system sent"))));
    }

    @Test
    void a_panic_button_is_shown_by_a_camera_and_that_is_tried_by_tripping_it() {
        setup("Inventory");
        type("Find: a name, a kind, a site, a system, a controller", "panic reading");
        chooseThings("Panic button, reading room desk");
        chooseIn("A camera", "Reading room outside");
        fire("Add");
        Rig.await().until(() -> shows(".neighbours .caution", "never tried"));
        fire("Try it");
        Rig.await().until(() -> shows(".trial .label", "Trip “Panic button, reading room desk” now"));
        // One that is not meant is told, and does not count.
        rig.happen("{'act':'trip','target':'panic-shop','seconds':1}");
        rig.happen("{'act':'trip','target':'panic-reading','seconds':1}");
        Rig.await().until(() -> shows(".trial .label", "at Panic button, reading room desk"));
        fire("Yes, both");
        Rig.await().until(() -> shows(".neighbours .muted", "tried by I. Vantongeren: right"));
        assertThat(rig.hub.log().find(EventQuery.all().kinds(Kinds.TRIED))).hasSize(1);
        // The camera says the same from its side, and may show a hall as well.
        type("Find: a name, a kind, a site, a system, a controller", "reading room outside");
        chooseThings("Reading room outside");
        Rig.await().until(() -> shows(".neighbours .ink", "Panic button, reading room desk"));
        chooseIn("A device or a zone", "zone Reading room");
        fire("Add");
        Rig.await().until(() -> shows(".neighbours .ink", "zone Reading room"));
        assertThat(rig.hub.sites().get().lookouts()).hasSize(2);
    }

    @Test
    void a_clock_that_can_be_set_is_set_and_it_is_said_where_each_takes_the_time_from() {
        SystemId quayside = new SystemId("quayside");
        Rig.await()
                .until(() ->
                        rig.hub.clocks().ahead(quayside, rig.clock.instant()).toMillis() > 600);
        setup("Clocks");
        Rig.await().until(() -> shows(".clock-row .secondary", "takes it from: set by hand"));
        Rig.await().until(() -> shows(".clock-row .secondary", "does not say where it takes it from"));
        Rig.await()
                .until(() -> fx(() -> all(".clock-row .button").stream()
                        .anyMatch(n ->
                                visible(n) && "set the clock of Quayside recorder now".equals(n.getAccessibleText()))));
        assertThat(fx(() -> all(".clock-row .button").stream()
                        .filter(n -> visible(n) && n.getAccessibleText().startsWith("set the clock of"))
                        .count()))
                .isEqualTo(2);
        fx(() -> {
            all(".clock-row .button").stream()
                    .filter(n -> "set the clock of Quayside recorder now".equals(n.getAccessibleText()))
                    .forEach(n -> ((Button) n).fire());
            return null;
        });
        Rig.await()
                .until(() -> Math.abs(rig.hub
                                .clocks()
                                .ahead(quayside, rig.clock.instant())
                                .toMillis())
                        < 300);
        assertThat(rig.hub.log().find(EventQuery.all().kinds(Kinds.SET_UP)))
                .extracting(e -> e.detail("change").orElseThrow())
                .containsExactly("clock-set");
    }

    @Test
    void what_is_typed_stays_while_systems_tell_news() {
        setup("Inventory");
        chooseThings("Staff lobby");
        type("Name here", "Half a na");
        List<Door> doors = List.copyOf(rig.hub.sites().get().doors());
        rig.hub
                .sites()
                .places(
                        new SystemId("larkspur"),
                        rig.hub.sites().get().sites(),
                        doors.stream()
                                .filter(d -> d.system().value().equals("larkspur"))
                                .skip(1)
                                .toList(),
                        List.of(),
                        List.of());
        Rig.await()
                .until(() -> fx(() -> all(".toggle-button").stream()
                        .anyMatch(
                                n -> visible(n) && ((ToggleButton) n).getText().startsWith("All"))));
        Rig.await().until(() -> rig.hub.sites().get().doors().size() == doors.size() - 1);
        assertThat(fx(() -> all(".text-field").stream()
                        .filter(n -> "Name here".equals(n.getAccessibleText()))
                        .map(n -> ((TextField) n).getText())
                        .findFirst()))
                .isEqualTo(Optional.of("Half a na"));
    }
}
