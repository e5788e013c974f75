package org.custodia.core.access;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.time.DayOfWeek;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalTime;
import java.time.ZoneId;
import java.util.EnumSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.custodia.core.access.Explanation.Lack;
import org.custodia.core.access.Explanation.Outcome;
import org.custodia.core.door.DoorState;
import org.custodia.core.door.LockMode;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.Reasons;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorAsk;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.Side;
import org.custodia.core.site.Site;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.SystemId;
import org.junit.jupiter.api.Test;

class DecisionExplainerTest {
    private static final SystemId SYSTEM = new SystemId("tidewater");
    private static final DoorId DOOR = new DoorId("tidewater/vault");
    private static final PersonId TOVE = new PersonId("tidewater/p1");
    /** A Tuesday, 8:30 in Berlin. */
    private static final Instant AT = Instant.parse("2026-11-24T07:30:00Z");

    private static final DoorState LOCKED = state(LockMode.LOCKED, false);

    private OnFile<AccessRules> rules = OnFile.then(rules(List.of(new CardFormat("f", "Five", 5))));
    private Optional<Set<DoorAsk>> asks = Optional.of(Set.of());

    private static DoorState state(LockMode lock, boolean readerOff) {
        return new DoorState(
                DoorState.Position.CLOSED,
                Optional.empty(),
                lock,
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                readerOff);
    }

    private static AccessRules rules(List<CardFormat> formats) {
        Timetable table = new Timetable(
                "t",
                "Day",
                List.of(new Timetable.Span(EnumSet.allOf(DayOfWeek.class), LocalTime.of(8, 0), LocalTime.of(18, 0))));
        return new AccessRules(
                List.of(new Person(TOVE, "Tove", "", "", Optional.empty(), false, Optional.empty(), List.of("l"))),
                List.of(
                        badge("20001", Credential.Kind.CARD, TOVE),
                        badge("20001", Credential.Kind.PHONE, new PersonId("tidewater/p2")),
                        badge("20002", Credential.Kind.CARD, TOVE)),
                List.of(new AccessLevel("l", "Level", Map.of(DOOR, "t"))),
                List.of(table),
                List.of(),
                formats);
    }

    private static Credential badge(String number, Credential.Kind kind, PersonId person) {
        return new Credential(
                number, kind, person, Credential.Status.ACTIVE, Optional.empty(), Optional.empty(), Optional.empty());
    }

    private static Event.Builder event(Instant at) {
        return Event.of(new EventKey(SYSTEM, 1, 1), Kinds.GRANTED, at)
                .door(DOOR)
                .side(Side.ENTRY)
                .credential("20002")
                .detail("credential-kind", "card");
    }

    private static Event refused(Event.Builder event, String reason) {
        return event.kind(Kinds.REFUSED).reason(reason).build();
    }

    private Explanation explain(Event event, DoorState state) {
        Door door = new Door(
                DOOR,
                SYSTEM,
                new ControllerId("tidewater/c"),
                "Vault",
                new SiteId("s"),
                "0",
                "",
                "",
                Duration.ofSeconds(30),
                Set.of(),
                asks);
        SiteModel model = new SiteModel(
                List.of(new Site(new SiteId("s"), "S", ZoneId.of("Europe/Berlin"))),
                List.of(door),
                List.of(),
                List.of());
        return new DecisionExplainer((s, t, known) -> rules, () -> model).explain(event, state);
    }

    @Test
    void of_a_number_that_two_share_all_is_said_that_may_follow_for_each_and_no_more() {
        Event.Builder unknownKind = Event.of(new EventKey(SYSTEM, 1, 1), Kinds.GRANTED, AT)
                .door(DOOR)
                .side(Side.ENTRY)
                .credential("20001");
        Explanation stopped = explain(refused(unknownKind, Reasons.PERSON_STOPPED), LOCKED);
        assertThat(stopped.possible())
                .containsExactlyInAnyOrder(Outcome.GRANTED, Outcome.refused(Reasons.PERSON_STOPPED));
        assertThat(stopped.agrees()).isTrue();
        assertThat(stopped.lacks()).contains(Explanation.Lack.KIND);
        assertThat(explain(refused(unknownKind, Reasons.NO_LEVEL), LOCKED).agrees())
                .as("neither of the two lacks a level")
                .isFalse();
    }

    @Test
    void what_follows_from_what_is_on_file_is_said() {
        Explanation granted = explain(event(AT).build(), LOCKED);
        assertThat(granted.certain()).isTrue();
        assertThat(granted.agrees()).isTrue();
        assertThat(granted.nearest()).isEmpty();
        // By the clock of the controller and of the place: a second before eight there.
        Event early = refused(event(AT.minusSeconds(1_801)), Reasons.OUTSIDE_TIMETABLE);
        Explanation refused = explain(early, LOCKED);
        assertThat(refused.certain() && refused.agrees()).isTrue();
        assertThat(refused.nearest().orElseThrow().time().toInstant()).isEqualTo(AT.minusSeconds(1_800));
        assertThat(refused.decision().orElseThrow().levels()).hasSize(1);
        Event blocked = refused(event(AT), Reasons.DOOR_BLOCKED);
        assertThat(explain(blocked, state(LockMode.BLOCKED, false)).certain()).isTrue();
        assertThat(explain(blocked, LOCKED).agrees()).isFalse();
        assertThat(explain(refused(event(AT), Reasons.READER_OFF), state(LockMode.LOCKED, true))
                        .agrees())
                .isTrue();
        assertThatThrownBy(() -> explain(event(AT).kind(Kinds.OPENED).build(), LOCKED))
                .isInstanceOf(IllegalArgumentException.class);
    }

    @Test
    void what_is_lacking_is_named_and_what_may_follow_with_it() {
        asks = Optional.of(Set.of(DoorAsk.PIN));
        Explanation pin = explain(refused(event(AT), Reasons.WRONG_PIN), LOCKED);
        assertThat(pin.agrees()).isTrue();
        assertThat(pin.lacks()).containsExactly(Lack.PIN);
        assertThat(pin.possible()).contains(Outcome.GRANTED, Outcome.refused(Reasons.NO_PIN_SET));
        assertThat(explain(event(AT).side(Side.EXIT).build(), LOCKED).certain()).isTrue();
        assertThat(explain(event(AT).side(null).build(), LOCKED).lacks())
                .containsExactlyInAnyOrder(Lack.PIN, Lack.SIDE);
        asks = Optional.of(Set.of(DoorAsk.TWO_PERSONS, DoorAsk.ONCE_INSIDE));
        assertThat(explain(refused(event(AT), Reasons.SECOND_PERSON_MISSING), LOCKED)
                        .lacks())
                .containsExactlyInAnyOrder(Lack.SECOND_PERSON, Lack.INSIDE);
        assertThat(explain(refused(event(AT), Reasons.ALREADY_INSIDE), LOCKED).agrees())
                .isTrue();
        asks = Optional.empty();
        assertThat(explain(event(AT).build(), LOCKED).lacks()).contains(Lack.ASKS);
        asks = Optional.of(Set.of());
        assertThat(explain(refused(event(AT), Reasons.DOOR_BLOCKED), DoorState.UNKNOWN)
                        .lacks())
                .containsExactly(Lack.STATE);
        Explanation whose = explain(
                event(AT).credential("20001").detail("credential-kind", "ring").build(), LOCKED);
        assertThat(whose.lacks()).containsExactly(Lack.KIND);
        assertThat(whose.agrees()).isTrue();
        rules = OnFile.asReadLater(rules(List.of()));
        Explanation unknown = explain(refused(event(AT).credential("x"), Reasons.FORMAT_NOT_SET_UP), LOCKED);
        assertThat(unknown.agrees()).isTrue();
        assertThat(unknown.lacks()).containsExactlyInAnyOrder(Lack.FORMATS, Lack.RULES_OF_THEN);
    }

    @Test
    void where_nothing_can_be_said_that_is_said() {
        rules = OnFile.notKnownYet();
        assertThat(explain(event(AT).build(), LOCKED).lacks()).containsExactly(Lack.RULES);
        Event nowhere =
                event(AT).door(new DoorId("tidewater/attic")).credential(null).build();
        Explanation nothing = explain(nowhere, LOCKED);
        assertThat(nothing.lacks()).containsExactlyInAnyOrder(Lack.DOOR, Lack.NUMBER, Lack.RULES);
        assertThat(nothing.possible()).isEmpty();
        assertThat(nothing.agrees()).isFalse();
    }
}
