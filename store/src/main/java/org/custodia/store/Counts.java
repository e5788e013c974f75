package org.custodia.store;

import static org.custodia.store.EventRows.EVENT;
import static org.custodia.store.EventRows.ORIGIN;
import static org.custodia.store.EventRows.TIME;
import static org.custodia.store.EventRows.micros;

import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.custodia.core.event.Cancellation;
import org.custodia.core.event.EventField;
import org.custodia.core.event.EventLog;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Filter;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.Priority;
import org.jooq.Condition;
import org.jooq.DSLContext;
import org.jooq.Field;
import org.jooq.Record;
import org.jooq.Record2;
import org.jooq.ResultQuery;
import org.jooq.Select;
import org.jooq.Table;
import org.jooq.impl.DSL;

/**
 * Counts what answers a question. Where the question asks for nothing but time and what is the same for all events of an
 * occasion, whole hours and days are counted already; only what is left at the ends is counted from the events.
 */
final class Counts {
    /** Of the log's span: what is longer is counted along an index. */
    private static final int ALONG = 8;
    /** An index that leads to one in so many events is worth it. */
    private static final int WORTH_IT = 4;

    private static final Field<Long> NUMBER = DSL.field("x.occasion", Long.class);
    private static final Field<Long> EVENTS = DSL.field("x.events", Long.class);

    private final DSLContext dsl;
    private final EventQuery query;
    private final Cancellation cancellation;
    private final PageSearch.Reach reach;
    private final FilterSql filter;
    private final Optional<List<FilterSql.Lead>> leads;
    private final boolean counted;
    private final long from;
    private final long to;

    Counts(DSLContext dsl, EventQuery query, Cancellation cancellation, PageSearch.Reach reach) {
        this.reach = reach;
        this.dsl = dsl;
        this.query = query;
        this.cancellation = cancellation;
        this.filter = new FilterSql(dsl, query.filter());
        this.leads = filter.leads(reach.leads());
        this.counted =
                filter.exact() && query.before().isEmpty() && query.after().isEmpty();
        // As far away as times can be that are stored.
        this.from = query.from().map(EventRows::micros).orElse(Long.MIN_VALUE / 4);
        this.to = query.to().map(EventRows::micros).orElse(Long.MAX_VALUE / 4);
    }

    long all() {
        if (from >= to) {
            return 0;
        }
        if (!counted) {
            return one(dsl.select(DSL.count().cast(Long.class).as("n"))
                    .from(rowsOf())
                    .where(rows()));
        }
        if (query.from().isEmpty() && query.to().isEmpty()) {
            return one(dsl.select(DSL.sum(EventRows.OCCASION_EVENTS).cast(Long.class))
                    .from(EventRows.OCCASION)
                    .where(filter.occasions()));
        }
        return one(dsl.select(DSL.sum(EVENTS).cast(Long.class))
                .from(parts().asTable("x"))
                .where(NUMBER.in(wanted())));
    }

    private long one(ResultQuery<? extends org.jooq.Record1<Long>> question) {
        Long result = SqlEventLog.cancellable(question, cancellation, q -> q.fetchSingle(0, Long.class));
        return result == null ? 0 : result;
    }

    private Select<org.jooq.Record1<Long>> wanted() {
        return DSL.select(EventRows.OCCASION_ID).from(EventRows.OCCASION).where(filter.occasions());
    }

    private boolean placed() {
        return query.before().isPresent() || query.after().isPresent();
    }

    private Table<?> rowsOf() {
        return placed() ? EVENT.leftJoin(ORIGIN).on("g.id = e.origin") : EVENT;
    }

    /** Rows of events that answer the question, by the index that leads to them if there is one. */
    private Condition rows() {
        List<Condition> all = new ArrayList<>();
        boolean led = leads.isPresent() && leads.get().size() == 1 && narrow();
        if (led) {
            all.add(leads.get().get(0).rows());
        }
        // The list of occasions stands once in the statement.
        all.add(
                led && leads.get().get(0).occasions().isPresent()
                        ? leads.get().get(0).rest()
                        : filter.rows());
        query.from().ifPresent(t -> all.add(TIME.ge(micros(t))));
        query.to().ifPresent(t -> all.add(TIME.lt(micros(t))));
        all.add(EventRows.places(query));
        return DSL.and(all);
    }

    /** Whether an index lets so little pass that it is worth going along it rather than along time. */
    private boolean narrow() {
        Optional<Long> expected = FilterSql.expected(leads.orElse(List.of()));
        return expected.isEmpty() || expected.get() * WORTH_IT < stored();
    }

    private long stored() {
        Long newest = dsl.select(DSL.max(EventRows.POSITION)).from(EVENT).fetchSingle(0, Long.class);
        return newest == null ? 0 : newest;
    }

    /** How many there are of each value, the most frequent first. */
    Map<String, Long> byValue(EventField<?> field, int most) {
        Map<String, Long> result = new LinkedHashMap<>();
        if (from >= to) {
            return result;
        }
        if (counted && FilterSql.ofOccasions(field)) {
            Field<String> value = StoredText.column("o." + field.name());
            Field<BigDecimal> sum =
                    DSL.sum(query.from().isEmpty() && query.to().isEmpty() ? EventRows.OCCASION_EVENTS : EVENTS);
            Table<?> table = query.from().isEmpty() && query.to().isEmpty()
                    ? EventRows.OCCASION
                    : parts().asTable("x").join(EventRows.OCCASION).on("o.id = x.occasion");
            fill(
                    result,
                    dsl.select(value, sum.cast(Long.class))
                            .from(table)
                            .where(filter.occasions(), value.isNotNull())
                            .groupBy(value)
                            .having(sum.gt(BigDecimal.ZERO))
                            .orderBy(sum.desc(), value)
                            .limit(most));
            return result;
        }
        boolean ofOccasions = FilterSql.ofOccasions(field);
        boolean ofBearers = field == EventField.PERSON || field == EventField.CREDENTIAL;
        Field<Long> number = ofOccasions
                ? EventRows.OCCASION_NUMBER
                : ofBearers
                        ? EventRows.BEARER_NUMBER
                        : field == EventField.OPERATOR ? EventRows.OPERATOR_NUMBER : EventRows.CAUSE_NUMBER;
        // Counted by number first: names are fetched for the sums only.
        var numbers = DSL.select(number.as("number"), DSL.count().as("events"))
                .from(rowsOf())
                .where(filter.everything() && !placed() ? spanAlong() : rows(), number.isNotNull())
                .groupBy(number)
                .asTable("x");
        Field<String> value = StoredText.column(ofOccasions || ofBearers ? "d." + field.name() : "d.text");
        Field<BigDecimal> sum = DSL.sum(EVENTS);
        fill(
                result,
                dsl.select(value, sum.cast(Long.class))
                        .from(numbers.join(DSL.table(ofOccasions ? "occasion" : ofBearers ? "bearer" : "word")
                                        .as("d"))
                                .on("d.id = x.number"))
                        .where(value.isNotNull())
                        .groupBy(value)
                        .orderBy(sum.desc(), value)
                        .limit(most));
        return result;
    }

    /** The span, written so that an index by numbers is gone along, where that is shorter than going from event to event. */
    private Condition spanAlong() {
        var whole = dsl.select(
                        DSL.field("(SELECT MIN(time) FROM event)", Long.class),
                        DSL.field("(SELECT MAX(time) FROM event)", Long.class))
                .fetchSingle();
        if (whole.value1() == null) {
            return DSL.falseCondition();
        }
        boolean much = Math.min(to, whole.value2()) - Math.max(from, whole.value1())
                > (whole.value2() - whole.value1()) / ALONG;
        Field<Long> time = much ? Dialect.of(dsl.dialect()).unindexed(TIME) : TIME;
        return time.ge(from).and(time.lt(to));
    }

    private void fill(Map<String, Long> result, ResultQuery<Record2<String, Long>> question) {
        SqlEventLog.cancellable(question, cancellation, ResultQuery::fetch)
                .forEach(r -> result.put(r.value1(), r.value2()));
    }

    /** How many fall into each slice of a span. */
    Map<Integer, Long> bySlice(long length) {
        Map<Integer, Long> result = new HashMap<>();
        if (from >= to) {
            return result;
        }
        long unit = counted && from % EventWriter.DAY == 0 && length % EventWriter.DAY == 0
                ? EventWriter.DAY
                : EventWriter.HOUR;
        if (counted && query.filter() instanceof Filter.Not not) {
            Counts left = with(not.part());
            if (left.few()) {
                // In this order, since what is stored in between must not count on one side only.
                left.bySlice(length).forEach((slice, events) -> result.put(slice, -events));
                with(Filter.everything())
                        .bySlice(length)
                        .forEach((slice, events) -> result.merge(slice, events, Long::sum));
                result.values().removeIf(events -> events <= 0);
                return result;
            }
        }
        boolean few = few();
        if (!counted || few || from % unit != 0 || length % unit != 0) {
            events(result, from, length);
            return result;
        }
        if (filter.everything()) {
            unit = EventWriter.HOUR;
        }
        String table = filter.everything() ? "hour_total" : unit == EventWriter.DAY ? "day_count" : "hour_count";
        long each = unit;
        long whole = Math.floorDiv(to, unit);
        Field<Long> span = DSL.field(unit == EventWriter.DAY ? "x.day" : "x.hour", Long.class);
        Condition wanted = filter.everything() ? DSL.noCondition() : NUMBER.in(wanted());
        var question = dsl.select(span, DSL.sum(EVENTS).cast(Long.class))
                .from(DSL.table(table).as("x"))
                .where(span.ge(Math.floorDiv(from, unit)), span.lt(whole), wanted)
                .groupBy(span);
        SqlEventLog.cancellable(question, cancellation, ResultQuery::fetch)
                .forEach(r -> result.merge((int) ((r.value1() * each - from) / length), r.value2(), Long::sum));
        if (whole * unit < to) {
            events(result, Math.max(from, whole * unit), length);
        }
        return result;
    }

    /** Counts events themselves, from some time on. */
    private void events(Map<Integer, Long> result, long begin, long length) {
        var number = DSL.field("(e.time - {0}) / {1}", Integer.class, DSL.inline(from), DSL.inline(length));
        var question = dsl.select(number, DSL.count().cast(Long.class))
                .from(rowsOf())
                .where(rows(), TIME.ge(begin))
                .groupBy(DSL.inline(1));
        SqlEventLog.cancellable(question, cancellation, ResultQuery::fetch)
                .forEach(r -> result.merge(r.value1(), r.value2(), Long::sum));
    }

    /** Whether so few events are asked for that they are counted one by one. */
    private boolean few() {
        return leads.isPresent()
                && FilterSql.expected(leads.get())
                        .filter(events -> !filter.everything() && events < reach.few())
                        .isPresent();
    }

    /** The same question with another filter. */
    private Counts with(Filter other) {
        EventQuery asked = new EventQuery(
                query.from(), query.to(), other, query.before(), query.after(), query.limit(), query.newestFirst());
        return new Counts(dsl, asked, cancellation, reach);
    }

    /** The same, with the highest priority in each. */
    Map<Integer, EventLog.Slice> bySliceAndKind(long length) {
        Map<Integer, EventLog.Slice> result = new HashMap<>();
        if (from >= to) {
            return result;
        }
        var number = DSL.field("(e.time - {0}) / {1}", Integer.class, DSL.inline(from), DSL.inline(length));
        var question = dsl.select(number.as("slice"), EventRows.KIND, DSL.count())
                .from(rowsOf().leftJoin(EventRows.OCCASION).on("o.id = e.occasion"))
                .where(rows())
                .groupBy(DSL.inline(1), DSL.inline(2));
        SqlEventLog.cancellable(question, cancellation, ResultQuery::fetch).forEach(r -> {
            Priority priority = Kinds.entry(Kinds.of(r.value2())).priority();
            result.merge(
                    r.value1(),
                    new EventLog.Slice(r.value3(), priority),
                    (a, b) -> new EventLog.Slice(
                            a.events() + b.events(), a.worst().compareTo(b.worst()) >= 0 ? a.worst() : b.worst()));
        });
        return result;
    }

    /** Occasions with numbers of events, which add up to the span: days and hours, and events at its ends. */
    private Select<? extends Record> parts() {
        long firstHour = Math.floorDiv(from - 1, EventWriter.HOUR) + 1;
        long endHour = Math.floorDiv(to, EventWriter.HOUR);
        if (firstHour >= endHour) {
            return ofEvents(from, to);
        }
        Select<Record2<Long, Long>> all = null;
        if (from < firstHour * EventWriter.HOUR) {
            all = with(all, ofEvents(from, firstHour * EventWriter.HOUR));
        }
        if (endHour * EventWriter.HOUR < to) {
            all = with(all, ofEvents(endHour * EventWriter.HOUR, to));
        }
        long perDay = EventWriter.DAY / EventWriter.HOUR;
        long firstDay = Math.floorDiv(firstHour - 1, perDay) + 1;
        long endDay = Math.floorDiv(endHour, perDay);
        if (firstDay >= endDay) {
            return with(all, hours(firstHour, endHour));
        }
        all = with(all, days(firstDay, endDay));
        if (firstHour < firstDay * perDay) {
            all = with(all, hours(firstHour, firstDay * perDay));
        }
        if (endDay * perDay < endHour) {
            all = with(all, hours(endDay * perDay, endHour));
        }
        return all;
    }

    private static Select<Record2<Long, Long>> with(Select<Record2<Long, Long>> all, Select<Record2<Long, Long>> more) {
        return all == null ? more : all.unionAll(more);
    }

    private static Select<Record2<Long, Long>> ofEvents(long begin, long end) {
        return DSL.select(
                        EventRows.OCCASION_NUMBER.as("occasion"),
                        DSL.count().cast(Long.class).as("events"))
                .from(EVENT)
                .where(TIME.ge(begin), TIME.lt(end))
                .groupBy(EventRows.OCCASION_NUMBER);
    }

    private Select<Record2<Long, Long>> hours(long first, long end) {
        Field<Long> hour = DSL.field("s.hour", Long.class);
        Field<Long> occasion = DSL.field("s.occasion", Long.class);
        return DSL.select(
                        occasion.as("occasion"),
                        DSL.sum(DSL.field("s.events", Long.class))
                                .cast(Long.class)
                                .as("events"))
                .from(DSL.table("hour_count").as("s"))
                .where(hour.ge(first), hour.lt(end))
                .groupBy(occasion);
    }

    /** Days lie together for each occasion, so that those of the occasions asked for are all that is read. */
    private Select<Record2<Long, Long>> days(long first, long end) {
        Field<Long> events = DSL.field(
                "(SELECT SUM(s.events) FROM day_count s WHERE s.occasion = o.id AND s.day >= {0} AND s.day < {1})",
                Long.class, DSL.inline(first), DSL.inline(end));
        return DSL.select(EventRows.OCCASION_ID.as("occasion"), events.as("events"))
                .from(EventRows.OCCASION)
                .where(filter.occasions());
    }
}
