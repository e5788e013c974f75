package org.custodia.link;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.when;

import java.io.IOException;
import java.io.InputStream;
import java.nio.charset.StandardCharsets;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CopyOnWriteArrayList;
import org.custodia.core.Patience;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.EventLog;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.MemoryLog;
import org.custodia.core.footage.ClockBook;
import org.custodia.core.footage.Footage;
import org.custodia.core.link.LinkStatus.State;
import org.custodia.core.link.RecorderLink;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.Camera;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.SystemId;
import org.custodia.link.rig.ScriptedRecorder;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.mockito.ArgumentCaptor;
import org.mockito.Mockito;

/** A link against a recorder that answers as the test says, well or badly. */
class RecorderLinkTest {
    private static final SystemId RECORDER = new SystemId("quayside");
    private static final CameraId VAULT = new CameraId("quayside/vault");
    private static final String HELLO =
            "{\"protocol\":1,\"system\":\"quayside\",\"name\":\"Q\",\"make\":\"Practice recorder\"}";
    private static final String CAMERA =
            "{\"cameras\":[{\"id\":\"vault\",\"name\":\"Vault, outside\",\"site\":\"harbour\",\"width\":640,\"height\":360,\"keptFrom\":\"2026-11-03T14:20:00Z\",\"readyAfterMillis\":%d%s}]}";

    private final ScriptedRecorder site = new ScriptedRecorder();
    private final Map<String, String> answers = site.answers;
    private final Map<String, String> firstFrames = site.firstFrames;
    private final List<String> asked = site.asked;
    private final List<EventKind> logged = new CopyOnWriteArrayList<>();
    private final EventIntake intake = mock(EventIntake.class);
    private final Inventory inventory = mock(Inventory.class);
    private final ClockBook clocks = new ClockBook();
    private final Duration ahead = Duration.ofSeconds(90);

    private HttpRecorderLink link;

    @BeforeEach
    void serve() {
        site.ahead = ahead;
        answers.put("/hello", HELLO);
        answers.put("/cameras", String.format(CAMERA, 0, ""));
        when(intake.recordInOrder(any())).thenAnswer(call -> {
            Event event = ((Event.Builder) call.getArgument(0)).build();
            logged.add(event.kind());
            return CompletableFuture.completedFuture(event);
        });
    }

    private void connect() {
        link = new HttpRecorderLink(
                new LinkFactory.Destination(RECORDER, "Quayside", site.address(), "secret"),
                new Surroundings(
                        intake,
                        mock(EventLog.class),
                        clocks,
                        r -> {},
                        inventory,
                        reports -> reports,
                        Clock.systemUTC(),
                        TestPace.QUICK,
                        s -> {}));
    }

    private void up() {
        connect();
        Patience.await().until(() -> link.status().state() == State.UP);
    }

    @AfterEach
    void stop() {
        if (link != null) {
            link.close();
        }
        site.close();
    }

    private void saysProblem(String said) {
        connect();
        Patience.await().until(() -> link.status()
                .problem()
                .filter(p -> p.text().contains(said))
                .isPresent());
        link.close();
    }

    @Test
    void a_recorder_of_another_version_or_name_is_not_taken_for_ours() {
        answers.put("/hello", HELLO.replace("\"protocol\":1", "\"protocol\":7"));
        saysProblem("link.other-protocol n7");
        answers.put("/hello", HELLO.replace("quayside", "somebody"));
        saysProblem("link.other-system \"somebody\"");
        answers.put("/hello", "!401{}");
        saysProblem("link.token-refused");
    }

    @Test
    void cameras_and_the_clock_are_known_when_it_is_up() {
        up();
        assertThat(link.system()).isEqualTo(RECORDER);
        assertThat(clocks.ahead(RECORDER, Instant.now()).minus(ahead).abs()).isLessThan(Duration.ofSeconds(2));
        ArgumentCaptor<List<Camera>> cameras = ArgumentCaptor.captor();
        Mockito.verify(inventory).cameras(Mockito.eq(RECORDER), cameras.capture());
        assertThat(cameras.getValue()).singleElement().satisfies(c -> {
            assertThat(c.id()).isEqualTo(VAULT);
            assertThat(c.name()).isEqualTo("Vault, outside");
        });
        Instant kept = link.footage(VAULT).orElseThrow().keptFrom();
        assertThat(Duration.between(kept, Instant.parse("2026-11-03T14:20:00Z").minus(ahead))
                        .abs())
                .isLessThan(Duration.ofSeconds(2));
        assertThat(link.footage(new CameraId("quayside/none"))).isEmpty();
    }

    @Test
    void gaps_are_told_in_our_time_odd_ones_are_passed_over_and_what_rolls_is_noticed() {
        answers.put(
                "/cameras",
                String.format(
                        CAMERA,
                        0,
                        ",\"missing\":[{\"from\":\"2026-11-20T10:00:00Z\",\"to\":\"2026-11-20T10:20:00Z\"},"
                                + "{\"from\":\"2026-11-21T10:00:00Z\",\"to\":\"2026-11-20T10:00:00Z\"},"
                                + "{\"from\":\"yesterday\"},7,{}]"));
        up();
        Footage footage = link.footage(VAULT).orElseThrow();
        assertThat(footage.missing()).singleElement().satisfies(m -> {
            assertThat(Duration.between(
                                    m.from(),
                                    Instant.parse("2026-11-20T10:00:00Z").minus(ahead))
                            .abs())
                    .isLessThan(Duration.ofSeconds(2));
            assertThat(Duration.between(m.from(), m.to()).minusMinutes(20).abs())
                    .isLessThan(Duration.ofSeconds(1));
        });
        assertThat(footage.rolls()).isFalse();
        answers.put("/cameras", String.format(CAMERA, 0, "").replace("14:20:00Z", "14:20:04Z"));
        Patience.await().until(() -> link.footage(VAULT).orElseThrow().rolls());
        assertThat(link.footage(VAULT).orElseThrow().missing()).isEmpty();
    }

    @Test
    void what_is_asked_for_is_asked_in_the_recorders_time_and_what_comes_is_told_in_ours() throws IOException {
        up();
        Instant at = Instant.parse("2026-11-24T10:00:00Z");
        answers.put("/cameras/vault/still", "jpeg:320x180");
        firstFrames.put("/cameras/vault/still", "2026-11-24T10:01:29.900Z");
        RecorderLink.Still still = link.still(VAULT, at, 320);
        assertThat(still.jpeg()).isEqualTo(ScriptedRecorder.jpegHeader(320, 180));
        assertThat(Duration.between(still.at(), at).abs()).isLessThan(Duration.ofSeconds(2));
        String question =
                asked.stream().filter(a -> a.contains("/still?")).findFirst().orElseThrow();
        assertThat(question).contains("at=2026-11-24T10:01:").contains("width=320");
        answers.put("/cameras/vault/playback", "frames");
        firstFrames.put("/cameras/vault/playback", "2026-11-24T10:01:29.900Z");
        try (InputStream in = link.playback(VAULT, at, at.plusSeconds(10)).bytes()) {
            assertThat(new String(in.readAllBytes(), StandardCharsets.UTF_8)).isEqualTo("frames");
        }
    }

    @Test
    void a_refusal_keeps_the_recorders_own_words() {
        up();
        answers.put("/cameras/vault/still", "!409{\"problem\":\"overwritten; the oldest kept is newer\"}");
        assertThatThrownBy(() -> link.still(VAULT, Instant.now(), 320)).hasMessageContaining("overwritten");
        answers.put("/cameras/vault/live", "!409{\"problem\":\"the camera gives no picture\"}");
        assertThatThrownBy(() -> link.live(VAULT)).hasMessage("quoted \"the camera gives no picture\"");
    }

    @Test
    void pictures_that_do_not_say_when_they_are_of_are_not_shown() {
        up();
        answers.put("/cameras/vault/still", "jpeg:320x180");
        assertThatThrownBy(() -> link.still(VAULT, Instant.now(), 320)).hasMessage("picture.no-first-instant");
        answers.put("/cameras/vault/live", "frames");
        firstFrames.put("/cameras/vault/live", "half past two");
        assertThatThrownBy(() -> link.live(VAULT)).hasMessage("picture.no-first-instant");
    }

    @Test
    void a_still_of_unreasonable_size_is_not_read_to_its_end() {
        up();
        answers.put("/cameras/vault/still", "x".repeat(5 * 1024 * 1024));
        firstFrames.put("/cameras/vault/still", "2026-11-24T10:00:00Z");
        assertThatThrownBy(() -> link.still(VAULT, Instant.now(), 320)).hasMessageContaining("link.answer-too-long");
    }

    @Test
    void a_lost_recorder_is_logged_once_and_its_return_too() {
        up();
        answers.put("/cameras", "!503{\"problem\":\"being serviced\"}");
        // It is said for as long as the next try has not begun.
        Patience.await().until(() -> link.status().problem().equals(Optional.of(Saying.quoted("being serviced"))));
        Patience.await().until(() -> asked.stream().filter("/hello"::equals).count() >= 3);
        answers.put("/cameras", String.format(CAMERA, 0, ""));
        Patience.await().until(() -> link.status().state() == State.UP);
        assertThat(logged).containsExactly(Kinds.LINK_LOST, Kinds.LINK_BACK);
    }

    @Test
    void a_camera_that_is_lost_and_comes_back_is_logged() {
        up();
        answers.put("/cameras", String.format(CAMERA, 0, ",\"lostSince\":\"2026-11-24T14:10:00Z\""));
        Patience.await().until(() -> logged.contains(Kinds.CAMERA_LOST));
        assertThat(link.footage(VAULT).orElseThrow().lostSince()).isPresent();
        answers.put("/cameras", String.format(CAMERA, 40_000, ""));
        Patience.await().until(() -> logged.contains(Kinds.CAMERA_BACK));
        assertThat(link.footage(VAULT).orElseThrow().readyAfter()).isEqualTo(Duration.ofSeconds(40));
        assertThat(logged).containsExactly(Kinds.CAMERA_LOST, Kinds.CAMERA_BACK);
    }

    @Test
    void closing_ends_it() {
        up();
        link.close();
        assertThat(link.status().state()).isEqualTo(State.CLOSED);
    }

    private void connect(MemoryLog log) {
        link = new HttpRecorderLink(
                new LinkFactory.Destination(RECORDER, "Quayside", site.address(), "secret"),
                new Surroundings(
                        log,
                        log,
                        clocks,
                        r -> {},
                        inventory,
                        reports -> reports,
                        Clock.systemUTC(),
                        TestPace.QUICK,
                        s -> {}));
    }

    @Test
    void what_was_lost_in_an_earlier_run_is_back_in_this_one_and_never_lost_twice() {
        MemoryLog log = new MemoryLog();
        answers.put("/cameras", String.format(CAMERA, 0, ",\"lostSince\":\"2026-11-24T14:10:00Z\""));
        for (int run = 0; run < 2; run++) {
            connect(log);
            Patience.await()
                    .until(() ->
                            log.kinds().contains("camera.lost") && link.status().state() == State.UP);
            long before = asked.stream().filter("/cameras"::equals).count();
            Patience.await()
                    .until(() -> asked.stream().filter("/cameras"::equals).count() > before);
            link.close();
        }
        assertThat(log.kinds()).containsExactly("camera.lost");
        answers.put("/cameras", String.format(CAMERA, 0, ""));
        connect(log);
        Patience.await().until(() -> log.kinds().contains("camera.back"));
        assertThat(log.kinds()).containsExactly("camera.lost", "camera.back");
    }

    @Test
    void a_camera_that_cannot_be_read_costs_itself_and_absent_fields_have_defaults() throws IOException {
        MemoryLog log = new MemoryLog();
        answers.put(
                "/cameras",
                "{\"cameras\":[{\"id\":\"a b/ü\"},{\"name\":\"nobody\"},7,{\"id\":\"c\",\"keptFrom\":\"always\",\"readyAfterMillis\":-5}]}");
        connect(log);
        Patience.await().until(() -> link.footage(new CameraId("quayside/c")).isPresent());
        assertThat(link.footage(new CameraId("quayside/a b/ü")).orElseThrow().keptFrom())
                .isEqualTo(Instant.EPOCH);
        assertThat(link.footage(new CameraId("quayside/c")).orElseThrow().readyAfter())
                .isZero();
        Patience.await().until(() -> !link.status().notices().isEmpty());
        assertThat(log.unreadCount()).isEqualTo(1);
        answers.put("/cameras/a b/ü/still", "jpeg:320x180");
        firstFrames.put("/cameras/a b/ü/still", "2026-11-24T10:01:29.900Z");
        assertThat(link.still(new CameraId("quayside/a b/ü"), Instant.parse("2026-11-24T10:00:00Z"), 320)
                        .jpeg())
                .isNotEmpty();
        assertThat(asked).anyMatch(a -> a.startsWith("/cameras/a%20b%2F%C3%BC/still"));
        answers.put("/cameras", "{\"cameras\":7}");
        Patience.await().until(() -> link.status()
                .problem()
                .filter(p -> p.equals(Saying.of("link.answer-odd", "cameras", "cameras")))
                .isPresent());
    }

    @Test
    void a_still_that_would_fill_the_memory_is_refused() {
        up();
        answers.put("/cameras/vault/still", "jpeg:20000x20000");
        firstFrames.put("/cameras/vault/still", "2026-11-24T10:00:00Z");
        assertThatThrownBy(() -> link.still(VAULT, Instant.now(), 320)).hasMessage("picture.no-jpeg");
    }
}
