package org.custodia.core.access;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.DayOfWeek;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
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
import org.custodia.core.site.Side;
import org.junit.jupiter.api.Test;

class AccessRulesTest {
    private static final ZonedDateTime NOON = ZonedDateTime.of(2026, 11, 24, 12, 0, 0, 0, ZoneId.of("Europe/London"));
    private static final DoorId DOOR = new DoorId("vault");
    private static final PersonId TOVE = new PersonId("p1");
    private static final PersonId ODO = new PersonId("p2");
    private static final PersonId STOPPED = new PersonId("p3");
    private static final PersonId GONE = new PersonId("p4");
    private static final Timetable DAY = new Timetable(
            "day",
            "Working day",
            List.of(new Timetable.Span(
                    EnumSet.range(DayOfWeek.MONDAY, DayOfWeek.FRIDAY), LocalTime.of(8, 0), LocalTime.of(18, 0))));

    private static final AccessLevel LEVEL = new AccessLevel("l", "Vault", Map.of(DOOR, "day"));
    private static final AccessLevel ELSEWHERE =
            new AccessLevel("e", "Elsewhere", Map.of(new DoorId("foyer"), "day", new DoorId("attic"), "none"));

    private final AccessRules rules = new AccessRules(
            List.of(
                    person(TOVE, false, null, "l"),
                    person(ODO, false, null, "e"),
                    person(STOPPED, true, null),
                    person(GONE, false, NOON.toInstant(), "l")),
            List.of(
                    card("20001", TOVE, Status.ACTIVE, null, null),
                    card("20002", TOVE, Status.SUSPENDED, null, null),
                    card("20003", TOVE, Status.LOST, null, null),
                    card("20004", TOVE, Status.ACTIVE, null, NOON.minusDays(1).toInstant()),
                    card("20005", TOVE, Status.ACTIVE, NOON.plusDays(1).toInstant(), null),
                    card("20008", TOVE, Status.RETURNED, null, null),
                    card("20006", STOPPED, Status.ACTIVE, null, null),
                    card("20009", GONE, Status.ACTIVE, null, null),
                    card("30001", TOVE, Status.ACTIVE, null, null),
                    new Credential(
                            "30001",
                            Kind.PHONE,
                            ODO,
                            Status.ACTIVE,
                            Optional.empty(),
                            Optional.empty(),
                            Optional.empty()),
                    new Credential(
                            "20010",
                            Kind.CARD,
                            TOVE,
                            Status.ACTIVE,
                            Optional.empty(),
                            Optional.empty(),
                            Optional.empty()),
                    card("20007", ODO, Status.ACTIVE, null, null)),
            List.of(LEVEL, ELSEWHERE),
            List.of(DAY),
            List.of(new Holiday("h", "Closed", LocalDate.of(2026, 12, 25), LocalDate.of(2026, 12, 26))),
            List.of(new CardFormat("short", "Five digits", 5)));

    private static Person person(PersonId id, boolean stopped, Instant until, String... levels) {
        return new Person(
                id,
                "Somebody Else",
                "Museum",
                "staff",
                Optional.ofNullable(until),
                stopped,
                Optional.empty(),
                List.of(levels));
    }

    private static Credential card(String number, PersonId person, Status status, Instant from, Instant until) {
        return new Credential(
                number,
                Kind.CARD,
                person,
                status,
                Optional.ofNullable(from),
                Optional.ofNullable(until),
                Optional.of(Pin.of("1234")));
    }

    private static Request request(String number, ZonedDateTime at, DoorRules door, String pin) {
        return new Request(
                DOOR,
                Side.ENTRY,
                number,
                Optional.of(Kind.CARD),
                Optional.ofNullable(pin).map(Pin::of),
                at,
                door);
    }

    private Decision decide(String number, ZonedDateTime at, DoorRules door, String pin) {
        return rules.decide(request(number, at, door, pin));
    }

    private void refused(String reason, String number, ZonedDateTime at, DoorRules door, String pin) {
        Decision d = decide(number, at, door, pin);
        assertThat(d.result()).isEqualTo(Result.REFUSED);
        assertThat(d.reason()).contains(reason);
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

    @Test
    void who_types_what_they_type_under_duress_is_let_in_and_it_is_said() {
        DoorRules pin = new DoorRules(true, false, Optional.empty(), p -> false, false, false);
        Decision forced = decide("20001", NOON, pin, "1235");
        assertThat(forced.result()).isEqualTo(Result.GRANTED);
        assertThat(forced.underDuress()).isTrue();
        assertThat(decide("20001", NOON, pin, "1234").underDuress()).isFalse();
        refused(Reasons.WRONG_PIN, "20001", NOON, pin, "1233");
        refused(Reasons.WRONG_PIN, "20001", NOON, pin, "1236");
        // Where nobody asks for a PIN, nobody looks at what is typed.
        assertThat(decide("20001", NOON, DoorRules.PLAIN, "1235").underDuress()).isFalse();
        // It opens no door that the right one would not.
        DoorRules inside = new DoorRules(true, false, Optional.empty(), p -> true, false, false);
        refused(Reasons.ALREADY_INSIDE, "20001", NOON, inside, "1235");
        DoorRules two = new DoorRules(true, true, Optional.empty(), p -> false, false, false);
        assertThat(decide("20001", NOON, two, "1235").result()).isEqualTo(Result.SECOND_PERSON_NEEDED);
        assertThat(decide("20001", NOON, two, "1235").underDuress()).isTrue();
        assertThat(Pin.of("1239").underDuress()).isEqualTo(Pin.of("1230"));
        assertThat(Pin.of("").underDuress()).isEqualTo(Pin.of(""));
        assertThat(Pin.of("12*").underDuress()).isEqualTo(Pin.of("12*"));
    }

    @Test
    void the_end_of_a_person_is_told_from_that_of_a_badge_and_no_pin_from_a_wrong_one() {
        refused(Reasons.PERSON_ENDED, "20009", NOON, DoorRules.PLAIN, null);
        assertThat(decide("20009", NOON.minusSeconds(1), DoorRules.PLAIN, null).result())
                .isEqualTo(Result.GRANTED);
        DoorRules pin = new DoorRules(true, false, Optional.empty(), p -> false, false, false);
        refused(Reasons.NO_PIN_SET, "20010", NOON, pin, "1234");
        refused(Reasons.PIN_MISSING, "20010", NOON, pin, null);
        assertThat(rules.toString() + request("20001", NOON, pin, "1234") + decide("20001", NOON, pin, "1234"))
                .doesNotContain("1234");
    }

    @Test
    void what_a_door_asks_for_it_asks_for_on_the_way_in() {
        DoorRules all = new DoorRules(true, true, Optional.empty(), p -> true, false, false);
        Request in = request("20001", NOON, all, null);
        assertThat(rules.decide(in).reason()).contains(Reasons.PIN_MISSING);
        Request out = new Request(DOOR, Side.EXIT, "20001", Optional.empty(), Optional.empty(), NOON, all);
        assertThat(rules.decide(out).result()).isEqualTo(Result.GRANTED);
    }

    @Test
    void of_two_under_one_number_the_kind_decides_and_where_it_is_not_known_that_is_said() {
        Request card = request("30001", NOON, DoorRules.PLAIN, null);
        assertThat(rules.decide(card).result()).isEqualTo(Result.GRANTED);
        assertThat(rules.decide(card).credential().orElseThrow().person()).isEqualTo(TOVE);
        Request phone = new Request(
                DOOR, Side.ENTRY, "30001", Optional.of(Kind.PHONE), Optional.empty(), NOON, DoorRules.PLAIN);
        assertThat(rules.decide(phone).reason()).contains(Reasons.NO_LEVEL);
        Request either =
                new Request(DOOR, Side.ENTRY, "30001", Optional.empty(), Optional.empty(), NOON, DoorRules.PLAIN);
        assertThat(rules.decide(either).result()).isEqualTo(Result.NOT_CLEAR_WHOSE);
        assertThat(rules.decide(either).credential()).isEmpty();
        DoorRules blocked = new DoorRules(false, false, Optional.empty(), p -> false, true, false);
        Request same = new Request(DOOR, Side.ENTRY, "30001", Optional.empty(), Optional.empty(), NOON, blocked);
        assertThat(rules.decide(same).reason()).contains(Reasons.DOOR_BLOCKED);
        Request other = new Request(
                DOOR, Side.ENTRY, "20001", Optional.of(Kind.FINGERPRINT), Optional.empty(), NOON, DoorRules.PLAIN);
        assertThat(rules.decide(other).result()).isEqualTo(Result.GRANTED);
    }

    @Test
    void every_level_has_its_word() {
        AccessRules two = new AccessRules(
                List.of(person(TOVE, false, null, "e", "l", "missing", "broken")),
                List.of(card("20001", TOVE, Status.ACTIVE, null, null)),
                List.of(LEVEL, ELSEWHERE, new AccessLevel("broken", "Broken", Map.of(DOOR, "nowhere"))),
                List.of(DAY),
                List.of(),
                List.of());
        Decision decision = two.decide(request("20001", NOON, DoorRules.PLAIN, null));
        assertThat(decision.levels())
                .extracting(l -> l.level().id() + " " + l.says())
                .containsExactly("l ON", "e OTHER_DOORS", "broken NO_TIMETABLE");
        assertThat(decision.levels().get(0).until()).contains(NOON.withHour(18));
        Decision late = two.decide(request("20001", NOON.withHour(20), DoorRules.PLAIN, null));
        assertThat(late.reason()).contains(Reasons.OUTSIDE_TIMETABLE);
        assertThat(late.levels().get(0).until()).contains(NOON.plusDays(1).withHour(8));
    }

    @Test
    void on_a_holiday_the_days_of_the_week_do_not_count() {
        ZonedDateTime friday = NOON.withMonth(12).withDayOfMonth(25);
        refused(Reasons.OUTSIDE_TIMETABLE, "20001", friday, DoorRules.PLAIN, null);
        assertThat(decide("20001", friday, DoorRules.PLAIN, null)
                        .levels()
                        .get(0)
                        .until())
                .contains(friday.plusDays(3).withHour(8));
        assertThat(decide("20001", friday.minusDays(1), DoorRules.PLAIN, null).result())
                .isEqualTo(Result.GRANTED);
    }

    @Test
    void the_nearest_thing_that_would_have_been_granted_is_found() {
        DoorRules pin = new DoorRules(true, false, Optional.empty(), p -> false, false, false);
        assertThat(nearest("20001", NOON, pin, "9")).isEqualTo("PIN 20001 " + NOON);
        assertThat(nearest("20002", NOON, DoorRules.PLAIN, null)).isEqualTo("CREDENTIAL 20001 " + NOON);
        assertThat(nearest("20001", NOON.withHour(20), DoorRules.PLAIN, null))
                .isEqualTo("TIME 20001 " + NOON.withHour(18).minusSeconds(1));
        assertThat(nearest("20001", NOON.withHour(7), DoorRules.PLAIN, null))
                .isEqualTo("TIME 20001 " + NOON.withHour(8));
        assertThat(nearest("20009", NOON, DoorRules.PLAIN, null)).isEqualTo("TIME 20009 " + NOON.minusSeconds(1));
        assertThat(rules.nearest(request("20007", NOON, DoorRules.PLAIN, null))
                        .orElseThrow()
                        .door()
                        .value())
                .isEqualTo("foyer");
        assertThat(rules.nearest(request("20006", NOON, DoorRules.PLAIN, null))).isEmpty();
        assertThat(rules.nearest(request("77120", NOON, DoorRules.PLAIN, null))).isEmpty();
        assertThat(rules.nearest(request("20001", NOON, DoorRules.PLAIN, null))).isEmpty();
    }

    @Test
    void the_nearest_time_is_found_across_a_closing_of_three_weeks() {
        AccessRules closed = new AccessRules(
                List.of(person(TOVE, false, null, "l")),
                List.of(card("20001", TOVE, Status.ACTIVE, null, null)),
                List.of(LEVEL),
                List.of(DAY),
                List.of(new Holiday(
                        "h",
                        "Closed",
                        NOON.toLocalDate().minusDays(12),
                        NOON.toLocalDate().plusDays(9))),
                List.of());
        Request request = request("20001", NOON, DoorRules.PLAIN, null);
        assertThat(closed.decide(request).result()).isEqualTo(Result.REFUSED);
        Decision.Nearest nearest = closed.nearest(request).orElseThrow();
        assertThat(nearest.change()).isEqualTo(Decision.Change.TIME);
        assertThat(Duration.between(NOON, nearest.time())).isBetween(Duration.ofDays(9), Duration.ofDays(12));
    }

    private String nearest(String number, ZonedDateTime at, DoorRules door, String pin) {
        return rules.nearest(request(number, at, door, pin))
                .map(n -> n.change() + " " + n.number() + " " + n.time())
                .orElse("nothing");
    }
}
