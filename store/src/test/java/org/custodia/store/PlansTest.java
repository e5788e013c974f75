package org.custodia.store;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.custodia.core.event.Cancellation;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventField;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Filter;
import org.custodia.core.event.Kinds;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.SystemId;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** How the database goes about each question: never through all events, never sorting more than a page needs. */
class PlansTest {
    @TempDir
    Path path;

    StoreFixture store;
    final Set<String> asked = new LinkedHashSet<>();

    /** Where the log lies, unless it lies in a file. */
    Optional<ServerAddress> server() {
        return Optional.empty();
    }

    @BeforeEach
    void open() {
        store = new StoreFixture(path, server());
        List<Event> events = new ArrayList<>();
        for (int i = 1; i <= 3_000; i++) {
            events.add(StoreFixture.event(i));
        }
        store.accept(events, true).join();
    }

    @AfterEach
    void close() {
        store.close();
    }

    SqlEventLog log(PageSearch.Reach reach) {
        return new SqlEventLog(store.database, () -> store.listened(asked), reach);
    }

    private Map<String, List<String>> plans() {
        Map<String, List<String>> plans = new LinkedHashMap<>();
        for (String sql : asked) {
            plans.put(
                    sql,
                    store.database.reader().fetch("EXPLAIN QUERY PLAN " + sql).getValues("detail", String.class));
        }
        return plans;
    }

    /** A minute of the day line. */
    static final EventQuery MINUTE = EventQuery.all()
            .between(StoreFixture.START, StoreFixture.START.plusSeconds(60))
            .where(Filter.not(Filter.is(EventField.KIND, Kinds.REPORT)));

    static List<EventQuery> queries() {
        Filter door = Filter.is(EventField.DOOR, new DoorId("tidewater/d1"));
        Filter person = Filter.is(EventField.PERSON, new PersonId("tidewater/p1"));
        Filter refused = Filter.is(EventField.KIND, Kinds.REFUSED);
        List<Filter> filters = List.of(
                Filter.everything(),
                door,
                person,
                refused,
                door.and(refused),
                person.and(door),
                Filter.or(person, door),
                Filter.not(refused),
                Filter.is(EventField.CREDENTIAL, "2700"),
                Filter.is(EventField.OPERATOR, "ana"),
                Filter.is(EventField.CAUSE, "custodia:1:1"),
                Filter.is(EventField.SYSTEM, new SystemId("larkspur")),
                Filter.late(),
                Filter.known(EventField.OPERATOR));
        Instant from = StoreFixture.START;
        List<EventQuery> all = new ArrayList<>();
        for (Filter filter : filters) {
            EventQuery q = EventQuery.all().where(filter);
            for (EventQuery span : List.of(
                    q,
                    q.between(from, from.plusSeconds(3_000)),
                    q.before(StoreFixture.event(2_500)),
                    q.after(StoreFixture.event(500)))) {
                all.add(span.newest(50));
                all.add(span.oldest(50));
            }
        }
        return all;
    }

    @Test
    void pages_are_found_by_an_index_and_only_what_is_found_is_sorted() {
        for (EventQuery query : queries()) {
            for (PageSearch.Reach reach : List.of(
                    PageSearch.Reach.COMMON, new PageSearch.Reach(3, 5_000, 0), new PageSearch.Reach(3, 0, 0))) {
                log(reach).find(query);
            }
        }
        assertThat(asked).hasSizeGreaterThan(200);
        plans().forEach((sql, plan) -> {
            assertThat(plan).as(sql).noneMatch(line -> line.matches("SCAN (e|event)( .*|$)"));
            if (sql.contains("order by e.time") && !sql.contains("e.position in")) {
                assertThat(plan).as(sql).noneMatch("USE TEMP B-TREE FOR ORDER BY"::equals);
                assertThat(plan).as(sql).anyMatch(line -> line.contains("event_time"));
            }
            if (sql.contains("e.position in")) {
                assertThat(plan).as(sql).anyMatch(line -> line.contains("SEARCH e USING INTEGER PRIMARY KEY"));
            }
        });
    }

    @Test
    void sums_are_made_of_what_is_counted_already() {
        Instant from = Instant.parse("2026-11-24T13:30:00Z");
        for (EventQuery query : List.of(
                EventQuery.all(),
                EventQuery.all().between(from, from.plus(Duration.ofDays(5))),
                EventQuery.all().kinds(Kinds.REFUSED),
                EventQuery.all().kinds(Kinds.REFUSED).between(from, from.plus(Duration.ofDays(5))))) {
            log(PageSearch.Reach.COMMON).count(query);
            log(PageSearch.Reach.COMMON).facets(EventField.DOOR, query, 10, new Cancellation());
        }
        plans().forEach((sql, plan) -> {
            assertThat(plan).as(sql).noneMatch(line -> line.matches("SCAN (e|event)( .*|$)"));
            assertThat(plan).as(sql).noneMatch(line -> line.matches("SCAN s$|SCAN day_count.*|SCAN hour_count$"));
        });
        asked.clear();
        log(PageSearch.Reach.COMMON).facets(EventField.PERSON, EventQuery.all(), 10, new Cancellation());
        log(PageSearch.Reach.COMMON)
                .facets(EventField.CREDENTIAL, EventQuery.all().since(from), 10, new Cancellation());
        assertThat(plans().values().stream().flatMap(List::stream))
                .anyMatch(line -> line.startsWith("SEARCH e USING COVERING INDEX event_bearer (bearer>?)"));
    }

    @Test
    void single_events_and_what_follows_a_position_are_found_by_their_numbers() {
        SqlEventLog log = log(PageSearch.Reach.COMMON);
        log.byKey(StoreFixture.event(7).key());
        log.storedAfter(100, 10);
        log.newestPosition();
        log.newestOwnNumber();
        assertThat(asked).hasSize(4);
        plans().forEach((sql, plan) -> assertThat(plan)
                .as(sql)
                .noneMatch(line -> line.matches("SCAN (e|event)( .*|$)"))
                .anyMatch(line -> line.startsWith("SEARCH e")));
    }

    @Test
    void the_day_line_is_counted_along_the_day() {
        log(PageSearch.Reach.COMMON).slices(MINUTE, Duration.ofSeconds(10), new Cancellation());
        assertThat(plans().entrySet().stream().filter(e -> e.getKey().contains("as slice")))
                .hasSize(1)
                .allSatisfy(e -> assertThat(e.getValue())
                        .as(e.getKey())
                        .noneMatch(line -> line.matches("SCAN (e|event)( .*|$)"))
                        .anyMatch(line -> line.matches(
                                "SEARCH e USING COVERING INDEX event_(time|occasion) .*time>. AND time<.*")));
    }
}
