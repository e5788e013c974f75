package org.custodia.practice.timeline;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Path;
import java.time.Clock;
import java.time.DayOfWeek;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.stream.Collectors;
import org.custodia.practice.PracticeClock;
import org.custodia.practice.place.Installation;
import org.custodia.practice.place.Place;
import org.custodia.practice.place.PracticeDoor;
import org.custodia.practice.place.PracticePerson;
import org.custodia.wire.WireEvent;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** A month at Sternwick is as a month at such a place would be, as far as its events tell. */
class BelievableMonthTest {
    private static final LocalDate FIRST = LocalDate.of(2026, 10, 26);
    private static final Instant END = Instant.parse("2026-11-25T04:00:00Z");
    private static final ZoneId ZONE = ZoneId.of("Europe/London");

    @TempDir
    static Path directory;

    private static Timeline timeline;
    private static Place place;
    private static List<WireEvent> all;
    /** How many were inside at four in the morning, by day. */
    private static final Map<LocalDate, Long> insideAtNight = new TreeMap<>();

    @BeforeAll
    static void live() {
        timeline = new Timeline(
                1842,
                FIRST,
                END,
                Installation.sternwick(),
                Incidents.sternwick(),
                new Journal(directory.resolve("journal")));
        place = timeline.place();
        for (LocalDate day = FIRST.plusDays(1); !day.isAfter(END.atZone(ZONE).toLocalDate()); day = day.plusDays(1)) {
            timeline.advanceTo(day.atTime(4, 0).atZone(ZONE).toInstant());
            insideAtNight.put(
                    day,
                    timeline.people().all().stream()
                            .filter(p -> !p.role().equals("guard"))
                            .filter(timeline::inside)
                            .count());
        }
        all = new ArrayList<>();
        timeline.systems().forEach(s -> all.addAll(s.after(0, 2_000_000)));
        all.sort(Comparator.comparing(BelievableMonthTest::trueTime));
    }

    @AfterAll
    static void close() {
        timeline.close();
    }

    private static Instant trueTime(WireEvent e) {
        String system =
                e.door() == null ? "tidewater" : place.door(e.door()).building().accessSystem();
        return Instant.ofEpochMilli(
                timeline.system(system).orElseThrow().clock().trueAt(e.time().toEpochMilli()));
    }

    private static boolean weekend(LocalDate day) {
        return day.getDayOfWeek() == DayOfWeek.SATURDAY || day.getDayOfWeek() == DayOfWeek.SUNDAY;
    }

    private static List<WireEvent> of(String kind) {
        return all.stream().filter(e -> e.kind().equals(kind)).toList();
    }

    private static <K> Map<K, Long> counted(List<WireEvent> events, java.util.function.Function<WireEvent, K> by) {
        return events.stream().collect(Collectors.groupingBy(by, Collectors.counting()));
    }

    private static int hour(WireEvent e) {
        return e.time().atZone(ZONE).getHour();
    }

    @Test
    void about_3000_badges_a_weekday_1200_at_weekends_and_few_of_them_refused() {
        List<WireEvent> badges =
                all.stream().filter(e -> e.kind().startsWith("access.")).toList();
        Map<LocalDate, Long> byDay = counted(badges, e -> e.time().atZone(ZONE).toLocalDate());
        byDay.remove(END.atZone(ZONE).toLocalDate());
        byDay.forEach((day, count) -> assertThat(count)
                .as(day.toString())
                .isBetween(weekend(day) ? 850L : 2_500L, weekend(day) ? 1_600L : 3_500L));
        double refused = (double) of("access.refused").size() / badges.size();
        assertThat(refused).isBetween(0.01, 0.03);
    }

    @Test
    void most_refusals_are_of_different_people_for_different_reasons() {
        List<WireEvent> refused = of("access.refused");
        Map<String, Long> byPerson =
                counted(refused.stream().filter(e -> e.person() != null).toList(), WireEvent::person);
        assertThat(byPerson).hasSizeGreaterThan(120);
        assertThat(byPerson.values()).allMatch(n -> n < refused.size() * 0.03);
        Map<String, Long> byReason = counted(refused, WireEvent::reason);
        assertThat(byReason.keySet())
                .contains(
                        "unknown-credential",
                        "format-not-set-up",
                        "credential-suspended",
                        "credential-ended",
                        "no-level",
                        "outside-timetable",
                        "wrong-pin",
                        "pin-missing",
                        "already-inside",
                        "second-person-missing");
        assertThat(byReason.values()).allMatch(n -> n < refused.size() * 0.5);
        Map<String, Long> byDoor = counted(refused, WireEvent::door);
        assertThat(byDoor).hasSizeGreaterThan(25);
        assertThat(byDoor.values()).allMatch(n -> n < refused.size() * 0.25);
    }

    @Test
    void doors_are_forced_and_held_at_many_places_for_different_lengths_and_mostly_without_harm() {
        List<WireEvent> forced = of("door.forced");
        assertThat(forced.size()).isBetween(40, 220);
        assertThat(counted(forced, WireEvent::door)).hasSizeGreaterThan(15);
        List<WireEvent> held = of("door.held");
        assertThat(held.size()).isBetween(100, 400);
        assertThat(counted(held, WireEvent::door)).hasSizeGreaterThan(15);
        Set<Long> lengths = new HashSet<>();
        for (WireEvent event : forced) {
            all.stream()
                    .filter(e -> e.kind().equals("door.closed") && e.door().equals(event.door()))
                    .filter(e -> e.time().isAfter(event.time()))
                    .findFirst()
                    .ifPresent(e ->
                            lengths.add(Duration.between(event.time(), e.time()).toSeconds()));
        }
        assertThat(lengths).hasSizeGreaterThan(12);
        List<Truth.Happening> truth = timeline.truth().all();
        assertThat(truth.stream().filter(h -> h.incident().equals("broken-open")))
                .isNotEmpty()
                .hasSizeLessThan(10);
        assertThat(truth.stream().filter(Truth.Happening::harm).count()).isLessThan(truth.size() / 20L);
    }

    @Test
    void no_hour_has_more_than_its_share_of_anything_that_goes_wrong() {
        for (String kind : List.of("access.refused", "door.forced", "door.held")) {
            List<WireEvent> events = of(kind);
            counted(events, BelievableMonthTest::hour)
                    .forEach((hour, n) ->
                            assertThat(n).as("%s at %d", kind, hour).isLessThan(events.size() / 5));
        }
        Map<String, List<Truth.Happening>> byIncident =
                timeline.truth().all().stream().collect(Collectors.groupingBy(Truth.Happening::incident));
        byIncident.values().stream().filter(l -> l.size() >= 30).forEach(list -> {
            Map<Integer, Long> hours = list.stream()
                    .collect(Collectors.groupingBy(h -> h.at().atZone(ZONE).getHour(), Collectors.counting()));
            assertThat(hours.values()).as(list.get(0).incident()).allMatch(n -> n <= list.size() * 0.4);
        });
        // And it does not come back each day at the same time.
        Map<String, Set<LocalDate>> days = new HashMap<>();
        timeline.truth().all().forEach(h -> days.computeIfAbsent(
                        h.incident() + " " + h.where() + " "
                                + h.at().atZone(ZONE).getHour(),
                        k -> new HashSet<>())
                .add(h.at().atZone(ZONE).toLocalDate()));
        days.forEach((what, on) -> assertThat(on).as(what).hasSizeLessThan(20));
    }

    @Test
    void the_day_has_its_shape_and_no_hour_is_empty() {
        Map<Integer, Long> hours =
                counted(all.stream().filter(e -> e.kind().startsWith("access.")).toList(), BelievableMonthTest::hour);
        for (int hour = 0; hour < 24; hour++) {
            assertThat(hours.getOrDefault(hour, 0L)).as("at %d", hour).isGreaterThan(150L);
        }
        assertThat(hours.get(9)).isGreaterThan(4 * hours.get(2));
        assertThat(hours.get(13)).isGreaterThan(4 * hours.get(20));
    }

    @Test
    void people_go_home() {
        insideAtNight.forEach(
                (day, inside) -> assertThat(inside).as(day.toString()).isLessThan(4L));
    }

    /**
     * Where somebody can be follows from their badges and from the doors that can be passed without one; a badge at a door
     * that its owner cannot stand at is lent, copied or handed on, and the truth says so.
     */
    @Test
    void nobody_presents_a_badge_where_they_cannot_be_unless_it_is_in_other_hands() {
        Set<String> otherHands = timeline.truth().all().stream()
                .filter(h -> Set.of("badge-lent", "badge-copied", "badge-handed-back")
                        .contains(h.incident()))
                .flatMap(h -> h.people().stream())
                .collect(Collectors.toSet());
        // Whoever is taken along by a colleague has passed without a badge.
        Map<String, Set<String>> where = new HashMap<>();
        Map<String, Integer> impossible = new TreeMap<>();
        for (WireEvent e : all) {
            if (!e.kind().startsWith("access.") || e.person() == null) {
                continue;
            }
            PracticePerson p = timeline.people().byId(e.person()).orElseThrow();
            PracticeDoor door = place.door(e.door());
            boolean inwards = e.reader().endsWith(".in");
            String side = inwards ? door.outside() : door.inside();
            String other = inwards ? door.inside() : door.outside();
            Set<String> can =
                    where.getOrDefault(p.id(), Set.of(place.building(p.home()).outdoors()));
            if (!withoutBadge(can).contains(side)) {
                impossible.merge(p.id(), 1, Integer::sum);
            }
            where.put(p.id(), e.kind().equals("access.granted") ? Set.of(side, other) : Set.of(side));
        }
        impossible.keySet().removeAll(otherHands);
        int taken = impossible.values().stream().mapToInt(Integer::intValue).sum();
        assertThat(taken).as(impossible.toString()).isLessThan(all.size() / 3_000);
    }

    private static Set<String> withoutBadge(Set<String> from) {
        Set<String> can = new HashSet<>(from);
        boolean more = true;
        while (more) {
            more = false;
            for (PracticeDoor d : place.doors()) {
                boolean in = d.opensToPublic() && can.contains(d.outside());
                boolean out = (d.opensToPublic() || !d.exitReader()) && can.contains(d.inside());
                more |= in && can.add(d.inside());
                more |= out && can.add(d.outside());
            }
        }
        return can;
    }

    @Test
    void power_fails_once_a_month_at_northgate_and_what_was_kept_is_delivered() {
        assertThat(timeline.truth().all().stream().filter(h -> h.incident().equals("power-cut-on-the-island")))
                .singleElement()
                .satisfies(h -> assertThat(h.where()).isEqualTo("northgate"));
        assertThat(counted(of("controller.lost"), WireEvent::controller).keySet())
                .contains("n1", "n2", "n3");
        assertThat(of("controller.back")).hasSameSizeAs(of("controller.lost"));
    }

    @Test
    void a_demo_begins_shortly_before_something_happens() {
        List<String> nothing = new ArrayList<>();
        for (LocalDate day = FIRST; day.isBefore(LocalDate.of(2026, 11, 24)); day = day.plusDays(1)) {
            if (weekend(day)) {
                continue;
            }
            Instant evening = day.atTime(23, 0).atZone(ZONE).toInstant();
            Instant begins = PracticeClock.starting(Clock.fixed(evening, ZONE), Optional.empty())
                    .instant();
            boolean some = timeline.truth().all().stream()
                    .anyMatch(h -> List.of("delivery-propped", "badge-lent", "caller", "carrying")
                                    .contains(h.incident())
                            && h.at().isAfter(begins)
                            && h.at().isBefore(begins.plusSeconds(120)));
            if (!some) {
                nothing.add(day + " from " + begins);
            }
        }
        assertThat(nothing).hasSizeLessThan(3);
    }
}
