package org.custodia.bench;

import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.PreparedStatement;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.concurrent.CompletableFuture;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.Kinds;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.ReaderId;
import org.custodia.core.site.Side;
import org.custodia.core.site.SystemId;
import org.custodia.store.BatchIntake;
import org.custodia.store.DataDirectory;
import org.custodia.store.Database;
import org.custodia.store.SqlEventLog;

/** Intake into the log against plain JDBC batches of the rows it makes, into the same tables with the same indexes. */
final class IntakeBench {
    private static final int EVENTS = 100_000;
    private static final int BATCH = 4_000;
    private static final int ROUNDS = 4;

    private IntakeBench() {}

    static void run() throws Exception {
        List<Event> events = new ArrayList<>();
        for (int i = 1; i <= EVENTS; i++) {
            events.add(event(i));
        }
        double plain = 0;
        double intake = 0;
        for (int round = 0; round < ROUNDS; round++) {
            double p = plain(events);
            double i = intake(events);
            if (round > 0) {
                plain += p / (ROUNDS - 1);
                intake += i / (ROUNDS - 1);
            }
        }
        System.out.printf(
                Locale.ROOT,
                "intake: %,.0f events a second; plain JDBC batch %,.0f rows a second; ratio %.2f (wanted: at least 0.50, and 20,000 a second)%n",
                intake,
                plain,
                intake / plain);
    }

    private static Event event(long n) {
        Instant at = Instant.parse("2026-11-24T08:00:00Z").plusMillis(n * 90);
        return Event.of(
                        new EventKey(new SystemId("tidewater"), 1, n),
                        n % 3 == 0 ? Kinds.GRANTED : n % 3 == 1 ? Kinds.OPENED : Kinds.CLOSED,
                        at)
                .received(at.plusMillis(30), Duration.ofMillis(350))
                .door(new DoorId("tidewater/door-" + n % 48))
                .controller(new ControllerId("tidewater/c" + n % 8))
                .reader(n % 3 == 0 ? new ReaderId("door-" + n % 48 + ".in") : null)
                .side(n % 3 == 0 ? Side.ENTRY : null)
                .person(n % 3 == 0 ? new PersonId("tidewater/p" + n % 260) : null)
                .credential(n % 3 == 0 ? Long.toString(20_000 + n % 260) : null)
                .code("T" + (100 + n % 14))
                .raw(
                        "{\"epoch\":1,\"seq\":" + n + ",\"time\":\"" + at
                                + "\",\"kind\":\"access.granted\",\"code\":\"T100\",\"door\":\"door-1\",\"controller\":\"c1\",\"reader\":\"door-1.in\",\"side\":\"entry\",\"person\":\"p1\",\"credential\":\"20001\"}")
                .build();
    }

    private static double intake(List<Event> events) throws Exception {
        Path path = Files.createTempDirectory("custodia-bench");
        try {
            return intake(events, path);
        } finally {
            TemporaryFiles.delete(path);
        }
    }

    private static double intake(List<Event> events, Path path) throws Exception {
        try (DataDirectory directory = DataDirectory.claim(path);
                Database database = Database.open(directory);
                BatchIntake intake = new BatchIntake(database, new SqlEventLog(database), Clock.systemUTC())) {
            EventIntake.Feed feed = intake.feed(new SystemId("tidewater"));
            long start = System.nanoTime();
            CompletableFuture<Void> last = null;
            for (int i = 0; i < events.size(); i += BATCH) {
                last = feed.accept(EventIntake.Batch.of(events.subList(i, Math.min(events.size(), i + BATCH)), true));
            }
            last.join();
            return events.size() / ((System.nanoTime() - start) / 1e9);
        }
    }

    /** The same rows, ready made, into the same tables as plain batches; journal and durability as in the log. */
    private static double plain(List<Event> events) throws Exception {
        Path made = Files.createTempDirectory("custodia-bench");
        Path path = Files.createTempDirectory("custodia-bench");
        try {
            intake(events, made);
            Map<String, List<Object[]>> rows = rows(made);
            try (DataDirectory directory = DataDirectory.claim(path)) {
                // Opened once so that the tables and their indexes are there.
                Database.open(directory).close();
            }
            try (Connection connection = DriverManager.getConnection("jdbc:sqlite:" + path.resolve("custodia.db"))) {
                try (var s = connection.createStatement()) {
                    s.execute("PRAGMA journal_mode = WAL");
                    s.execute("PRAGMA synchronous = FULL");
                    s.execute("PRAGMA cache_size = -32000");
                }
                connection.setAutoCommit(false);
                long start = System.nanoTime();
                for (Map.Entry<String, List<Object[]>> table : rows.entrySet()) {
                    insert(connection, table.getKey(), table.getValue());
                }
                return events.size() / ((System.nanoTime() - start) / 1e9);
            }
        } finally {
            TemporaryFiles.delete(path);
            TemporaryFiles.delete(made);
        }
    }

    private static void insert(Connection connection, String table, List<Object[]> rows) throws Exception {
        if (rows.isEmpty()) {
            return;
        }
        String sql = "INSERT INTO " + table + " VALUES (?" + ",?".repeat(rows.get(0).length - 1) + ")";
        try (PreparedStatement insert = connection.prepareStatement(sql)) {
            for (int i = 0; i < rows.size(); i++) {
                Object[] row = rows.get(i);
                for (int c = 0; c < row.length; c++) {
                    insert.setObject(c + 1, row[c]);
                }
                insert.addBatch();
                if ((i + 1) % BATCH == 0 || i == rows.size() - 1) {
                    insert.executeBatch();
                    connection.commit();
                }
            }
        }
    }

    /** What the intake makes of the events, table by table. */
    private static Map<String, List<Object[]>> rows(Path made) throws Exception {
        Map<String, List<Object[]>> all = new LinkedHashMap<>();
        try (Connection connection = DriverManager.getConnection("jdbc:sqlite:" + made.resolve("custodia.db"))) {
            for (String table :
                    List.of("origin", "occasion", "bearer", "payload", "event", "hour_count", "day_count")) {
                List<Object[]> rows = new ArrayList<>();
                try (var select = connection.createStatement();
                        var found = select.executeQuery("SELECT * FROM " + table)) {
                    int columns = found.getMetaData().getColumnCount();
                    while (found.next()) {
                        Object[] row = new Object[columns];
                        for (int c = 0; c < columns; c++) {
                            row[c] = found.getObject(c + 1);
                        }
                        rows.add(row);
                    }
                }
                all.put(table, rows);
            }
        }
        return all;
    }
}
