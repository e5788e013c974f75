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
import java.util.List;
import java.util.Locale;
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

/** Intake into the log against a plain JDBC batch of the same rows into the same table with the same indexes. */
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
        } finally {
            TemporaryFiles.delete(path);
        }
    }

    /** The same rows, ready made, as a plain batch; journal and durability as in the log. */
    private static double plain(List<Event> events) throws Exception {
        Path path = Files.createTempDirectory("custodia-bench");
        try {
            try (DataDirectory directory = DataDirectory.claim(path);
                    Database database = Database.open(directory)) {
                // Opened once so that the table and its indexes are there.
                database.file();
            }
            try (Connection connection = DriverManager.getConnection("jdbc:sqlite:" + path.resolve("custodia.db"))) {
                try (var s = connection.createStatement()) {
                    s.execute("PRAGMA journal_mode = WAL");
                    s.execute("PRAGMA synchronous = FULL");
                    s.execute("PRAGMA cache_size = -32000");
                }
                connection.setAutoCommit(false);
                long start = System.nanoTime();
                try (PreparedStatement insert = connection.prepareStatement(
                        "INSERT INTO event VALUES (?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?,?)")) {
                    for (int i = 0; i < events.size(); i++) {
                        bind(insert, events.get(i), i + 1);
                        insert.addBatch();
                        if ((i + 1) % BATCH == 0) {
                            insert.executeBatch();
                            connection.commit();
                        }
                    }
                    insert.executeBatch();
                    connection.commit();
                }
                return events.size() / ((System.nanoTime() - start) / 1e9);
            }
        } finally {
            TemporaryFiles.delete(path);
        }
    }

    private static void bind(PreparedStatement s, Event e, long position) throws Exception {
        s.setLong(1, position);
        s.setString(2, e.key().system().value());
        s.setLong(3, e.key().epoch());
        s.setLong(4, e.key().sequence());
        s.setLong(5, e.deviceTime().toEpochMilli() * 1000);
        s.setLong(6, e.received().toEpochMilli() * 1000);
        s.setLong(7, 350_000);
        s.setLong(8, e.time().toEpochMilli() * 1000);
        s.setInt(9, 0);
        s.setString(10, e.kind().id());
        s.setString(11, e.door().map(DoorId::value).orElse(null));
        s.setString(12, e.controller().map(ControllerId::value).orElse(null));
        s.setString(13, e.reader().map(ReaderId::value).orElse(null));
        s.setString(14, e.side().map(Side::name).orElse(null));
        s.setString(15, e.person().map(PersonId::value).orElse(null));
        s.setString(16, e.credential().orElse(null));
        s.setString(17, null);
        s.setString(18, null);
        s.setString(19, e.code().orElse(null));
        s.setString(20, null);
        s.setString(21, "");
        s.setString(22, e.raw());
    }
}
