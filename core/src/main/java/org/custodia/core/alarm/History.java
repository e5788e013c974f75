package org.custodia.core.alarm;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.function.Predicate;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventField;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.EventLog;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Filter;
import org.custodia.core.event.Provenance;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;

/**
 * What the log knows of the past, as rules ask for it. What is held in memory for rules is a cache of this: it may be dropped,
 * and events may be stored in any order, without any difference to what is found.
 */
interface History {
    /** Longer than anything lasts. */
    Duration EVER = Duration.ofDays(36_500);

    /** Nothing is stored. */
    History NONE = new History() {
        @Override
        public List<Event> find(Span span, Predicate<Event> wanted) {
            return List.of();
        }

        @Override
        public Optional<Event> newest(Span span, Predicate<Event> wanted) {
            return Optional.empty();
        }

        @Override
        public Optional<Event> oldest(Span span, Predicate<Event> wanted) {
            return Optional.empty();
        }

        @Override
        public Optional<Event> byKey(EventKey key) {
            return Optional.empty();
        }
    };

    /**
     * What is asked for.
     *
     * @param from first instant, included
     * @param to last instant, included
     * @param asOf only what was evaluated before this event; everything where there is none
     */
    record Span(
            Set<EventKind> kinds,
            Optional<DoorId> door,
            Optional<PersonId> person,
            Optional<String> credential,
            Instant from,
            Instant to,
            Optional<Event> asOf) {
        /** Everything of some kinds in a span, wherever it happened. */
        static Span of(Set<EventKind> kinds, Instant from, Instant to) {
            return new Span(kinds, Optional.empty(), Optional.empty(), Optional.empty(), from, to, Optional.empty());
        }

        Span at(Optional<DoorId> some) {
            return new Span(kinds, some, person, credential, from, to, asOf);
        }

        /** What a bearer did, as systems sent it. */
        Span by(Bearer bearer) {
            return new Span(kinds, door, bearer.person(), bearer.badge(), from, to, asOf);
        }

        Span asOf(Event event) {
            return new Span(kinds, door, person, credential, from, to, Optional.of(event));
        }

        private EventQuery query() {
            EventQuery query = EventQuery.all().kinds(kinds).between(from, to.plusNanos(1_000));
            query = door.isPresent() ? query.doors(Set.of(door.get())) : query;
            query = person.isPresent() ? query.person(person.get()) : query;
            return credential.isPresent() ? query.where(Filter.is(EventField.CREDENTIAL, credential.get())) : query;
        }
    }

    /**
     * Events of a span, the oldest first.
     *
     * @throws org.custodia.core.event.EventLogException if the log cannot be read
     */
    List<Event> find(Span span, Predicate<Event> wanted);

    /** The newest event of a span; otherwise as {@link #find}. */
    Optional<Event> newest(Span span, Predicate<Event> wanted);

    /** The oldest event of a span; otherwise as {@link #find}. */
    Optional<Event> oldest(Span span, Predicate<Event> wanted);

    /** One event by its key; otherwise as {@link #find}. */
    Optional<Event> byKey(EventKey key);

    /** The log, evaluated in the order of storing. */
    static History of(EventLog log) {
        return new OfLog(log, (event, asOf) -> event.position() < asOf.position());
    }

    /** The log, evaluated in the order of time, as when a rule is tested on the past. */
    static History inTime(EventLog log) {
        return new OfLog(log, (event, asOf) -> event.compareTo(asOf) < 0);
    }

    /** Questions to a log, page by page. */
    final class OfLog implements History {
        private static final int PAGE = 2_000;
        /** The first page where one event is wanted, which is mostly among the first. */
        private static final int FEW = 10;

        private final EventLog log;
        private final Order order;

        /** The order in which events are evaluated. */
        @FunctionalInterface
        interface Order {
            boolean isBefore(Event event, Event other);
        }

        private OfLog(EventLog log, Order order) {
            this.log = log;
            this.order = order;
        }

        private boolean belongs(Event event, Span span, Predicate<Event> wanted) {
            return Provenance.trusted(event)
                    && span.asOf().filter(a -> !order.isBefore(event, a)).isEmpty()
                    && wanted.test(event);
        }

        @Override
        public List<Event> find(Span span, Predicate<Event> wanted) {
            List<Event> all = new ArrayList<>();
            EventQuery query = span.query().oldest(PAGE);
            while (true) {
                List<Event> page = log.find(query);
                page.stream().filter(e -> belongs(e, span, wanted)).forEach(all::add);
                if (page.size() < PAGE) {
                    return all;
                }
                query = query.after(page.get(page.size() - 1));
            }
        }

        @Override
        public Optional<Event> newest(Span span, Predicate<Event> wanted) {
            return first(span, wanted, true);
        }

        @Override
        public Optional<Event> oldest(Span span, Predicate<Event> wanted) {
            return first(span, wanted, false);
        }

        private Optional<Event> first(Span span, Predicate<Event> wanted, boolean newestFirst) {
            EventQuery all = span.query();
            int page = FEW;
            EventQuery query = newestFirst ? all.newest(page) : all.oldest(page);
            while (true) {
                List<Event> some = log.find(query);
                Optional<Event> found =
                        some.stream().filter(e -> belongs(e, span, wanted)).findFirst();
                if (found.isPresent() || some.size() < page) {
                    return found;
                }
                page = PAGE;
                Event last = some.get(some.size() - 1);
                query = newestFirst
                        ? all.before(last).newest(page)
                        : all.after(last).oldest(page);
            }
        }

        @Override
        public Optional<Event> byKey(EventKey key) {
            return log.byKey(key);
        }
    }
}
