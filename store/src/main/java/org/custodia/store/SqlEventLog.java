package org.custodia.store;

import static org.custodia.store.EventRows.EVENT;
import static org.custodia.store.EventRows.POSITION;
import static org.custodia.store.EventRows.SEQUENCE;

import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.CancellationException;
import java.util.function.Function;
import java.util.function.Supplier;
import org.custodia.core.event.Cancellation;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventField;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventLog;
import org.custodia.core.event.EventLogException;
import org.custodia.core.event.EventQuery;
import org.custodia.core.site.SystemId;
import org.jooq.Condition;
import org.jooq.DSLContext;
import org.jooq.Field;
import org.jooq.Record;
import org.jooq.ResultQuery;
import org.jooq.exception.DataAccessException;
import org.jooq.impl.DSL;

/** Questions to the log, as SQL. */
public final class SqlEventLog implements EventLog {
    private final Database database;
    private final Supplier<DSLContext> reader;
    private final PageSearch.Reach reach;

    public SqlEventLog(Database database) {
        this(database, database::reader, PageSearch.Reach.COMMON);
    }

    /**
     * The same in another way.
     *
     * @param reader answers questions; one for each
     */
    SqlEventLog(Database database, Supplier<DSLContext> reader, PageSearch.Reach reach) {
        this.database = database;
        this.reader = reader;
        this.reach = reach;
    }

    @Override
    public List<Event> find(EventQuery query, Cancellation cancellation) {
        return together(dsl -> new PageSearch(dsl, query, database.payloads(), cancellation, reach).find());
    }

    @Override
    public long count(EventQuery query, Cancellation cancellation) {
        return ask(dsl -> new Counts(dsl, query, cancellation, reach).all());
    }

    @Override
    public <T> List<Facet<T>> facets(EventField<T> field, EventQuery query, int most, Cancellation cancellation) {
        return ask(dsl -> {
            List<Facet<T>> result = new ArrayList<>();
            new Counts(dsl, query, cancellation, reach)
                    .byValue(field, most)
                    .forEach((text, events) -> result.add(new Facet<>(field.value(text), events)));
            return result;
        });
    }

    @Override
    public Map<Integer, Long> histogram(EventQuery query, Duration slice, Cancellation cancellation) {
        long length = query.slices(slice);
        return ask(dsl -> new Counts(dsl, query, cancellation, reach).bySlice(length));
    }

    @Override
    public Map<Integer, Slice> slices(EventQuery query, Duration slice, Cancellation cancellation) {
        long length = query.slices(slice);
        return ask(dsl -> new Counts(dsl, query, cancellation, reach).bySliceAndKind(length));
    }

    @Override
    public Optional<Event> byKey(EventKey key) {
        return ask(dsl -> EventRows.list(
                        dsl.select(EventRows.ALL)
                                .from(EventRows.whole())
                                .where(EventRows.ofOrigin(key.system(), key.epoch()), SEQUENCE.eq(key.sequence())),
                        database.payloads())
                .stream()
                .findFirst());
    }

    @Override
    public List<Event> storedAfter(long position, int most) {
        return ask(dsl -> EventRows.list(
                dsl.select(EventRows.ALL)
                        .from(EventRows.whole())
                        .where(POSITION.gt(position))
                        .orderBy(POSITION)
                        .limit(most),
                database.payloads()));
    }

    @Override
    public long newestPosition() {
        return ask(dsl -> highest(dsl, POSITION, DSL.noCondition()));
    }

    /** The highest number that Custodia gave to what it wrote itself. */
    long newestOwnNumber() {
        return ask(dsl -> highest(dsl, SEQUENCE, EventRows.ofOrigin(SystemId.CUSTODIA, 1)));
    }

    private static long highest(DSLContext dsl, Field<Long> column, Condition of) {
        return dsl.select(DSL.max(column))
                .from(EVENT)
                .where(of)
                .fetchOptional(r -> r.value1())
                .orElse(0L);
    }

    @Override
    public long unreadCount() {
        return ask(dsl -> (long) dsl.fetchCount(DSL.table("unread")));
    }

    /** Several questions at once, on one connection. */
    private <T> T together(Function<DSLContext, T> questions) {
        return ask(dsl -> dsl.connectionResult(
                c -> questions.apply(DSL.using(dsl.configuration().derive(c)))));
    }

    private <T> T ask(Function<DSLContext, T> question) {
        try {
            return question.apply(reader.get());
        } catch (DataAccessException e) {
            throw new EventLogException(database.words().notRead(e), e);
        }
    }

    /** Runs a question that can be taken back. */
    static <R extends Record, T> T cancellable(
            ResultQuery<R> question, Cancellation cancellation, Function<ResultQuery<R>, T> run) {
        cancellation.onCancel(question::cancel);
        try {
            return run.apply(question);
        } catch (DataAccessException e) {
            if (cancellation.cancelled()) {
                CancellationException taken = new CancellationException("the question was taken back");
                taken.initCause(e);
                throw taken;
            }
            throw e;
        } finally {
            cancellation.onCancel(null);
        }
    }
}
