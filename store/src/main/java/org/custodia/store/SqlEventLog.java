package org.custodia.store;

import static org.custodia.store.EventRows.CONTROLLER;
import static org.custodia.store.EventRows.DOOR;
import static org.custodia.store.EventRows.EPOCH;
import static org.custodia.store.EventRows.EVENT;
import static org.custodia.store.EventRows.KIND;
import static org.custodia.store.EventRows.PERSON;
import static org.custodia.store.EventRows.SEQUENCE;
import static org.custodia.store.EventRows.SYSTEM;
import static org.custodia.store.EventRows.TIME;
import static org.custodia.store.EventRows.micros;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Function;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.EventLog;
import org.custodia.core.event.EventLogException;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.Priority;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.SystemId;
import org.jooq.Condition;
import org.jooq.DSLContext;
import org.jooq.exception.DataAccessException;
import org.jooq.impl.DSL;

/** Questions to the log, as SQL. */
public final class SqlEventLog implements EventLog {
    private final Database database;

    public SqlEventLog(Database database) {
        this.database = database;
    }

    @Override
    public List<Event> find(EventQuery query) {
        return ask(dsl -> {
            var order = query.newestFirst()
                    ? List.of(TIME.desc(), SYSTEM.desc(), EPOCH.desc(), SEQUENCE.desc())
                    : List.of(TIME.asc(), SYSTEM.asc(), EPOCH.asc(), SEQUENCE.asc());
            return dsl.select(EventRows.ALL)
                    .from(EVENT)
                    .where(conditions(query))
                    .orderBy(order)
                    .limit(query.limit())
                    .fetch(EventRows::read);
        });
    }

    @Override
    public long count(EventQuery query) {
        return ask(dsl -> (long) dsl.fetchCount(dsl.selectOne().from(EVENT).where(conditions(query))));
    }

    private static List<Condition> conditions(EventQuery q) {
        List<Condition> all = new ArrayList<>();
        q.from().ifPresent(t -> all.add(TIME.ge(micros(t))));
        q.to().ifPresent(t -> all.add(TIME.lt(micros(t))));
        if (!q.kinds().isEmpty()) {
            all.add(KIND.in(q.kinds().stream().map(EventKind::id).toList()));
        }
        // Rare kinds have an index of their own, which SQLite uses only when the exclusion is spelt out.
        if (!q.kinds().isEmpty()
                && q.kinds().stream().noneMatch(COMMON::contains)
                && q.doors().isEmpty()) {
            all.add(DSL.condition("kind NOT IN ('access.granted', 'door.opened', 'door.closed', 'exit.requested')"));
        }
        if (!q.doors().isEmpty()) {
            all.add(DOOR.in(q.doors().stream().map(DoorId::value).toList()));
        }
        if (!q.controllers().isEmpty()) {
            all.add(CONTROLLER.in(
                    q.controllers().stream().map(ControllerId::value).toList()));
            all.add(DOOR.isNull());
        }
        q.system().ifPresent(s -> all.add(SYSTEM.eq(s.value())));
        q.person().ifPresent(p -> all.add(PERSON.eq(p.value())));
        q.before().ifPresent(e -> {
            long t = micros(e.time());
            all.add(TIME.lt(t)
                    .or(TIME.eq(t)
                            .and(DSL.row(SYSTEM, EPOCH, SEQUENCE)
                                    .lt(
                                            e.key().system().value(),
                                            e.key().epoch(),
                                            e.key().sequence()))));
        });
        return all;
    }

    private static final java.util.Set<EventKind> COMMON =
            java.util.Set.of(Kinds.GRANTED, Kinds.OPENED, Kinds.CLOSED, Kinds.EXIT_REQUESTED);

    @Override
    public Optional<Event> byKey(EventKey key) {
        return ask(dsl -> dsl.select(EventRows.ALL)
                .from(EVENT)
                .where(SYSTEM.eq(key.system().value()), EPOCH.eq(key.epoch()), SEQUENCE.eq(key.sequence()))
                .fetchOptional(EventRows::read));
    }

    /** The highest number stored of a system, in any epoch. */
    long newestSequence(SystemId system) {
        return ask(dsl -> dsl.select(DSL.max(SEQUENCE))
                .from(EVENT)
                .where(SYSTEM.eq(system.value()))
                .fetchOptional(r -> r.value1())
                .orElse(0L));
    }

    /** The newest corrected time stored of a system. */
    Optional<Instant> newestTime(SystemId system) {
        return ask(dsl -> dsl.select(DSL.max(TIME))
                .from(EVENT)
                .where(SYSTEM.eq(system.value()))
                .fetchOptional(r -> r.value1())
                .map(EventRows::instant));
    }

    long newestPosition() {
        return ask(dsl -> dsl.select(DSL.max(EventRows.POSITION))
                .from(EVENT)
                .fetchOptional(r -> r.value1())
                .orElse(0L));
    }

    @Override
    public Map<Integer, Slice> slices(Instant from, Instant to, Duration slice) {
        long start = micros(from);
        long length = slice.toNanos() / 1000;
        var number = DSL.field("(time - {0}) / {1}", Integer.class, DSL.inline(start), DSL.inline(length));
        var many = DSL.count();
        return ask(dsl -> {
            Map<Integer, Slice> result = new HashMap<>();
            dsl.select(number, KIND, many)
                    .from(EVENT)
                    .where(TIME.ge(start), TIME.lt(micros(to)), KIND.ne(Kinds.REPORT.id()))
                    .groupBy(DSL.inline(1), DSL.inline(2))
                    .forEach(r -> {
                        Priority priority = Kinds.entry(Kinds.of(r.value2())).priority();
                        result.merge(
                                r.value1(),
                                new Slice(r.value3(), priority),
                                (a, b) -> new Slice(
                                        a.events() + b.events(),
                                        a.worst().compareTo(b.worst()) >= 0 ? a.worst() : b.worst()));
                    });
            return result;
        });
    }

    @Override
    public long unreadCount() {
        return ask(dsl -> (long) dsl.fetchCount(DSL.table("unread")));
    }

    private <T> T ask(Function<DSLContext, T> question) {
        try {
            return question.apply(database.reader());
        } catch (DataAccessException e) {
            throw new EventLogException(StoreWords.notRead(e, database.file()), e);
        }
    }
}
