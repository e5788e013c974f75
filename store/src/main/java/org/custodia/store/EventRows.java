package org.custodia.store;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.core.type.TypeReference;
import com.fasterxml.jackson.databind.ObjectMapper;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.sql.Types;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Function;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.Kinds;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.ReaderId;
import org.custodia.core.site.Side;
import org.custodia.core.site.SystemId;
import org.jooq.Field;
import org.jooq.Record;
import org.jooq.SQLDialect;
import org.jooq.Table;
import org.jooq.impl.DSL;

/** How events lie in the table {@code event}. */
final class EventRows {
    static final Table<Record> EVENT = DSL.table("event");
    static final Field<Long> POSITION = DSL.field("position", Long.class);
    static final Field<String> SYSTEM = DSL.field("system", String.class);
    static final Field<Long> EPOCH = DSL.field("epoch", Long.class);
    static final Field<Long> SEQUENCE = DSL.field("sequence", Long.class);
    static final Field<Long> DEVICE_TIME = DSL.field("device_time", Long.class);
    static final Field<Long> RECEIVED = DSL.field("received", Long.class);
    static final Field<Long> CLOCK_AHEAD = DSL.field("clock_ahead", Long.class);
    static final Field<Long> TIME = DSL.field("time", Long.class);
    static final Field<Integer> LATE = DSL.field("late", Integer.class);
    static final Field<String> KIND = DSL.field("kind", String.class);
    static final Field<String> DOOR = DSL.field("door", String.class);
    static final Field<String> CONTROLLER = DSL.field("controller", String.class);
    static final Field<String> READER = DSL.field("reader", String.class);
    static final Field<String> SIDE = DSL.field("side", String.class);
    static final Field<String> PERSON = DSL.field("person", String.class);
    static final Field<String> CREDENTIAL = DSL.field("credential", String.class);
    static final Field<String> OPERATOR = DSL.field("operator", String.class);
    static final Field<String> REASON = DSL.field("reason", String.class);
    static final Field<String> CODE = DSL.field("code", String.class);
    static final Field<String> CAUSE = DSL.field("cause", String.class);
    static final Field<String> DETAILS = DSL.field("details", String.class);
    static final Field<String> RAW = DSL.field("raw", String.class);

    static final List<Field<?>> ALL = List.of(
            POSITION,
            SYSTEM,
            EPOCH,
            SEQUENCE,
            DEVICE_TIME,
            RECEIVED,
            CLOCK_AHEAD,
            TIME,
            LATE,
            KIND,
            DOOR,
            CONTROLLER,
            READER,
            SIDE,
            PERSON,
            CREDENTIAL,
            OPERATOR,
            REASON,
            CODE,
            CAUSE,
            DETAILS,
            RAW);

    /** Inserts one event, or nothing where its key is taken. Bound by hand, since intake must keep up with a backlog. */
    static final String INSERT = DSL.using(SQLDialect.SQLITE)
            .insertInto(EVENT)
            .columns(ALL)
            .values(ALL.stream().map(f -> DSL.param(f.getName(), f)).toList())
            .onConflict(SYSTEM, EPOCH, SEQUENCE)
            .doNothing()
            .getSQL();

    private static final ObjectMapper JSON = new ObjectMapper();
    private static final TypeReference<Map<String, String>> MAP = new TypeReference<>() {};

    private EventRows() {}

    static void bind(PreparedStatement insert, Event e, long position) throws SQLException {
        insert.setLong(1, position);
        insert.setString(2, e.key().system().value());
        insert.setLong(3, e.key().epoch());
        insert.setLong(4, e.key().sequence());
        insert.setLong(5, micros(e.deviceTime()));
        insert.setLong(6, micros(e.received()));
        insert.setLong(7, e.offset().toNanos() / 1000);
        insert.setLong(8, micros(e.time()));
        insert.setInt(9, e.late() ? 1 : 0);
        insert.setString(10, e.kind().id());
        text(insert, 11, e.door(), DoorId::value);
        text(insert, 12, e.controller(), ControllerId::value);
        text(insert, 13, e.reader(), ReaderId::value);
        text(insert, 14, e.side(), Side::name);
        text(insert, 15, e.person(), PersonId::value);
        text(insert, 16, e.credential(), s -> s);
        text(insert, 17, e.operator(), s -> s);
        text(insert, 18, e.reason(), s -> s);
        text(insert, 19, e.code(), s -> s);
        text(insert, 20, e.cause(), s -> s);
        insert.setString(21, details(e.details()));
        insert.setString(22, e.raw());
    }

    private static <T> void text(PreparedStatement insert, int place, Optional<T> value, Function<T, String> as)
            throws SQLException {
        if (value.isPresent()) {
            insert.setString(place, as.apply(value.get()));
        } else {
            insert.setNull(place, Types.VARCHAR);
        }
    }

    static Event read(Record r) {
        return Event.of(
                        new EventKey(new SystemId(r.get(SYSTEM)), r.get(EPOCH), r.get(SEQUENCE)),
                        Kinds.of(r.get(KIND)),
                        instant(r.get(DEVICE_TIME)))
                .position(r.get(POSITION))
                .received(instant(r.get(RECEIVED)), Duration.ofNanos(r.get(CLOCK_AHEAD) * 1000))
                .time(instant(r.get(TIME)))
                .late(r.get(LATE) != 0)
                .door(of(r.get(DOOR), DoorId::new))
                .controller(of(r.get(CONTROLLER), ControllerId::new))
                .reader(of(r.get(READER), ReaderId::new))
                .side(of(r.get(SIDE), Side::valueOf))
                .person(of(r.get(PERSON), PersonId::new))
                .credential(r.get(CREDENTIAL))
                .operator(r.get(OPERATOR))
                .reason(r.get(REASON))
                .code(r.get(CODE))
                .cause(r.get(CAUSE))
                .details(details(r.get(DETAILS)))
                .raw(r.get(RAW))
                .build();
    }

    private static <T> T of(String value, Function<String, T> as) {
        return value == null ? null : as.apply(value);
    }

    static String details(Event event) {
        return details(event.details());
    }

    private static String details(Map<String, String> details) {
        if (details.isEmpty()) {
            return "";
        }
        try {
            return JSON.writeValueAsString(new java.util.TreeMap<>(details));
        } catch (JsonProcessingException e) {
            throw new IllegalStateException("a map of words could not be written", e);
        }
    }

    private static Map<String, String> details(String text) {
        if (text.isEmpty()) {
            return Map.of();
        }
        try {
            return JSON.readValue(text, MAP);
        } catch (JsonProcessingException e) {
            return Map.of("unreadable-details", text);
        }
    }

    static long micros(Instant t) {
        return Math.addExact(Math.multiplyExact(t.getEpochSecond(), 1_000_000L), t.getNano() / 1000);
    }

    static Instant instant(long micros) {
        return Instant.ofEpochSecond(Math.floorDiv(micros, 1_000_000L), Math.floorMod(micros, 1_000_000L) * 1000);
    }
}
