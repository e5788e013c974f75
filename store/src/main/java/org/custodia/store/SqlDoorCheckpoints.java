package org.custodia.store;

import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Function;
import org.custodia.core.door.DoorCheckpoint;
import org.custodia.core.door.DoorCheckpoint.Touched;
import org.custodia.core.door.DoorCheckpoints;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventLogException;
import org.custodia.core.event.Kinds;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.SystemId;
import org.jooq.DSLContext;
import org.jooq.Field;
import org.jooq.Record;
import org.jooq.ResultQuery;
import org.jooq.Table;
import org.jooq.exception.DataAccessException;
import org.jooq.impl.DSL;

/** The checkpoints of doors, in the log's database. */
public final class SqlDoorCheckpoints implements DoorCheckpoints {
    private static final Table<Record> CHECKPOINT = DSL.table("door_checkpoint").as("k");
    private static final Table<Record> SCOPE = DSL.table("door_scope").as("d");
    private static final Field<String> DOOR = StoredText.column("k.door");
    private static final Field<Long> TIME = DSL.field("k.time", Long.class);
    private static final Field<String> KEY = DSL.field("k.last", String.class);
    private static final Field<String> SHAPE = DSL.field("k.shape", String.class);
    private static final Field<String> COURSE = StoredText.column("k.course");
    private static final Field<String> OF = StoredText.column("d.door");
    private static final Field<String> SYSTEM = DSL.field("d.system", String.class);
    private static final Field<String> CONTROLLER = StoredText.column("d.controller");
    /** So many events may come while checkpoints are made; with more of them they are made another time. */
    private static final int MOST_MEANWHILE = 2_000;

    /** Kinds that say more of a door than that they happened. */
    private static final List<String> TELLING = List.of(Kinds.MODE.id(), Kinds.REPORT.id());

    private final Database database;

    public SqlDoorCheckpoints(Database database) {
        this.database = database;
    }

    @Override
    public Optional<DoorCheckpoint> newest(DoorId door, Instant upTo) {
        return ask(dsl -> dsl.select(DOOR, SYSTEM, CONTROLLER, TIME, KEY, SHAPE, COURSE)
                .from(CHECKPOINT.join(SCOPE).on("d.door = k.door"))
                .where(DOOR.eq(door.value()), TIME.le(micros(upTo)))
                .orderBy(TIME.desc())
                .limit(1)
                .fetchOptional(SqlDoorCheckpoints::read));
    }

    private static long micros(Instant instant) {
        return instant.equals(Instant.MAX) ? Long.MAX_VALUE : EventRows.micros(instant);
    }

    private static DoorCheckpoint read(Record r) {
        return new DoorCheckpoint(
                new DoorId(r.get(DOOR)),
                new SystemId(r.get(SYSTEM)),
                new ControllerId(r.get(CONTROLLER)),
                EventRows.instant(r.get(TIME)),
                EventKey.parse(r.get(KEY)).orElseThrow(() -> new IllegalStateException("no key: " + r.get(KEY))),
                r.get(SHAPE),
                r.get(COURSE));
    }

    @Override
    public List<Since> since(Instant upTo) {
        long to = micros(upTo);
        Field<Long> newest = DSL.field(
                "(SELECT MAX(x.time) FROM door_checkpoint x WHERE x.door = d.door AND x.time <= {0})",
                Long.class, DSL.inline(to));
        return ask(dsl -> {
            Map<String, DoorCheckpoint> checkpoints = new LinkedHashMap<>();
            dsl.select(DOOR, SYSTEM, CONTROLLER, TIME, KEY, SHAPE, COURSE)
                    .from(SCOPE.crossJoin(CHECKPOINT))
                    .where(DOOR.eq(OF), TIME.eq(newest))
                    .forEach(r -> checkpoints.put(r.get(DOOR), read(r)));
            Map<String, List<Event>> events = new HashMap<>();
            // The doors come first, then what can happen there, then what did. Messages are fetched only where doors
            // depend on what they say.
            ResultQuery<?> question = dsl.select(EventRows.OF_DOORS)
                    .from(database.dialect()
                            .atDoors(SCOPE)
                            .leftJoin(EventRows.ORIGIN)
                            .on("g.id = e.origin")
                            .leftJoin(EventRows.PAYLOAD)
                            .on(DSL.condition("p.id = e.payload").and(EventRows.KIND.in(TELLING))))
                    .where(database.dialect().atDoorsSince(SCOPE, newest, to));
            try (ResultSet rows = question.fetchResultSet()) {
                while (rows.next()) {
                    Event event = EventRows.readOfDoors(rows, database.dialect(), database.payloads());
                    events.computeIfAbsent(event.door().orElseThrow().value(), d -> new ArrayList<>())
                            .add(event);
                }
            } catch (SQLException e) {
                throw new DataAccessException("events of doors", e);
            }
            return checkpoints.values().stream()
                    .map(c -> new Since(c, events.getOrDefault(c.door().value(), List.of())))
                    .toList();
        });
    }

    @Override
    public Map<DoorId, Long> happened() {
        Field<String> door = StoredText.column("o.door");
        return ask(dsl -> {
            Map<DoorId, Long> events = new HashMap<>();
            dsl.select(door, DSL.sum(EventRows.OCCASION_EVENTS).cast(Long.class))
                    .from(EventRows.OCCASION)
                    .where(door.isNotNull())
                    .groupBy(door)
                    .forEach(r -> events.put(new DoorId(r.value1()), r.value2()));
            return events;
        });
    }

    @Override
    public void keep(List<DoorCheckpoint> some, long position) {
        database.write(dsl -> {
            List<Event> came = EventRows.list(
                    dsl.select(EventRows.ALL)
                            .from(EventRows.whole())
                            .where(EventRows.POSITION.gt(position))
                            .limit(MOST_MEANWHILE),
                    database.payloads());
            if (came.size() == MOST_MEANWHILE) {
                return;
            }
            List<Touched> meanwhile =
                    came.stream().flatMap(e -> Touched.by(e).stream()).toList();
            // The newest of several at one place: a server takes a batch as one statement, which may say a thing once.
            Map<String, DoorCheckpoint> scopes = new LinkedHashMap<>();
            Map<List<Object>, DoorCheckpoint> kept = new LinkedHashMap<>();
            for (DoorCheckpoint c : some) {
                if (meanwhile.stream().noneMatch(t -> t.touches(c))) {
                    scopes.put(c.door().value(), c);
                    kept.put(List.of(c.door(), EventRows.micros(c.time())), c);
                }
            }
            dsl.connection(connection -> keep(connection, database.dialect(), scopes.values(), kept.values()));
        });
    }

    private static void keep(
            Connection connection,
            Dialect dialect,
            Collection<DoorCheckpoint> scopes,
            Collection<DoorCheckpoint> checkpoints)
            throws SQLException {
        try (PreparedStatement scope = connection.prepareStatement(
                        "INSERT INTO door_scope (door, system, controller) VALUES (?, ?, ?) ON CONFLICT (door)"
                                + " DO UPDATE SET system = excluded.system, controller = excluded.controller");
                PreparedStatement checkpoint = connection.prepareStatement(
                        "INSERT INTO door_checkpoint (door, time, last, shape, course) VALUES (?, ?, ?, ?, ?)"
                                + " ON CONFLICT (door, time) DO UPDATE SET last = excluded.last,"
                                + " shape = excluded.shape, course = excluded.course")) {
            for (DoorCheckpoint c : scopes) {
                scope.setString(1, dialect.stored(c.door().value()));
                scope.setString(2, c.system().value());
                scope.setString(3, dialect.stored(c.controller().value()));
                scope.addBatch();
            }
            for (DoorCheckpoint c : checkpoints) {
                checkpoint.setString(1, dialect.stored(c.door().value()));
                checkpoint.setLong(2, EventRows.micros(c.time()));
                checkpoint.setString(3, c.key().text());
                checkpoint.setString(4, c.shape());
                checkpoint.setString(5, dialect.stored(c.course()));
                checkpoint.addBatch();
            }
            scope.executeBatch();
            checkpoint.executeBatch();
        }
    }

    @Override
    public void forget(DoorId door) {
        database.write(
                dsl -> dsl.execute("DELETE FROM door_checkpoint WHERE door = ?", StoredText.value(door.value())));
    }

    /** Throws away what new events take the ground from, in their own transaction. */
    static void throwAway(Connection connection, Dialect dialect, List<Touched> touched) throws SQLException {
        Map<String, Long> doors = new HashMap<>();
        Map<String, Long> controllers = new HashMap<>();
        Map<String, Long> systems = new HashMap<>();
        for (Touched t : touched) {
            long time = EventRows.micros(t.time());
            t.door().ifPresent(d -> doors.merge(d.value(), time, Math::min));
            t.controller().ifPresent(c -> controllers.merge(c.value(), time, Math::min));
            t.system().ifPresent(s -> systems.merge(s, time, Math::min));
        }
        delete(connection, dialect, "door = ?", doors);
        delete(connection, dialect, "door IN (SELECT d.door FROM door_scope d WHERE d.controller = ?)", controllers);
        delete(connection, dialect, "door IN (SELECT d.door FROM door_scope d WHERE d.system = ?)", systems);
    }

    private static void delete(Connection connection, Dialect dialect, String which, Map<String, Long> from)
            throws SQLException {
        if (from.isEmpty()) {
            return;
        }
        try (PreparedStatement delete =
                connection.prepareStatement("DELETE FROM door_checkpoint WHERE " + which + " AND time >= ?")) {
            for (Map.Entry<String, Long> one : from.entrySet()) {
                delete.setString(1, dialect.stored(one.getKey()));
                delete.setLong(2, one.getValue());
                delete.addBatch();
            }
            delete.executeBatch();
        }
    }

    private <T> T ask(Function<DSLContext, T> question) {
        try {
            return question.apply(database.reader());
        } catch (DataAccessException e) {
            throw new EventLogException(database.words().notRead(e), e);
        }
    }
}
