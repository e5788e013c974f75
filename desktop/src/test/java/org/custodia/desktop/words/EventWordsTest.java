package org.custodia.desktop.words;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.ArgumentMatchers.eq;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.when;

import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.custodia.core.access.Credential;
import org.custodia.core.access.OnFile;
import org.custodia.core.access.Person;
import org.custodia.core.access.PersonRegister;
import org.custodia.core.door.GrantOutcome;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.Reasons;
import org.custodia.core.site.Camera;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.Side;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.SystemId;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

class EventWordsTest {
    private static final Instant T = Instant.parse("2026-11-24T14:31:12.400Z");
    private static final DoorId VAULT = new DoorId("tidewater/vault");
    private static final PersonId TOVE = new PersonId("tidewater/p5");
    private static final Door DOOR = new Door(
            VAULT,
            new SystemId("tidewater"),
            new ControllerId("tidewater/c5"),
            "Vault",
            new SiteId("harbour"),
            "0",
            "A",
            "B",
            Duration.ofSeconds(60),
            Set.of());
    private static final CameraId OUTSIDE = new CameraId("quayside/vault-outside");

    private final PersonRegister people = mock(PersonRegister.class);
    private final SiteModel sites = new SiteModel(
            List.of(),
            List.of(DOOR),
            List.of(new Camera(OUTSIDE, new SystemId("quayside"), "Vault outside", new SiteId("harbour"))),
            List.of());
    private final EventWords words = new EventWords(people, () -> sites);

    @BeforeEach
    void people() {
        Person tove = new Person(
                TOVE, "Tove Ingleholm", "Sternwick Museum", "staff", Optional.empty(), false, Optional.of("1"));
        when(people.person(any(), any())).thenReturn(OnFile.notThen());
        when(people.person(eq(TOVE), any())).thenReturn(OnFile.then(tove));
        when(people.credential(any(), any(), any(), any())).thenReturn(OnFile.notThen());
        when(people.credential(any(), eq("20266"), any(), any()))
                .thenReturn(OnFile.then(new Credential(
                        "20266",
                        Credential.Kind.CARD,
                        TOVE,
                        Credential.Status.ACTIVE,
                        Optional.empty(),
                        Optional.empty(),
                        Optional.empty())));
    }

    private static Event.Builder event(EventKind kind) {
        return Event.of(new EventKey(new SystemId("tidewater"), 1, 1), kind, T).door(VAULT);
    }

    @Test
    void a_person_is_known_by_the_system_or_by_the_badge() {
        assertThat(words.who(event(Kinds.GRANTED).person(TOVE).build())).isEqualTo("T. Ingleholm");
        assertThat(words.subject(event(Kinds.GRANTED).credential("20266").build()))
                .isEqualTo("Tove Ingleholm");
        assertThat(words.who(event(Kinds.REFUSED).credential("77120").build())).isEqualTo("badge 77120");
        assertThat(words.subject(event(Kinds.REFUSED).credential("77120").build()))
                .isEqualTo("Badge 77120");
        assertThat(words.who(event(Kinds.GRANTED)
                        .detail("credential-kind", "door-code")
                        .build()))
                .isEqualTo("door code");
        assertThat(words.who(event(Kinds.FORCED).build())).isEqualTo("no badge");
        assertThat(words.subject(event(Kinds.FORCED).build())).isEqualTo("Vault");
        assertThat(words.who(event(Kinds.EXIT_REQUESTED).build())).isEqualTo("exit button");
        assertThat(words.who(event(new EventKind("valve.opened")).build())).isEqualTo("valve.opened");
    }

    @Test
    void a_result_says_what_became_of_it() {
        Event in = event(Kinds.GRANTED).side(Side.ENTRY).build();
        assertThat(words.result(in, null)).isEqualTo("in");
        assertThat(words.result(in, GrantOutcome.WENT_THROUGH)).isEqualTo("in");
        assertThat(words.result(in, GrantOutcome.NOBODY_ENTERED)).isEqualTo("nobody entered");
        assertThat(words.result(in, GrantOutcome.CANNOT_TELL)).isEqualTo("cannot tell");
        assertThat(words.result(event(Kinds.GRANTED).side(Side.EXIT).build(), null))
                .isEqualTo("out");
        assertThat(words.result(event(Kinds.GRANTED).build(), null)).isEqualTo("granted");
        Event refused = event(Kinds.REFUSED).reason(Reasons.WRONG_PIN).build();
        assertThat(words.result(refused, null)).isEqualTo("refused, wrong PIN");
        assertThat(words.why(refused)).contains("Wrong PIN");
        assertThat(words.why(event(Kinds.REFUSED)
                        .detail("explanation", "Level X is off.")
                        .build()))
                .contains("“Level X is off.”");
        assertThat(words.result(
                        event(Kinds.COMMAND_FAILED)
                                .detail("command", "lock")
                                .detail("said", "command.refused (quoted \"jammed\")")
                                .build(),
                        null))
                .isEqualTo("Lock now, the system refused: “jammed”");
    }

    @Test
    void a_place_is_a_door_a_camera_a_controller_or_a_system() {
        EventKey key = new EventKey(new SystemId("custodia"), 1, 1);
        assertThat(words.place(event(Kinds.GRANTED).build())).isEqualTo("Vault");
        assertThat(words.place(Event.of(key, Kinds.CAMERA_LOST, T)
                        .detail("camera", OUTSIDE.value())
                        .build()))
                .isEqualTo("Vault outside");
        assertThat(words.place(Event.of(key, Kinds.CONTROLLER_LOST, T)
                        .controller(new ControllerId("tidewater/c5"))
                        .build()))
                .isEqualTo("controller tidewater/c5");
        assertThat(words.place(Event.of(key, Kinds.LINK_LOST, T)
                        .detail("system", "tidewater")
                        .build()))
                .isEqualTo("tidewater");
        assertThat(words.place(Event.of(key, Kinds.NOTE, T).build())).isEmpty();
    }

    @Test
    void times_are_lettered_in_the_zone() {
        ZoneId azores = ZoneId.of("Atlantic/Azores");
        assertThat(ClockWords.clock(T, azores)).isEqualTo("13:31:12");
        assertThat(ClockWords.exact(T, azores)).isEqualTo("13:31:12.4");
    }

    @Test
    void a_lost_link_says_what_happened_to_it() {
        Event lost =
                event(Kinds.LINK_LOST).reason("nothing answers at 127.0.0.1:9").build();
        assertThat(words.subject(lost)).isEqualTo("Link lost");
        assertThat(words.result(lost, null)).isEqualTo("nothing answers at 127.0.0.1:9");
    }

    private static Event numbers(org.custodia.core.event.EventKind kind, String from, String to, String reason) {
        return Event.of(new EventKey(new SystemId("custodia"), 1, 1), kind, java.time.Instant.EPOCH)
                .detail("system", "tidewater")
                .detail("from", from)
                .detail("to", to)
                .reason(reason)
                .build();
    }

    @Test
    void what_is_missing_of_a_system_is_said_in_numbers() {
        EventWords some = new EventWords(
                mock(org.custodia.core.access.PersonRegister.class), () -> org.custodia.core.site.SiteModel.EMPTY);
        assertThat(some.result(numbers(Kinds.GAP, "10", "14", "not-delivered"), null))
                .isEqualTo("events 10 to 14 not delivered");
        assertThat(some.result(numbers(Kinds.GAP, "1", "1", "not-kept"), null)).isEqualTo("event 1 no longer kept");
        assertThat(some.result(numbers(Kinds.GAP_CLOSED, "10", "14", null), null))
                .isEqualTo("events 10 to 14 came after all");
        assertThat(some.result(numbers(Kinds.COUNTS_AGAIN, "5", "10", null), null))
                .isEqualTo("counts again from event 5, after 10");
        assertThat(some.place(numbers(Kinds.GAP, "10", "14", null))).isEqualTo("tidewater");
    }
}
