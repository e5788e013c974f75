package org.custodia.store;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CancellationException;
import org.custodia.core.event.Cancellation;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventField;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventLog;
import org.custodia.core.event.EventLog.Facet;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Filter;
import org.custodia.core.event.Kinds;
import org.custodia.core.site.SystemId;
import org.junit.jupiter.api.Test;

/** What every event log answers, whatever it keeps its events in: compared with going through all events one by one. */
abstract class EventLogContract {
    /** How many questions are made up. */
    int questions() {
        return 240;
    }

    /** The events that are stored, by position. */
    abstract List<Event> stored();

    /** The log, which may look in another way each time it is asked for. */
    abstract EventLog log();

    @Test
    void every_question_is_answered_as_if_all_events_were_gone_through() {
        RandomEvents random = new RandomEvents(31);
        for (int i = 0; i < questions(); i++) {
            EventQuery query = random.query(stored());
            Comparator<Event> order = query.newestFirst() ? Comparator.reverseOrder() : Comparator.naturalOrder();
            List<Event> all =
                    stored().stream().filter(query::test).sorted(order).toList();
            assertThat(log().find(query))
                    .as("%s", query)
                    .isEqualTo(all.stream().limit(query.limit()).toList());
            assertThat(log().count(query)).as("%s", query).isEqualTo(all.size());
        }
    }

    @Test
    void pages_in_both_directions_make_up_the_whole() {
        RandomEvents random = new RandomEvents(32);
        for (int i = 0; i < questions() / 20; i++) {
            Filter filter = i == 0 ? Filter.everything() : random.filter(stored(), 2);
            for (boolean newestFirst : new boolean[] {true, false}) {
                EventQuery query = EventQuery.all().where(filter);
                query = newestFirst ? query.newest(97) : query.oldest(97);
                Comparator<Event> order = newestFirst ? Comparator.reverseOrder() : Comparator.naturalOrder();
                List<Event> all =
                        stored().stream().filter(filter::test).sorted(order).toList();
                List<Event> paged = new ArrayList<>();
                List<Event> page = log().find(query);
                while (!page.isEmpty()) {
                    paged.addAll(page);
                    Event last = page.get(page.size() - 1);
                    page = log().find(newestFirst ? query.before(last) : query.after(last));
                }
                assertThat(paged).as("%s", query).isEqualTo(all);
            }
        }
    }

    @Test
    void values_are_counted() {
        RandomEvents random = new RandomEvents(33);
        for (int i = 0; i < questions() / 10; i++) {
            EventQuery query = random.query(stored());
            for (EventField<?> field : EventField.ALL) {
                facets(field, query);
            }
        }
        for (EventField<?> field : EventField.ALL) {
            facets(field, EventQuery.all());
            facets(field, EventQuery.all().between(Instant.EPOCH, Instant.parse("2500-01-01T00:00:00Z")));
        }
        assertThat(log().facets(EventField.KIND, EventQuery.all(), 2, new Cancellation()))
                .hasSize(2)
                .first()
                .matches(f -> f.value().equals(Kinds.GRANTED));
    }

    private <T> void facets(EventField<T> field, EventQuery query) {
        Map<T, Long> counts = new HashMap<>();
        stored().stream()
                .filter(query::test)
                .flatMap(e -> field.of(e).stream())
                .forEach(v -> counts.merge(v, 1L, Long::sum));
        List<Facet<T>> facets = log().facets(field, query, 1_000, new Cancellation());
        assertThat(facets).as("%s of %s", field, query).hasSize(counts.size());
        assertThat(facets)
                .isSortedAccordingTo(
                        Comparator.comparing((Facet<T> f) -> f.events()).reversed());
        facets.forEach(f -> assertThat(f.events()).as("%s of %s", f, query).isEqualTo(counts.get(f.value())));
    }

    @Test
    void slices_are_counted() {
        RandomEvents random = new RandomEvents(34);
        Instant hour = Instant.parse("2026-11-21T03:00:00Z");
        Instant day = Instant.parse("2026-11-21T00:00:00Z");
        for (int i = 0; i < questions() / 4; i++) {
            Instant from = i % 3 == 0 ? hour : i % 3 == 1 ? day : RandomEvents.START.plusSeconds(i * 700L);
            Duration slice = List.of(
                            Duration.ofHours(1), Duration.ofHours(6), Duration.ofDays(1), Duration.ofMinutes(7))
                    .get(i % 4);
            EventQuery query = EventQuery.all()
                    .between(from, from.plusSeconds(40_000L + i * 3_000L))
                    .where(i % 5 == 0 ? Filter.everything() : random.filter(stored(), 2));
            Map<Integer, Long> counts = new HashMap<>();
            stored().stream()
                    .filter(query::test)
                    .forEach(e ->
                            counts.merge((int) Duration.between(from, e.time()).dividedBy(slice), 1L, Long::sum));
            assertThat(log().histogram(query, slice, new Cancellation()))
                    .as("%s by %s", query, slice)
                    .isEqualTo(counts);
            Map<Integer, EventLog.Slice> worst = log().slices(query, slice, new Cancellation());
            assertThat(worst.keySet()).isEqualTo(counts.keySet());
            worst.forEach((number, of) -> {
                assertThat((long) of.events()).isEqualTo(counts.get(number));
                EventQuery there = query.between(
                        from.plus(slice.multipliedBy(number)), from.plus(slice.multipliedBy(number + 1L)));
                assertThat(stored().stream()
                                .filter(query::test)
                                .filter(there::test)
                                .map(e -> Kinds.entry(e.kind()).priority())
                                .max(Comparator.naturalOrder()))
                        .contains(of.worst());
            });
        }
        assertThat(log().histogram(EventQuery.all().between(hour, hour), Duration.ofHours(1), new Cancellation()))
                .isEmpty();
        EventQuery open = EventQuery.all().since(hour);
        assertThatThrownBy(() -> log().histogram(open, Duration.ofHours(1), new Cancellation()))
                .isInstanceOf(IllegalArgumentException.class);
        EventQuery year = EventQuery.all().between(hour, hour.plus(Duration.ofDays(365)));
        assertThatThrownBy(() -> log().histogram(year, Duration.ofSeconds(1), new Cancellation()))
                .isInstanceOf(IllegalArgumentException.class);
        assertThatThrownBy(() -> log().histogram(year, Duration.ZERO, new Cancellation()))
                .isInstanceOf(IllegalArgumentException.class);
    }

    @Test
    void events_are_found_by_key_and_by_position() {
        for (int i = 0; i < stored().size(); i += 97) {
            Event event = stored().get(i);
            assertThat(log().byKey(event.key())).contains(event);
        }
        assertThat(log().byKey(new EventKey(new SystemId("nowhere"), 1, 1))).isEmpty();
        assertThat(log().byKey(new EventKey(RandomEvents.SYSTEMS.get(0), 1, 1_000_000)))
                .isEmpty();
        List<Event> all = stored();
        assertThat(log().storedAfter(0, 5)).isEqualTo(all.subList(0, 5));
        assertThat(log().storedAfter(all.size() - 3L, 100)).isEqualTo(all.subList(all.size() - 3, all.size()));
        assertThat(log().storedAfter(all.size(), 100)).isEmpty();
        assertThat(log().newestPosition()).isEqualTo(all.size());
    }

    @Test
    void a_question_taken_back_is_not_answered() {
        Cancellation taken = new Cancellation();
        taken.cancel();
        EventQuery year = EventQuery.all().between(Instant.EPOCH, RandomEvents.START.plusSeconds(1_000_000));
        assertThatThrownBy(() -> log().find(EventQuery.all(), taken)).isInstanceOf(CancellationException.class);
        assertThatThrownBy(() -> log().count(EventQuery.all().where(Filter.late()), taken))
                .isInstanceOf(CancellationException.class);
        assertThatThrownBy(() -> log().facets(EventField.DOOR, EventQuery.all(), 5, taken))
                .isInstanceOf(CancellationException.class);
        assertThatThrownBy(() -> log().histogram(year, Duration.ofDays(30), taken))
                .isInstanceOf(CancellationException.class);
    }
}
