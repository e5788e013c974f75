package org.custodia.store;

import static org.custodia.store.EventRows.EVENT;
import static org.custodia.store.EventRows.ORIGIN;
import static org.custodia.store.EventRows.POSITION;
import static org.custodia.store.EventRows.TIME;
import static org.custodia.store.EventRows.micros;

import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.custodia.core.event.Cancellation;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventQuery;
import org.jooq.Condition;
import org.jooq.Cursor;
import org.jooq.DSLContext;
import org.jooq.Field;
import org.jooq.Record1;
import org.jooq.Record2;
import org.jooq.ResultQuery;
import org.jooq.Select;
import org.jooq.Table;
import org.jooq.impl.DSL;

/**
 * Finds one page of events without looking at much else, however many events there are. It looks near the page's beginning
 * first, at a bounded number of rows; most pages are full then. Where they are not, what is asked for is rare there: an index
 * that leads to it is followed further and further away, or, where too many things are asked for at once, the hours in which
 * any of them happened. What is looked for is the same each time, only the span grows, so that the answer never depends on
 * the way.
 */
final class PageSearch {
    /**
     * How far it is looked before another way is tried.
     *
     * @param near rows that are looked at first, beside those that are asked for
     * @param leads numbers from which an index is followed at most
     * @param few so many events are counted one by one rather than by hours, of which there can be more
     */
    record Reach(int near, int leads, long few) {
        static final Reach COMMON = new Reach(2_000, 5_000, 1_500_000);
    }

    /** By so much the span grows. */
    private static final int GROWTH = 8;
    /** The share of the span that is looked at first where nobody knows how many events there are. */
    private static final double UNKNOWN = 1.0 / 512;

    private final DSLContext dsl;
    private final Dialect dialect;
    private final EventQuery query;
    private final Payloads payloads;
    private final Cancellation cancellation;
    private final FilterSql filter;
    private final Reach reach;
    private final boolean down;
    private final List<Event> found = new ArrayList<>();
    /** What is still to be looked at. */
    private long low;

    private long high;
    /** The span of the log, in microseconds. */
    private double whole;

    private long stored;

    PageSearch(DSLContext dsl, EventQuery query, Payloads payloads, Cancellation cancellation, Reach reach) {
        this.dsl = dsl;
        this.dialect = Dialect.of(dsl.dialect());
        this.query = query;
        this.payloads = payloads;
        this.cancellation = cancellation;
        this.filter = new FilterSql(dsl, query.filter());
        this.reach = reach;
        this.down = query.newestFirst();
        low = query.from().map(EventRows::micros).orElse(Long.MIN_VALUE);
        high = query.to().map(t -> micros(t) - 1).orElse(Long.MAX_VALUE);
        query.after().ifPresent(p -> low = Math.max(low, micros(p.time())));
        query.before().ifPresent(p -> high = Math.min(high, micros(p.time())));
    }

    List<Event> find() {
        if (low > high || !withinTheLog()) {
            return List.of();
        }
        Condition rows = filter.rows();
        if (rows.equals(DSL.falseCondition())) {
            return List.of();
        }
        long end = down ? low : high;
        long near = reach.near() + 4L * query.limit();
        Optional<List<FilterSql.Lead>> leads = filter.leads(reach.leads());
        if (leads.isPresent() && rare(leads.get(), near)) {
            return follow(leads.get(), rows, end);
        }
        long there = away(near).orElse(end);
        found.addAll(page(rows, there));
        if (full() || there == end) {
            return found;
        }
        behind(there);
        if (leads.isPresent()) {
            return follow(leads.get(), rows, end);
        }
        return filter.exact() ? byHours(rows) : further(rows, end);
    }

    /** Whether a page is not likely to be full after so many rows; where nobody knows, it is not. */
    private boolean rare(List<FilterSql.Lead> leads, long near) {
        return FilterSql.expected(leads)
                .map(events -> 2.0 * events * near / Math.max(1, stored) < query.limit())
                .orElse(true);
    }

    private boolean full() {
        return found.size() >= query.limit();
    }

    /** Narrows the span to that of the log; false if nothing lies in it. */
    private boolean withinTheLog() {
        var span = dsl.select(
                        DSL.field("(SELECT MIN(time) FROM event)", Long.class),
                        DSL.field("(SELECT MAX(time) FROM event)", Long.class),
                        DSL.field("(SELECT MAX(position) FROM event)", Long.class),
                        DSL.field("(SELECT COUNT(*) FROM hour_total)", Long.class))
                .fetchSingle();
        if (span.value1() == null) {
            return false;
        }
        // Hours in which nothing happened do not count: one event of long ago would make everything seem rare.
        whole = Math.min((double) span.value2() - span.value1(), (double) span.value4() * EventWriter.HOUR);
        stored = span.value3();
        low = Math.max(low, span.value1());
        high = Math.min(high, span.value2());
        return low <= high;
    }

    /** The time of the row that is so many rows away; nothing if there are not so many. */
    private Optional<Long> away(long rows) {
        return run(dsl.select(TIME)
                        .from(EVENT)
                        .where(TIME.between(low, high))
                        .orderBy(down ? TIME.desc() : TIME.asc())
                        .limit(1)
                        .offset(rows))
                .map(Record1::value1);
    }

    private <T> Optional<Record1<T>> run(ResultQuery<Record1<T>> question) {
        return SqlEventLog.cancellable(question, cancellation, ResultQuery::fetchOptional);
    }

    /** The page as far as it lies between the beginning of the span and some time. */
    private List<Event> page(Condition rows, long to) {
        var question = dsl.select(EventRows.ALL)
                .from(EventRows.whole())
                .where(span(to), rows, EventRows.places(query))
                .orderBy(EventRows.order(down))
                .limit(query.limit() - found.size());
        return read(question);
    }

    private <R extends org.jooq.Record> List<Event> read(ResultQuery<R> question) {
        return SqlEventLog.cancellable(question, cancellation, q -> EventRows.list(q, payloads));
    }

    private Condition span(long to) {
        return down ? TIME.between(to, high) : TIME.between(low, to);
    }

    /**
     * Follows indexes further and further away from the beginning. Where nobody knows how far that has to be, rows are only
     * counted on the way, and read when there are enough: to read them is what takes time, however few they are.
     */
    private List<Event> follow(List<FilterSql.Lead> leads, Condition rows, long end) {
        double width = (double) high - low;
        Optional<Long> expected = FilterSql.expected(leads);
        double span = expected.map(events -> 2.0 * query.limit() * Math.max(1.0, whole) / Math.max(1.0, events))
                .orElse(Math.min(width, whole) * UNKNOWN);
        long unread = down ? high : low;
        long counted = 0;
        while (true) {
            cancellation.check();
            boolean last = span >= (double) high - low;
            long to = last ? end : down ? high - (long) span : low + (long) span;
            long there = 0;
            if (expected.isEmpty() && !last) {
                there = count(leads, rows, to);
                counted += there;
            }
            if (last || expected.isPresent() || counted >= query.limit() - found.size()) {
                if (down) {
                    high = unread;
                } else {
                    low = unread;
                }
                List<Event> some = read(dsl.select(EventRows.ALL)
                        .from(EventRows.whole())
                        .where(dialect.found(POSITION, led(leads, rows, to)))
                        .orderBy(EventRows.order(down))
                        .limit(query.limit() - found.size()));
                found.addAll(some);
                if (last || full()) {
                    return found;
                }
                there = some.size();
                counted = 0;
                behind(to);
                unread = down ? high : low;
            } else {
                behind(to);
            }
            double missing = (double) query.limit() - found.size() - counted;
            // As wide as it must be if things went on as they did, and never much wider than what was looked at.
            span *= there == 0 ? GROWTH : Math.min(GROWTH, Math.max(1.0, 1.3 * missing / there));
        }
    }

    private long count(List<FilterSql.Lead> leads, Condition rows, long to) {
        return run(dsl.selectCount().from(led(leads, rows, to).asTable("n")))
                .map(Record1::value1)
                .orElse(0);
    }

    /** What lies up to here is done with. */
    private void behind(long to) {
        if (down) {
            high = to - 1;
        } else {
            low = to + 1;
        }
    }

    private Select<Record1<Long>> led(List<FilterSql.Lead> leads, Condition rows, long to) {
        Select<Record1<Long>> all = null;
        for (FilterSql.Lead lead : leads) {
            Table<?> from = placed() ? EVENT.leftJoin(ORIGIN).on("g.id = e.origin") : EVENT;
            Select<Record1<Long>> one = dialect.each(lead)
                    .map(each -> dialect.ofEach(
                            each,
                            DSL.select(POSITION)
                                    .from(EVENT.leftJoin(ORIGIN).on("g.id = e.origin"))
                                    .where(Dialect.OF_EACH, span(to), lead.rest(), EventRows.places(query))
                                    .orderBy(EventRows.order(down))
                                    .limit(query.limit())))
                    .orElseGet(() -> DSL.select(POSITION)
                            .from(from)
                            .where(lead.rows(), span(to), rows, EventRows.places(query)));
            all = all == null ? one : all.union(one);
        }
        return all == null ? DSL.select(POSITION).from(EVENT).where(DSL.falseCondition()) : all;
    }

    /** Looks at those hours only in which something happened that is asked for. */
    private List<Event> byHours(Condition rows) {
        Field<Long> hour = DSL.field("h.hour", Long.class);
        Field<Long> occasion = DSL.field("h.occasion", Long.class);
        var hours = dsl.select(hour, DSL.sum(DSL.field("h.events", Long.class)))
                .from(DSL.table("hour_count").as("h"))
                .where(
                        hour.between(Math.floorDiv(low, EventWriter.HOUR), Math.floorDiv(high, EventWriter.HOUR)),
                        occasion.in(DSL.select(EventRows.OCCASION_ID)
                                .from(EventRows.OCCASION)
                                .where(filter.occasions())))
                .groupBy(hour)
                .orderBy(down ? hour.desc() : hour.asc());
        List<Long> wanted = new ArrayList<>();
        SqlEventLog.cancellable(hours, cancellation, q -> {
            long known = 0;
            try (Cursor<Record2<Long, java.math.BigDecimal>> cursor = q.fetchLazy()) {
                // The hours at both ends may lie outside in part.
                while (cursor.hasNext() && known < query.limit()) {
                    Record2<Long, java.math.BigDecimal> next = cursor.fetchNext();
                    boolean whole = next.value1() * EventWriter.HOUR >= low
                            && (next.value1() + 1) * EventWriter.HOUR - 1 <= high
                            && !wanted.isEmpty();
                    known += whole ? next.value2().longValue() : 0;
                    wanted.add(next.value1());
                }
            }
            return known;
        });
        if (wanted.isEmpty()) {
            return found;
        }
        var hoursFound = DSL.selectDistinct(hour.as("hour"))
                .from(DSL.table("hour_count").as("h"))
                .where(hour.in(wanted.stream().map(DSL::inline).toList()))
                .asTable("f");
        found.addAll(read(dsl.select(EventRows.ALL)
                .from(EventRows.whole())
                .where(dialect.found(
                        POSITION,
                        DSL.select(POSITION)
                                .from(hoursFound)
                                .crossJoin(placed() ? EVENT.leftJoin(ORIGIN).on("g.id = e.origin") : EVENT)
                                .where(
                                        DSL.condition(
                                                "e.time BETWEEN f.hour * {0} AND f.hour * {0} + {1}",
                                                DSL.inline(EventWriter.HOUR), DSL.inline(EventWriter.HOUR - 1)),
                                        dialect.unindexed(TIME).between(DSL.inline(low), DSL.inline(high)),
                                        rows,
                                        EventRows.places(query))))
                .orderBy(EventRows.order(down))
                .limit(query.limit() - found.size())));
        return found;
    }

    private boolean placed() {
        return query.before().isPresent() || query.after().isPresent();
    }

    /** Looks at more and more rows; for what no index leads to. */
    private List<Event> further(Condition rows, long end) {
        long many = reach.near() + 4L * query.limit();
        while (true) {
            cancellation.check();
            many *= GROWTH;
            long there = away(many).orElse(end);
            found.addAll(page(rows, there));
            if (full() || there == end) {
                return found;
            }
            behind(there);
        }
    }
}
