package org.custodia.store;

import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import java.util.function.Function;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.Translation;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.ReaderId;
import org.custodia.core.site.Side;
import org.custodia.core.site.SystemId;
import org.jooq.Condition;
import org.jooq.Field;
import org.jooq.Record;
import org.jooq.ResultQuery;
import org.jooq.Row3;
import org.jooq.SelectField;
import org.jooq.Table;
import org.jooq.exception.DataAccessException;
import org.jooq.impl.DSL;

/** How events lie in the log's tables, and how they are put together again. */
final class EventRows {
    static final Table<Record> EVENT = DSL.table("event").as("e");
    static final Table<Record> ORIGIN = DSL.table("origin").as("g");
    static final Table<Record> OCCASION = DSL.table("occasion").as("o");
    static final Table<Record> BEARER = DSL.table("bearer").as("b");
    static final Table<Record> OPERATOR_WORD = DSL.table("word").as("w");
    static final Table<Record> CAUSE_WORD = DSL.table("word").as("c");
    static final Table<Record> PAYLOAD = DSL.table("payload").as("p");

    static final Field<Long> POSITION = DSL.field("e.position", Long.class);
    static final Field<Long> ORIGIN_NUMBER = DSL.field("e.origin", Long.class);
    static final Field<Long> SEQUENCE = DSL.field("e.sequence", Long.class);
    static final Field<Long> TIME = DSL.field("e.time", Long.class);
    static final Field<Long> OCCASION_NUMBER = DSL.field("e.occasion", Long.class);
    static final Field<Long> BEARER_NUMBER = DSL.field("e.bearer", Long.class);
    static final Field<Long> OPERATOR_NUMBER = DSL.field("e.operator", Long.class);
    static final Field<Long> CAUSE_NUMBER = DSL.field("e.cause", Long.class);
    static final Field<Integer> LATE = DSL.field("e.late", Integer.class);
    static final Field<String> SYSTEM = DSL.field("g.system", String.class);
    static final Field<Long> EPOCH = DSL.field("g.epoch", Long.class);
    static final Field<Long> OCCASION_ID = DSL.field("o.id", Long.class);
    static final Field<Long> OCCASION_EVENTS = DSL.field("o.events", Long.class);
    static final Field<String> KIND = StoredText.column("o.kind");
    static final Field<Long> BEARER_ID = DSL.field("b.id", Long.class);
    private static final Field<Long> RECEIVED = DSL.field("e.received", Long.class);
    private static final Field<Long> AHEAD = DSL.field("e.ahead", Long.class);
    private static final Field<Long> DEVICE = DSL.field("e.device", Long.class);
    private static final Field<String> REASON = StoredText.column("o.reason");
    private static final Field<String> SENT_KIND = StoredText.column("o.sent_kind");
    private static final Field<String> SENT_REASON = StoredText.column("o.sent_reason");
    private static final Field<String> CODE = StoredText.column("o.code");
    private static final Field<String> DOOR = StoredText.column("o.door");
    private static final Field<String> CONTROLLER = StoredText.column("o.controller");
    private static final Field<String> READER = StoredText.column("o.reader");
    private static final Field<String> SIDE = StoredText.column("o.side");
    private static final Field<String> PERSON = StoredText.column("b.person");
    private static final Field<String> CREDENTIAL = StoredText.column("b.credential");
    private static final Field<String> OPERATOR = StoredText.column("w.text");
    private static final Field<String> CAUSE = StoredText.column("c.text");
    private static final Field<byte[]> CONTENT = DSL.field("p.content", byte[].class);
    private static final Field<Long> DICTIONARY = DSL.field("p.dictionary", Long.class);

    static final List<SelectField<?>> ALL = List.of(
            POSITION,
            SYSTEM,
            EPOCH,
            SEQUENCE,
            TIME,
            RECEIVED,
            AHEAD,
            DEVICE,
            LATE,
            KIND,
            REASON,
            SENT_KIND,
            SENT_REASON,
            CODE,
            DOOR,
            CONTROLLER,
            READER,
            SIDE,
            PERSON,
            CREDENTIAL,
            OPERATOR,
            CAUSE,
            CONTENT,
            DICTIONARY);

    /** What doors depend on. */
    static final List<SelectField<?>> OF_DOORS = List.of(
            POSITION, SYSTEM, EPOCH, SEQUENCE, TIME, AHEAD, KIND, DOOR, CONTROLLER, REASON, CONTENT, DICTIONARY);

    /** Where a message or its details were erased, or can be read no more. */
    private static final String GONE = "unreadable-details";

    /** Systems that were read lately; there are few. */
    private static final Map<String, SystemId> SYSTEMS = new ConcurrentHashMap<>();

    private static final int MOST_SYSTEMS = 1_000;

    private EventRows() {}

    private static SystemId system(String id) {
        SystemId known = SYSTEMS.get(id);
        if (known == null) {
            known = new SystemId(id);
            if (SYSTEMS.size() < MOST_SYSTEMS) {
                SYSTEMS.put(id, known);
            }
        }
        return known;
    }

    /**
     * Events with all that belongs to them. Everything is joined from the left, so that the rows of events are found first
     * and the others by their numbers.
     */
    static Table<Record> whole() {
        return EVENT.leftJoin(ORIGIN)
                .on("g.id = e.origin")
                .leftJoin(OCCASION)
                .on("o.id = e.occasion")
                .leftJoin(BEARER)
                .on("b.id = e.bearer")
                .leftJoin(OPERATOR_WORD)
                .on("w.id = e.operator")
                .leftJoin(CAUSE_WORD)
                .on("c.id = e.cause")
                .leftJoin(PAYLOAD)
                .on("p.id = e.payload");
    }

    /** The order of events: by time, then by system, epoch and number. */
    static List<org.jooq.OrderField<?>> order(boolean newestFirst) {
        return newestFirst
                ? List.of(TIME.desc(), SYSTEM.desc(), EPOCH.desc(), SEQUENCE.desc())
                : List.of(TIME.asc(), SYSTEM.asc(), EPOCH.asc(), SEQUENCE.asc());
    }

    /** Rows of what a system numbered in an epoch. */
    static Condition ofOrigin(SystemId system, long epoch) {
        return ORIGIN_NUMBER.eq(DSL.select(DSL.field("n.id", Long.class))
                .from(DSL.table("origin").as("n"))
                .where(DSL.field("n.content", String.class).eq(origin(new EventKey(system, epoch, 0)))));
    }

    /** What comes before one place and after another; at the very time of a place, by its key. */
    static Condition places(EventQuery query) {
        List<Condition> all = new ArrayList<>();
        Row3<String, Long, Long> key = DSL.row(SYSTEM, EPOCH, SEQUENCE);
        query.before().ifPresent(p -> {
            long time = micros(p.time());
            all.add(TIME.le(time));
            all.add(TIME.ne(time).or(key.lt(keyOf(p))));
        });
        query.after().ifPresent(p -> {
            long time = micros(p.time());
            all.add(TIME.ge(time));
            all.add(TIME.ne(time).or(key.gt(keyOf(p))));
        });
        return DSL.and(all);
    }

    private static Row3<String, Long, Long> keyOf(EventQuery.Place place) {
        return DSL.row(
                place.key().system().value(), place.key().epoch(), place.key().sequence());
    }

    /** What an origin is found by. */
    static String origin(EventKey key) {
        return key.system().value() + "/" + key.epoch();
    }

    /**
     * The events that a question for {@link #ALL} finds. Rows are read as they come: what a library makes of each value costs
     * more than the question.
     */
    static List<Event> list(ResultQuery<?> question, Payloads payloads) {
        Dialect dialect = Dialect.of(question.configuration().dialect());
        List<Event> events = new ArrayList<>();
        try (ResultSet rows = question.fetchResultSet()) {
            while (rows.next()) {
                events.add(read(rows, dialect, payloads));
            }
        } catch (SQLException e) {
            throw new DataAccessException("events", e);
        }
        return events;
    }

    private static Event read(ResultSet r, Dialect dialect, Payloads payloads) throws SQLException {
        int i = 0;
        long position = r.getLong(++i);
        EventKey key = new EventKey(system(r.getString(++i)), r.getLong(++i), r.getLong(++i));
        long time = r.getLong(++i);
        long received = r.getLong(++i);
        long ahead = r.getLong(++i);
        long device = r.getLong(++i);
        boolean late = r.getInt(++i) != 0;
        String kind = dialect.read(r.getString(++i));
        String reason = dialect.read(r.getString(++i));
        String sentKind = dialect.read(r.getString(++i));
        String sentReason = dialect.read(r.getString(++i));
        Event.Builder builder = Event.of(key, Kinds.of(kind), instant(time + ahead + device))
                .position(position)
                .received(instant(time + received), Duration.ofNanos(ahead * 1000))
                .time(instant(time))
                .late(late)
                .reason(reason)
                .code(dialect.read(r.getString(++i)))
                .door(of(dialect.read(r.getString(++i)), DoorId::new))
                .controller(of(dialect.read(r.getString(++i)), ControllerId::new))
                .reader(of(dialect.read(r.getString(++i)), ReaderId::new))
                .side(of(r.getString(++i), Side::valueOf))
                .person(of(dialect.read(r.getString(++i)), PersonId::new))
                .credential(dialect.read(r.getString(++i)))
                .operator(dialect.read(r.getString(++i)))
                .cause(dialect.read(r.getString(++i)));
        byte[] content = r.getBytes(++i);
        message(content, r.getLong(++i), payloads, builder);
        Translation.marks(builder, sentKind, sentReason, kind, reason);
        return builder.build();
    }

    private static void message(byte[] content, long dictionary, Payloads payloads, Event.Builder builder) {
        if (content != null) {
            payloads.expand(content, dictionary)
                    .ifPresentOrElse(text -> PayloadText.restore(text, builder), () -> builder.detail(GONE, "damaged"));
        }
    }

    /** An event with what doors depend on, and nothing else; a row of {@link #OF_DOORS}. */
    static Event readOfDoors(ResultSet r, Dialect dialect, Payloads payloads) throws SQLException {
        Instant time = instant(r.getLong(5));
        Event.Builder builder = Event.of(
                        new EventKey(system(r.getString(2)), r.getLong(3), r.getLong(4)),
                        Kinds.of(dialect.read(r.getString(7))),
                        time)
                .position(r.getLong(1))
                .received(time, Duration.ofNanos(r.getLong(6) * 1000))
                .time(time)
                .door(new DoorId(dialect.read(r.getString(8))))
                .controller(of(dialect.read(r.getString(9)), ControllerId::new))
                .reason(dialect.read(r.getString(10)));
        message(r.getBytes(11), r.getLong(12), payloads, builder);
        return builder.build();
    }

    private static <T> T of(String value, Function<String, T> as) {
        return value == null ? null : as.apply(value);
    }

    static long micros(Instant t) {
        return Math.addExact(Math.multiplyExact(t.getEpochSecond(), 1_000_000L), t.getNano() / 1000);
    }

    static Instant instant(long micros) {
        return Instant.ofEpochSecond(Math.floorDiv(micros, 1_000_000L), Math.floorMod(micros, 1_000_000L) * 1000);
    }
}
