package org.custodia.app;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.stream.Collectors;
import org.custodia.core.command.CommandProgress;
import org.custodia.core.door.DoorCommand;
import org.custodia.core.door.LockMode;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Kinds;
import org.custodia.core.link.LinkStatus;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.SystemId;
import org.custodia.wire.WireEvent;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

class LinkToPracticeSiteTest {
    private static final DoorId VAULT_ANTE = new DoorId("tidewater/vault-ante");
    private static final DoorId ROOF = new DoorId("tidewater/roof-store");

    @TempDir
    Path directory;

    private Rig rig;

    @BeforeEach
    void start() {
        rig = new Rig(directory).withHub();
    }

    @AfterEach
    void stop() {
        rig.close();
    }

    private void sameOnBothSides(String system) {
        Rig.await().untilAsserted(() -> {
            List<WireEvent> sent = rig.sent(system);
            Map<Long, Event> stored = rig.stored(system).stream()
                    .collect(Collectors.toMap(e -> e.key().sequence(), e -> e));
            assertThat(stored).hasSize(sent.size());
            for (WireEvent w : sent) {
                assertThat(stored.get(w.seq()).kind().id()).isEqualTo(w.kind());
                assertThat(stored.get(w.seq()).deviceTime()).isEqualTo(w.time());
            }
        });
    }

    @Test
    void cut_at_random_moments_loses_no_event_and_stores_none_twice() {
        // A link that was never there cannot be cut.
        rig.connected();
        Random random = new Random(5);
        for (int cut = 0; cut < 6; cut++) {
            for (int i = 0; i < 12; i++) {
                rig.happen("{'act':'present','door':'staff-lobby','badge':'20153','outwards':" + (i % 2 == 1) + "}");
                if (i == random.nextInt(12)) {
                    rig.happen("{'act':'link-drop','target':'tidewater','seconds':" + random.nextDouble() * 1.5 + "}");
                }
            }
            rig.happen("{'act':'link-drop','target':'tidewater','seconds':0.2}");
        }
        sameOnBothSides("tidewater");
        assertThat(rig.stored("tidewater")).extracting(Event::key).doesNotHaveDuplicates();
        assertThat(rig.hub.log().find(EventQuery.all().kinds(Kinds.GAP, Kinds.CONFLICT)))
                .isEmpty();
        Rig.await().until(() -> !rig.hub
                .log()
                .find(EventQuery.all().kinds(Kinds.LINK_LOST))
                .isEmpty());
    }

    @Test
    void after_a_restart_it_resumes_where_the_log_stands() {
        rig.connected();
        rig.hub.close();
        rig.happen("{'act':'present','door':'vault-ante','badge':'20266'}");
        rig.withHub().connected();
        sameOnBothSides("tidewater");
        sameOnBothSides("larkspur");
    }

    @Test
    void what_a_controller_kept_while_it_was_out_of_reach_arrives_late_and_takes_its_place() {
        rig.connected();
        rig.happen("{'act':'controller-lost','target':'c6'}");
        Rig.await().until(() -> rig.hub.board().now(ROOF).outOfReachSince().isPresent());
        rig.happen("{'act':'present','door':'roof-store','badge':'20144'}");
        rig.happen("{'act':'present','door':'vault-ante','badge':'20266'}");
        Rig.await()
                .until(() -> rig
                        .hub
                        .log()
                        .find(EventQuery.all()
                                .kinds(Kinds.GRANTED)
                                .doors(java.util.Set.of(VAULT_ANTE))
                                .newest(1))
                        .stream()
                        .anyMatch(e -> e.credential().equals(Optional.of("20266"))));
        CommandProgress refused = rig.hub
                .doorDesk()
                .act(Rig.OPERATOR, ROOF, new DoorCommand.LetThrough(), Optional.empty())
                .join();
        assertThat(refused.stage()).isEqualTo(CommandProgress.Stage.FAILED);
        assertThat(refused.why().orElseThrow().code()).isEqualTo("command.out-of-reach");
        rig.happen("{'act':'controller-back','target':'c6'}");
        Rig.await().until(() -> rig.hub.board().now(ROOF).outOfReachSince().isEmpty());
        sameOnBothSides("tidewater");
        List<Event> atRoof = rig.hub
                .log()
                .find(EventQuery.all()
                        .doors(java.util.Set.of(ROOF))
                        .kinds(Kinds.GRANTED)
                        .newest(1));
        assertThat(atRoof).singleElement().satisfies(e -> assertThat(e.late()).isTrue());
    }

    @Test
    void a_command_changes_the_door_and_the_door_confirms_it() {
        rig.connected();
        CommandProgress through = rig.hub
                .doorDesk()
                .act(Rig.OPERATOR, VAULT_ANTE, new DoorCommand.LetThrough(), Optional.of("parcel"))
                .join();
        assertThat(through.stage()).isEqualTo(CommandProgress.Stage.CONFIRMED);
        var until = rig.clock.instant().plusSeconds(600);
        CommandProgress unlocked = rig.hub
                .doorDesk()
                .act(Rig.OPERATOR, VAULT_ANTE, new DoorCommand.LeaveUnlocked(Optional.of(until)), Optional.empty())
                .join();
        assertThat(unlocked.stage()).isEqualTo(CommandProgress.Stage.CONFIRMED);
        assertThat(rig.hub.board().now(VAULT_ANTE).lock()).isEqualTo(LockMode.UNLOCKED);
        assertThat(Duration.between(
                                until,
                                rig.hub.board().now(VAULT_ANTE).lockUntil().orElseThrow())
                        .abs())
                .isLessThan(Duration.ofMillis(500));
        rig.hub
                .doorDesk()
                .act(Rig.OPERATOR, VAULT_ANTE, new DoorCommand.BackToTimetable(), Optional.empty())
                .join();
        assertThat(rig.hub.board().now(VAULT_ANTE).lock()).isEqualTo(LockMode.LOCKED);
        assertThat(rig.hub.board().now(VAULT_ANTE).lockBy()).contains("timetable");
    }

    @Test
    void a_command_while_the_link_is_down_is_refused_and_says_so() {
        rig.connected();
        rig.happen("{'act':'link-drop','target':'tidewater','seconds':60}");
        Rig.await().until(() -> rig.link("tidewater").state() == LinkStatus.State.DOWN);
        assertThat(rig.link("tidewater").problem()).isPresent();
        CommandProgress end = rig.hub
                .doorDesk()
                .act(Rig.OPERATOR, VAULT_ANTE, new DoorCommand.LockNow(), Optional.empty())
                .join();
        assertThat(end.stage()).isEqualTo(CommandProgress.Stage.FAILED);
        assertThat(end.why().orElseThrow().code()).isIn("command.link-down", "command.out-of-reach");
    }

    @Test
    void messages_that_make_no_sense_are_kept_and_the_rest_goes_on() {
        rig.connected();
        rig.happen("{'act':'message','target':'tidewater','message':'{\\'epoch\\':1,'}".replace("\\'", "\\\""));
        rig.happen("{'act':'message','target':'tidewater','message':'[1,2,3]'}");
        rig.happen("{'act':'message','target':'tidewater','message':'" + "x".repeat(60_000) + "'}");
        rig.happen("{'act':'message','target':'tidewater','message':'{\\'epoch\\':1,\\'seq\\':\\'7\\',\\'kind\\':9}'}"
                .replace("\\'", "\\\""));
        Rig.await().until(() -> rig.hub.log().unreadCount() >= 4);
        rig.happen("{'act':'present','door':'vault-ante','badge':'20266'}");
        sameOnBothSides("tidewater");
    }

    @Test
    void kinds_doors_and_people_nobody_knows_are_stored_all_the_same() {
        rig.connected();
        long next = rig.system("tidewater").lastSeq() + 50_000;
        String strange = "{\"epoch\":1,\"seq\":" + next + ",\"time\":\"" + rig.clock.instant()
                + "\",\"kind\":\"valve.opened\",\"door\":\"nowhere\",\"person\":\"nobody\",\"credential\":\"1\"}";
        rig.happen("{'act':'message','target':'tidewater','message':'" + strange.replace("\"", "\\\"") + "'}");
        Rig.await().until(() -> rig.stored("tidewater").stream()
                .anyMatch(e -> e.kind().id().equals("valve.opened")));
        // The system does not say that it has come so far, so nothing is missing, and nothing that follows is hidden.
        rig.happen("{'act':'present','door':'vault-ante','badge':'20266'}");
        Rig.await()
                .until(() ->
                        rig.stored("tidewater").size() == rig.sent("tidewater").size() + 1);
        // The site goes on meanwhile.
        Rig.await()
                .until(() ->
                        rig.hub.intake().coverage(new SystemId("tidewater"), 1).settled()
                                == rig.system("tidewater").lastSeq());
        assertThat(rig.hub.log().find(EventQuery.all().kinds(Kinds.GAP))).isEmpty();
    }

    @Test
    void a_wrong_token_is_said_in_words_and_never_printed() throws IOException {
        rig.connected();
        rig.hub.close();
        Path wrong = directory.resolve("wrong.json");
        Files.writeString(wrong, Files.readString(rig.site.linksFile()).replace("rig-token", "some-other-token"));
        rig.hub = new Hub(directory.resolve("other"), LinksFiles.read(wrong), rig.clock, Rig.OPERATOR);
        Rig.await().until(() -> rig.link("tidewater").state() == LinkStatus.State.DOWN);
        assertThat(rig.link("tidewater").problem().orElseThrow().text())
                .contains("link.token-refused")
                .doesNotContain("some-other-token");
    }

    @Test
    void the_site_answers_bad_requests_with_a_sentence() throws IOException, InterruptedException {
        for (String path : List.of(
                "/recorder/quayside/cameras/nothing/live",
                "/recorder/quayside/cameras/vault-outside/playback?from=yesterday&to=now",
                "/recorder/quayside/cameras/vault-outside/still?at=2020-01-01T00:00:00Z&width=x",
                "/recorder/quayside/cameras/vault-outside/still?at=2020-01-01T00:00:00Z",
                "/access/tidewater/events?after=x",
                "/access/tidewater/people/p999/photo")) {
            HttpResponse<String> answer = HttpClient.newHttpClient()
                    .send(
                            HttpRequest.newBuilder(URI.create(rig.site.address() + path))
                                    .header("Authorization", "Bearer rig-token")
                                    .build(),
                            HttpResponse.BodyHandlers.ofString());
            assertThat(answer.statusCode()).as(path).isBetween(400, 499);
            assertThat(answer.body()).as(path).contains("\"problem\"");
        }
        assertThat(rig.happen("{'act':'present','door':'no-such-door','badge':'1'}"))
                .isEqualTo(400);
        assertThat(rig.happen("nonsense")).isEqualTo(400);
    }

    @Test
    void links_files_that_cannot_be_used_are_said_in_words() throws IOException {
        assertThatThrownBy(() -> LinksFiles.read(directory.resolve("none.json")))
                .hasMessageContaining("There is no links file");
        Path broken = Files.writeString(directory.resolve("broken.json"), "{\"links\": [");
        assertThatThrownBy(() -> LinksFiles.read(broken)).hasMessageContaining("cannot be understood");
    }
}
