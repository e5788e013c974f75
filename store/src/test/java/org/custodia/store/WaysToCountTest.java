package org.custodia.store;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeSet;
import org.custodia.core.event.Cancellation;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventField;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventLog.Facet;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Filter;
import org.custodia.core.event.Kinds;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** From what sums are made, and which index leads to what: the answer is the same whichever it is, but not the time it takes. */
class WaysToCountTest {
    private static final Instant MIDNIGHT = Instant.parse("2026-11-21T00:00:00Z");
    private static final Duration HOUR = Duration.ofHours(1);
    private static final Duration DAY = Duration.ofDays(1);
    private static final Duration MICRO = Duration.ofNanos(1_000);
    private static final Filter REFUSED = Filter.is(EventField.KIND, Kinds.REFUSED);
    /** Nothing is so rare that it is counted one by one. */
    private static final PageSearch.Reach SUMS = new PageSearch.Reach(2_000, 5_000, 0);

    @TempDir
    Path path;

    private StoreFixture store;
    private final List<Event> sent = new ArrayList<>();
    private final List<String> asked = new ArrayList<>();

    @BeforeEach
    void open() {
        store = new StoreFixture(path);
        // At each boundary of an hour and just beside it, for four days; two kinds at three doors.
        for (int i = 0; i < 96; i++) {
            for (int micro = -1; micro <= 1; micro++) {
                int n = sent.size();
                Instant time = MIDNIGHT.plus(HOUR.multipliedBy(i)).plus(MICRO.multipliedBy(micro));
                sent.add(Event.of(
                                new EventKey(StoreFixture.SYSTEM, 1, n + 1L),
                                n % 4 == 0 ? Kinds.REFUSED : Kinds.GRANTED,
                                time)
                        .received(time.plusMillis(10), Duration.ZERO)
                        .door(new DoorId("tidewater/d" + n % 3))
                        .person(new PersonId("tidewater/p" + n % 2))
                        .credential("1" + n)
                        .build());
            }
        }
        store.accept(sent, true).join();
    }

    @AfterEach
    void close() {
        store.close();
    }

    private SqlEventLog log(PageSearch.Reach reach) {
        asked.clear();
        return new SqlEventLog(store.database, () -> store.listened(asked), reach);
    }

    /** The tables that hold what was counted. */
    private String tables() {
        TreeSet<String> found = new TreeSet<>();
        for (String sql : asked) {
            for (String table : List.of("day_count", "hour_count", "hour_total", "event")) {
                if (sql.toLowerCase().matches("(?s).*from " + table + "\\b.*")) {
                    found.add(table);
                }
            }
        }
        return String.join(" ", found);
    }

    private static EventQuery span(Instant from, Instant to) {
        return EventQuery.all().between(from, to).where(REFUSED);
    }

    /** What was counted is right, and made of what lies in these tables. */
    private void counted(Instant from, Instant to, String tables) {
        EventQuery query = span(from, to);
        List<Event> wanted = sent.stream().filter(query::test).toList();
        assertThat(log(SUMS).count(query)).as("%s to %s", from, to).isEqualTo(wanted.size());
        assertThat(tables()).as("%s to %s", from, to).isEqualTo(tables);
        Map<DoorId, Long> byDoor = new HashMap<>();
        wanted.forEach(e -> byDoor.merge(e.door().orElseThrow(), 1L, Long::sum));
        Map<DoorId, Long> found = new HashMap<>();
        for (Facet<DoorId> f : log(SUMS).facets(EventField.DOOR, query, 10, new Cancellation())) {
            found.put(f.value(), f.events());
        }
        assertThat(found).as("%s to %s", from, to).isEqualTo(byDoor);
    }

    @Test
    void whole_days_and_hours_are_not_counted_again() {
        Instant hour = MIDNIGHT.plus(HOUR.multipliedBy(5));
        counted(MIDNIGHT, MIDNIGHT.plus(DAY), "day_count");
        counted(MIDNIGHT, MIDNIGHT.plus(DAY.multipliedBy(3)), "day_count");
        counted(hour, hour.plus(HOUR), "hour_count");
        counted(hour, hour.plus(HOUR.multipliedBy(9)), "hour_count");
        counted(hour, MIDNIGHT.plus(DAY), "hour_count");
        counted(MIDNIGHT, hour, "hour_count");
        counted(hour, MIDNIGHT.plus(DAY.multipliedBy(2)), "day_count hour_count");
        counted(MIDNIGHT, MIDNIGHT.plus(DAY).plus(HOUR), "day_count hour_count");
        counted(hour, hour.plus(DAY.multipliedBy(2)), "day_count hour_count");
        counted(hour.plus(MICRO), hour.plus(HOUR), "event");
        counted(hour, hour.plus(HOUR).minus(MICRO), "event");
        counted(hour.minus(MICRO), hour, "event");
        counted(hour.minus(MICRO), hour.plus(HOUR), "event hour_count");
        counted(hour, hour.plus(HOUR).plus(MICRO), "event hour_count");
        counted(MIDNIGHT.plus(MICRO), MIDNIGHT.plus(DAY.multipliedBy(3)), "day_count event hour_count");
        counted(MIDNIGHT, MIDNIGHT.plus(DAY).plus(MICRO), "day_count event");
        counted(MIDNIGHT.minus(MICRO), MIDNIGHT.plus(DAY), "day_count event");
    }

    @Test
    void every_span_has_the_same_sum_whatever_it_is_made_of() {
        for (int a = 0; a < 96; a += 7) {
            for (int b = a; b < 96; b += 5) {
                for (int micro = -2; micro <= 2; micro++) {
                    Instant from = MIDNIGHT.plus(HOUR.multipliedBy(a)).plus(MICRO.multipliedBy(micro));
                    Instant to = MIDNIGHT.plus(HOUR.multipliedBy(b)).plus(MICRO.multipliedBy(micro * (a % 2)));
                    EventQuery query = span(from, to);
                    assertThat(log(SUMS).count(query))
                            .as("%s to %s", from, to)
                            .isEqualTo(sent.stream().filter(query::test).count());
                }
            }
        }
        // Backwards, and nowhere.
        assertThat(log(SUMS).count(span(MIDNIGHT.plus(DAY), MIDNIGHT))).isZero();
        assertThat(log(SUMS).facets(EventField.DOOR, span(MIDNIGHT, MIDNIGHT), 5, new Cancellation()))
                .isEmpty();
        assertThat(asked).noneMatch(s -> s.contains("day_count") || s.contains("hour_count"));
    }

    private void slices(
            Instant from, Instant to, Duration slice, Filter filter, PageSearch.Reach reach, String tables) {
        EventQuery query = EventQuery.all().between(from, to).where(filter);
        Map<Integer, Long> wanted = new HashMap<>();
        sent.stream()
                .filter(query::test)
                .forEach(
                        e -> wanted.merge((int) Duration.between(from, e.time()).dividedBy(slice), 1L, Long::sum));
        assertThat(log(reach).histogram(query, slice, new Cancellation()))
                .as("%s to %s by %s", from, to, slice)
                .isEqualTo(wanted);
        assertThat(tables()).as("%s to %s by %s", from, to, slice).isEqualTo(tables);
    }

    @Test
    void slices_are_made_of_hours_and_days_where_they_begin_and_end_with_them() {
        Instant hour = MIDNIGHT.plus(HOUR.multipliedBy(5));
        Instant end = MIDNIGHT.plus(DAY.multipliedBy(3));
        slices(MIDNIGHT, end, DAY, REFUSED, SUMS, "day_count");
        slices(MIDNIGHT, end, DAY.multipliedBy(2), REFUSED, SUMS, "day_count");
        slices(MIDNIGHT, end, HOUR, REFUSED, SUMS, "hour_count");
        slices(MIDNIGHT, end, Duration.ofHours(36), REFUSED, SUMS, "hour_count");
        slices(hour, end, DAY, REFUSED, SUMS, "hour_count");
        slices(hour, hour.plus(HOUR.multipliedBy(7)), HOUR, REFUSED, SUMS, "hour_count");
        slices(MIDNIGHT, end.plus(HOUR), DAY, REFUSED, SUMS, "day_count event");
        slices(MIDNIGHT, end.plus(MICRO), HOUR, REFUSED, SUMS, "event hour_count");
        slices(MIDNIGHT, end, Duration.ofMinutes(90), REFUSED, SUMS, "event");
        slices(hour.plus(MICRO), end, HOUR, REFUSED, SUMS, "event");
        slices(MIDNIGHT, end, DAY, Filter.everything(), SUMS, "hour_total");
        slices(MIDNIGHT, end.plus(MICRO), DAY, Filter.everything(), SUMS, "event hour_total");
    }

    @Test
    void what_is_rare_is_counted_one_by_one_and_what_all_but_it_is_by_what_it_is_not() {
        Instant end = MIDNIGHT.plus(DAY.multipliedBy(3));
        long refused = sent.stream().filter(REFUSED::test).count();
        PageSearch.Reach few = new PageSearch.Reach(2_000, 5_000, refused + 1);
        slices(MIDNIGHT, end, DAY, REFUSED, few, "event");
        slices(MIDNIGHT, end, DAY, REFUSED, new PageSearch.Reach(2_000, 5_000, refused), "day_count");
        slices(MIDNIGHT, end, DAY, Filter.not(REFUSED), few, "event hour_total");
        slices(MIDNIGHT, end, DAY, Filter.not(REFUSED), SUMS, "day_count");
        // What happened to some person is nowhere counted.
        Filter person = Filter.is(EventField.PERSON, new PersonId("tidewater/p1"));
        slices(MIDNIGHT, end, DAY, person, SUMS, "event");
        slices(MIDNIGHT, end, DAY, Filter.not(person), few, "event");
        slices(MIDNIGHT, end, DAY, Filter.not(Filter.is(EventField.KIND, Kinds.FORCED)), few, "event hour_total");
    }

    @Test
    void without_beginning_and_end_all_is_counted_already() {
        EventQuery all = EventQuery.all().where(REFUSED);
        assertThat(log(SUMS).count(all)).isEqualTo(72);
        assertThat(tables()).isEmpty();
        assertThat(log(SUMS).facets(EventField.DOOR, all, 2, new Cancellation()))
                .hasSize(2);
        assertThat(tables()).isEmpty();
        // With one of them it is a span like any other.
        assertThat(log(SUMS).count(all.since(MIDNIGHT.plus(DAY))))
                .isEqualTo(sent.stream()
                        .filter(all.since(MIDNIGHT.plus(DAY))::test)
                        .count());
        assertThat(log(SUMS).count(all.until(MIDNIGHT.plus(DAY))))
                .isEqualTo(sent.stream()
                        .filter(all.until(MIDNIGHT.plus(DAY))::test)
                        .count());
        assertThat(log(SUMS).facets(EventField.KIND, EventQuery.all().since(MIDNIGHT.plus(DAY)), 9, new Cancellation()))
                .hasSize(2);
        // Beside an event it is not.
        EventQuery beside = all.before(sent.get(100));
        assertThat(log(SUMS).count(beside))
                .isEqualTo(sent.stream().filter(beside::test).count());
        assertThat(tables()).isEqualTo("event");
    }

    private Optional<List<FilterSql.Lead>> leads(Filter filter, int most) {
        return new FilterSql(store.database.reader(), filter).leads(most);
    }

    private long occasions(Filter filter) {
        return new SqlEventLog(store.database)
                .find(EventQuery.all().where(filter)).stream()
                        .map(e -> e.kind() + " " + e.door())
                        .distinct()
                        .count();
    }

    @Test
    void an_index_leads_to_what_is_the_same_for_few_occasions() {
        int three = (int) occasions(REFUSED);
        assertThat(three).isEqualTo(3);
        List<FilterSql.Lead> found = leads(REFUSED, three).orElseThrow();
        assertThat(found).hasSize(1);
        assertThat(found.get(0).expected()).contains(72L);
        assertThat(FilterSql.expected(found)).contains(72L);
        assertThat(leads(REFUSED, three - 1)).isEmpty();
        assertThat(leads(Filter.is(EventField.KIND, Kinds.FORCED), 5)
                        .orElseThrow()
                        .get(0)
                        .expected())
                .contains(0L);
        assertThat(leads(Filter.everything(), 100).orElseThrow().get(0).expected())
                .contains((long) sent.size());
    }

    @Test
    void an_index_leads_to_bearers_operators_and_what_came_late_but_nobody_knows_to_how_many() {
        Filter person = Filter.is(EventField.PERSON, new PersonId("tidewater/p1"));
        for (Filter filter : List.of(
                person,
                Filter.is(EventField.CREDENTIAL, "17"),
                Filter.is(EventField.OPERATOR, "ana"),
                Filter.late(),
                Filter.known(EventField.OPERATOR),
                Filter.known(EventField.CAUSE))) {
            List<FilterSql.Lead> found = leads(filter, 5_000).orElseThrow();
            assertThat(found).as("%s", filter).hasSize(1);
            assertThat(found.get(0).expected()).isEmpty();
            assertThat(FilterSql.expected(found)).isEmpty();
        }
        // Nearly everything has a bearer.
        assertThat(leads(Filter.known(EventField.PERSON), 5_000)).isEmpty();
        assertThat(leads(Filter.not(person), 5_000)).isEmpty();
    }

    @Test
    void of_several_conditions_the_one_that_lets_fewest_pass_leads() {
        Filter person = Filter.is(EventField.PERSON, new PersonId("tidewater/p1"));
        // 72 refusals are few: no need to look who it was.
        List<FilterSql.Lead> rare = leads(REFUSED.and(person), 5_000).orElseThrow();
        assertThat(FilterSql.expected(rare)).contains(72L);
        // Of what is common the person leads.
        Event.Builder more = sent.get(1).toBuilder();
        List<Event> many = new ArrayList<>();
        for (int i = 0; i < 400; i++) {
            many.add(more.key(new EventKey(StoreFixture.SYSTEM, 1, 10_000L + i)).build());
        }
        store.accept(many, true).join();
        Filter granted = Filter.is(EventField.KIND, Kinds.GRANTED);
        List<FilterSql.Lead> common = leads(granted.and(person), 5_000).orElseThrow();
        assertThat(common).hasSize(1);
        assertThat(FilterSql.expected(common)).isEmpty();
        // Where nothing else leads, it is the common one all the same.
        assertThat(FilterSql.expected(
                        leads(granted.and(Filter.not(person)), 5_000).orElseThrow()))
                .contains(616L);
        assertThat(leads(granted.and(Filter.not(person)), 2)).isEmpty();
        assertThat(leads(Filter.not(person).and(Filter.known(EventField.PERSON)), 5_000))
                .isEmpty();
        // Exactly 500 are few, 501 are not.
        Filter door = Filter.is(EventField.DOOR, new DoorId("tidewater/d1"));
        long atDoor = new SqlEventLog(store.database).count(EventQuery.all().where(door));
        assertThat(atDoor).isEqualTo(496);
        for (int i = 0; i < 5; i++) {
            boolean few = FilterSql.expected(leads(door.and(person), 5_000).orElseThrow())
                    .isPresent();
            assertThat(few).as("%d at the door", 496 + i).isTrue();
            store.accept(
                            List.of(more.key(new EventKey(StoreFixture.SYSTEM, 1, 20_000L + i))
                                    .build()),
                            true)
                    .join();
        }
        assertThat(FilterSql.expected(leads(door.and(person), 5_000).orElseThrow()))
                .isEmpty();
    }

    @Test
    void alternatives_are_led_to_one_by_one_unless_there_are_many() {
        Filter person = Filter.is(EventField.PERSON, new PersonId("tidewater/p1"));
        assertThat(leads(Filter.or(person, REFUSED), 5_000).orElseThrow()).hasSize(2);
        assertThat(FilterSql.expected(leads(Filter.or(person, REFUSED), 5_000).orElseThrow()))
                .isEmpty();
        assertThat(leads(Filter.or(person, Filter.known(EventField.PERSON)), 5_000))
                .isEmpty();
        assertThat(leads(Filter.or(person, REFUSED), 2)).isEmpty();
        List<Filter> ten = new ArrayList<>();
        for (int i = 0; i < 10; i++) {
            ten.add(Filter.is(EventField.CREDENTIAL, "1" + i));
        }
        assertThat(leads(Filter.or(ten.subList(0, 9).toArray(Filter[]::new)), 5_000)
                        .orElseThrow())
                .hasSize(9);
        assertThat(leads(Filter.or(ten.toArray(Filter[]::new)), 5_000)).isEmpty();
        assertThat(FilterSql.expected(List.of(
                        new FilterSql.Lead(org.jooq.impl.DSL.trueCondition(), Optional.of(3L)),
                        new FilterSql.Lead(org.jooq.impl.DSL.trueCondition(), Optional.of(4L)))))
                .contains(7L);
        assertThat(FilterSql.expected(List.of())).isEmpty();
    }

    @Test
    void who_has_very_many_badges_is_followed_by_what_finds_them_unless_they_are_too_many() {
        PersonId many = new PersonId("tidewater/many");
        Filter person = Filter.is(EventField.PERSON, many);
        List<Event> events = new ArrayList<>();
        for (int i = 0; i < FilterSql.FEW; i++) {
            events.add(sent.get(0).toBuilder()
                    .key(new EventKey(StoreFixture.SYSTEM, 1, 30_000L + i))
                    .person(many)
                    .credential("c" + i)
                    .build());
        }
        store.accept(events, true).join();
        assertThat(leads(person, 5_000)).isPresent();
        store.accept(
                        List.of(events.get(0).toBuilder()
                                .key(new EventKey(StoreFixture.SYSTEM, 1, 40_000L))
                                .credential("one more")
                                .build()),
                        true)
                .join();
        assertThat(leads(person, 5_000)).isPresent();
        assertThat(leads(person, FilterSql.FEW)).isEmpty();
        assertThat(new SqlEventLog(store.database).count(EventQuery.all().where(person)))
                .isEqualTo(FilterSql.FEW + 1);
        assertThat(new SqlEventLog(store.database).find(EventQuery.all().where(person)))
                .hasSize(FilterSql.FEW + 1);
    }
}
