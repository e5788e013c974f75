package org.custodia.core.access;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.DayOfWeek;
import java.time.Instant;
import java.time.LocalTime;
import java.time.ZoneId;
import java.time.ZonedDateTime;
import java.util.EnumSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.custodia.core.access.AccessRules.DoorRules;
import org.custodia.core.access.AccessRules.Request;
import org.custodia.core.access.Credential.Kind;
import org.custodia.core.access.Credential.Status;
import org.custodia.core.access.Decision.Result;
import org.custodia.core.event.Reasons;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;
import org.junit.jupiter.api.Test;

class AccessRulesTest {
    private static final ZonedDateTime NOON = ZonedDateTime.of(2026, 11, 24, 12, 0, 0, 0, ZoneId.of("Europe/London"));
    private static final DoorId DOOR = new DoorId("vault");
    private static final PersonId TOVE = new PersonId("p1");
    private static final PersonId ODO = new PersonId("p2");
    private static final PersonId STOPPED = new PersonId("p3");
    private static final Timetable DAY = new Timetable(
            "day",
            "Working day",
            List.of(new Timetable.Span(
                    EnumSet.range(DayOfWeek.MONDAY, DayOfWeek.FRIDAY), LocalTime.of(8, 0), LocalTime.of(18, 0))));

    private final AccessRules rules = new AccessRules(
            List.of(person(TOVE, false), person(ODO, false), person(STOPPED, true)),
            List.of(
                    card("20001", TOVE, Status.ACTIVE, null, null),
                    card("20002", TOVE, Status.SUSPENDED, null, null),
                    card("20003", TOVE, Status.LOST, null, null),
                    card("20004", TOVE, Status.ACTIVE, null, NOON.minusDays(1).toInstant()),
                    card("20005", TOVE, Status.ACTIVE, NOON.plusDays(1).toInstant(), null),
                    card("20008", TOVE, Status.RETURNED, null, null),
                    card("20006", STOPPED, Status.ACTIVE, null, null),
                    card("20007", ODO, Status.ACTIVE, null, null)),
            Map.of(TOVE, List.of(new AccessLevel("l", "Vault", Map.of(DOOR, "day")))),
            List.of(DAY));

    private static Person person(PersonId id, boolean stopped) {
        return new Person(id, "Somebody Else", "Museum", "staff", Optional.empty(), stopped, Optional.empty());
    }

    private static Credential card(String number, PersonId person, Status status, Instant from, Instant until) {
        return new Credential(
                number,
                Kind.CARD,
                person,
                status,
                Optional.ofNullable(from),
                Optional.ofNullable(until),
                Optional.of("1234"));
    }

    private Decision decide(String number, ZonedDateTime at, DoorRules door, String pin) {
        return rules.decide(new Request(DOOR, number, Optional.ofNullable(pin), at, door));
    }

    private void refused(String reason, String number, ZonedDateTime at, DoorRules door, String pin) {
        Decision d = decide(number, at, door, pin);
        assertThat(d.result()).isEqualTo(Result.REFUSED);
        assertThat(d.reason()).contains(reason);
        assertThat(d.explanation()).endsWith(".");
    }

    @Test
    void each_refusal_has_its_reason() {
        DoorRules plain = DoorRules.PLAIN;
        assertThat(decide("20001", NOON, plain, null).result()).isEqualTo(Result.GRANTED);
        refused(Reasons.UNKNOWN_CREDENTIAL, "77120", NOON, plain, null);
        refused(Reasons.FORMAT_NOT_SET_UP, "004F-91", NOON, plain, null);
        refused(Reasons.SUSPENDED, "20002", NOON, plain, null);
        refused(Reasons.LOST, "20003", NOON, plain, null);
        refused(Reasons.ENDED, "20004", NOON, plain, null);
        refused(Reasons.NOT_YET_VALID, "20005", NOON, plain, null);
        refused(Reasons.PERSON_STOPPED, "20006", NOON, plain, null);
        refused(Reasons.NO_LEVEL, "20007", NOON, plain, null);
        refused(Reasons.OUTSIDE_TIMETABLE, "20001", NOON.withHour(20), plain, null);
        refused(Reasons.OUTSIDE_TIMETABLE, "20001", NOON.with(DayOfWeek.SUNDAY), plain, null);
    }

    @Test
    void the_door_asks_for_more() {
        DoorRules pin = new DoorRules(true, false, Optional.empty(), p -> false, false, false);
        refused(Reasons.PIN_MISSING, "20001", NOON, pin, null);
        refused(Reasons.WRONG_PIN, "20001", NOON, pin, "9999");
        assertThat(decide("20001", NOON, pin, "1234").result()).isEqualTo(Result.GRANTED);
        refused(
                Reasons.ALREADY_INSIDE,
                "20001",
                NOON,
                new DoorRules(false, false, Optional.empty(), TOVE::equals, false, false),
                null);
        refused(
                Reasons.DOOR_BLOCKED,
                "20001",
                NOON,
                new DoorRules(false, false, Optional.empty(), p -> false, true, false),
                null);
        refused(
                Reasons.READER_OFF,
                "20001",
                NOON,
                new DoorRules(false, false, Optional.empty(), p -> false, false, true),
                null);
    }

    @Test
    void two_persons_are_two_different_persons() {
        DoorRules alone = new DoorRules(false, true, Optional.empty(), p -> false, false, false);
        assertThat(decide("20001", NOON, alone, null).result()).isEqualTo(Result.SECOND_PERSON_NEEDED);
        DoorRules same = new DoorRules(false, true, Optional.of(TOVE), p -> false, false, false);
        assertThat(decide("20001", NOON, same, null).result()).isEqualTo(Result.SECOND_PERSON_NEEDED);
        DoorRules other = new DoorRules(false, true, Optional.of(ODO), p -> false, false, false);
        assertThat(decide("20001", NOON, other, null).result()).isEqualTo(Result.GRANTED);
    }

    @Test
    void a_timetable_knows_its_next_change_over_weekends_and_clock_changes() {
        ZonedDateTime friday = ZonedDateTime.of(2026, 10, 23, 19, 0, 0, 0, ZoneId.of("Europe/London"));
        assertThat(DAY.nextChange(friday)).contains(friday.plusDays(3).withHour(8));
        assertThat(DAY.nextChange(NOON)).contains(NOON.withHour(18));
        assertThat(new Timetable("never", "Never", List.of()).nextChange(NOON)).isEmpty();
    }

    @Test
    void a_badge_that_was_given_back_is_unknown_and_an_end_is_the_first_instant_without() {
        refused(org.custodia.core.event.Reasons.UNKNOWN_CREDENTIAL, "20008", NOON, DoorRules.PLAIN, null);
        assertThat(decide("20004", NOON.minusDays(1).minusSeconds(1), DoorRules.PLAIN, null)
                        .result())
                .isEqualTo(Result.GRANTED);
        refused(org.custodia.core.event.Reasons.ENDED, "20004", NOON.minusDays(1), DoorRules.PLAIN, null);
        assertThat(rules.credential("20001").orElseThrow().person()).isEqualTo(TOVE);
        assertThat(rules.credential("x")).isEmpty();
        assertThat(rules.person(ODO)).isPresent();
        assertThat(rules.person(new PersonId("nobody"))).isEmpty();
    }
}
