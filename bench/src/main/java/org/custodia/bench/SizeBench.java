package org.custodia.bench;

import java.io.IOException;
import java.io.OutputStream;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.Set;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.atomic.AtomicBoolean;
import org.custodia.core.door.CheckpointKeeper;
import org.custodia.core.door.DoorBoard;
import org.custodia.core.event.Cancellation;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventField;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Filter;
import org.custodia.core.event.Kinds;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorCapability;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.SystemId;
import org.custodia.store.BatchIntake;
import org.custodia.store.DataDirectory;
import org.custodia.store.Database;
import org.custodia.store.ServerAddress;
import org.custodia.store.SqlDoorCheckpoints;
import org.custodia.store.SqlEventLog;

/** A year's log: how large it is, and how long its questions take. */
final class SizeBench {
    private static final int BATCH = 4_000;
    private static final int PAGE = 100;
    private static final int TRIES = 200;
    /** Questions that are asked before any is measured: the machine compiles what is asked often, and a console runs for days. */
    private static final int WARM = 1_000;
    /** The same on a server, where each takes longer and what is compiled here matters less. */
    private static final int TRIES_THERE = 40;

    private static final int WARM_THERE = 60;

    private final Path path;
    private final Optional<String> server;

    private SizeBench(Path path, Optional<String> server) {
        this.path = path;
        this.server = server;
    }

    /**
     * @param events how many
     * @param keep a directory that is made once and used again, or null for a temporary one
     * @param server the address of a database that the log is to lie in, if not in a file
     */
    static void run(long events, Path keep, Optional<String> server) throws Exception {
        Path path = keep == null ? Files.createTempDirectory("custodia-bench") : keep;
        boolean there = keep != null && Files.exists(keep.resolve("log-id"));
        try {
            SizeBench bench = new SizeBench(path, server);
            if (!there) {
                bench.fill(events);
            }
            bench.measure();
        } finally {
            if (keep == null) {
                TemporaryFiles.delete(path);
            }
        }
    }

    private Database open(DataDirectory directory) {
        return Database.open(
                directory,
                server.map(url -> ServerAddress.of(url, Optional.ofNullable(System.getenv(ServerAddress.PASSWORD)))),
                (done, of) -> {});
    }

    /** Has the file in memory, as a machine has that does nothing else: what a disk takes is not ours. */
    private void readThrough() throws IOException {
        if (server.isEmpty()) {
            Files.copy(path.resolve("custodia.db"), OutputStream.nullOutputStream());
        }
    }

    private void measure() throws Exception {
        long stored;
        readThrough();
        if (server.isEmpty()) {
            opening();
        }
        try (DataDirectory directory = DataDirectory.claim(path);
                Database database = open(directory)) {
            SqlEventLog log = new SqlEventLog(database);
            stored = log.count(EventQuery.all());
            pages(log);
            sums(log);
            states(database, log);
            waiting(database, log);
        }
        long bytes = server.isPresent() ? bytesThere() : Files.size(path.resolve("custodia.db"));
        System.out.printf(
                Locale.ROOT,
                "size: %,d events in %,d MB: %.0f bytes an event (wanted: at most 150)%n",
                stored,
                bytes >> 20,
                (double) bytes / stored);
    }

    /** All tables with their indexes. */
    private long bytesThere() throws SQLException {
        try (Connection connection =
                        DriverManager.getConnection(server.orElseThrow(), null, System.getenv(ServerAddress.PASSWORD));
                var s = connection.createStatement();
                var row = s.executeQuery(
                        "SELECT SUM(pg_total_relation_size(oid)) FROM pg_class WHERE relkind = 'r' AND relnamespace = current_schema()::regnamespace")) {
            row.next();
            return row.getLong(1);
        }
    }

    private void fill(long events) throws Exception {
        try (DataDirectory directory = DataDirectory.claim(path);
                Database database = open(directory);
                BatchIntake intake = new BatchIntake(database, new SqlEventLog(database), Clock.systemUTC())) {
            Map<SystemId, EventIntake.Feed> feeds = new LinkedHashMap<>();
            List<CompletableFuture<Void>> waiting = new ArrayList<>();
            long[] done = {0};
            long start = System.nanoTime();
            new YearOfEvents(events).days(day -> {
                Map<SystemId, List<Event>> bySystem = new LinkedHashMap<>();
                day.forEach(e -> bySystem.computeIfAbsent(e.key().system(), s -> new ArrayList<>())
                        .add(e));
                bySystem.forEach((system, some) -> {
                    EventIntake.Feed feed = feeds.computeIfAbsent(system, intake::feed);
                    for (int i = 0; i < some.size(); i += BATCH) {
                        waiting.add(feed.accept(
                                EventIntake.Batch.of(some.subList(i, Math.min(some.size(), i + BATCH)), true)));
                    }
                });
                done[0] += day.size();
                waiting.removeIf(CompletableFuture::isDone);
            });
            waiting.forEach(CompletableFuture::join);
            double seconds = (System.nanoTime() - start) / 1e9;
            System.out.printf(
                    Locale.ROOT,
                    "size: a year of %,d events stored in %.0f s, %,.0f a second (making them included)%n",
                    done[0],
                    seconds,
                    done[0] / seconds);
        }
    }

    /** The questions whose pages are asked for. */
    private static Map<String, Filter> filters() {
        Map<String, Filter> all = new LinkedHashMap<>();
        Filter door = Filter.is(EventField.DOOR, new DoorId("tidewater/door-17"));
        Filter quiet = Filter.is(EventField.DOOR, new DoorId("larkspur/door-299"));
        Filter person = Filter.is(EventField.PERSON, new PersonId("tidewater/p-4711"));
        Filter refused = Filter.is(EventField.KIND, Kinds.REFUSED);
        Filter forced = Filter.is(EventField.KIND, Kinds.FORCED);
        all.put("everything", Filter.everything());
        all.put("one door", door);
        all.put("a quiet door", quiet);
        all.put("one person", person);
        all.put("one person at one door", person.and(door));
        all.put("one credential", Filter.is(EventField.CREDENTIAL, "24711"));
        all.put("refused", refused);
        all.put("forced", forced);
        all.put("forced at one door", forced.and(door));
        all.put("refused at a quiet door", refused.and(quiet));
        all.put("one reason", Filter.is(EventField.REASON, "wrong PIN"));
        all.put("one system", Filter.is(EventField.SYSTEM, new SystemId("larkspur")));
        all.put("40 doors", Filter.isOneOf(EventField.DOOR, doors(40)));
        all.put(
                "granted at 40 doors",
                Filter.isOneOf(EventField.DOOR, doors(40)).and(Filter.is(EventField.KIND, Kinds.GRANTED)));
        all.put("a person or a door", Filter.or(person, quiet));
        all.put(
                "neither granted nor moved",
                Filter.not(Filter.isOneOf(
                        EventField.KIND, Set.of(Kinds.GRANTED, Kinds.OPENED, Kinds.CLOSED, Kinds.EXIT_REQUESTED))));
        all.put("late", Filter.late());
        all.put("an operator", Filter.is(EventField.OPERATOR, "ana"));
        all.put("a kind that never was", Filter.is(EventField.KIND, Kinds.of("lift.stuck")));
        all.put(
                "held and refused by 200 people",
                Filter.isOneOf(EventField.PERSON, people(200)).and(refused));
        return all;
    }

    private static List<DoorId> doors(int many) {
        List<DoorId> doors = new ArrayList<>();
        for (int i = 0; i < many; i++) {
            doors.add(new DoorId("tidewater/door-" + (i * 5)));
        }
        return doors;
    }

    private static List<PersonId> people(int many) {
        List<PersonId> people = new ArrayList<>();
        for (int i = 0; i < many; i++) {
            people.add(new PersonId("tidewater/p-" + i * 37));
        }
        return people;
    }

    private int warm() {
        return server.isEmpty() ? WARM : WARM_THERE;
    }

    private int tries() {
        return server.isEmpty() ? TRIES : TRIES_THERE;
    }

    private void pages(SqlEventLog log) throws Exception {
        Random random = new Random(5);
        Instant begin = YearOfEvents.FIRST_DAY.atStartOfDay(ZoneOffset.UTC).toInstant();
        Samples whole = new Samples();
        Samples ratios = new Samples();
        for (Map.Entry<String, Filter> filter : filters().entrySet()) {
            readThrough();
            Samples samples = new Samples();
            List<EventQuery> asked = new ArrayList<>();
            int found = 0;
            for (int i = -warm(); i < tries(); i++) {
                EventQuery query = EventQuery.all().where(filter.getValue());
                Instant at = begin.plus(Duration.ofMinutes(random.nextInt(YearOfEvents.DAYS * 24 * 60)));
                EventQuery page =
                        switch (Math.floorMod(i, 4)) {
                            case 0 -> query.newest(PAGE);
                            case 1 -> query.until(at).newest(PAGE);
                            case 2 -> query.since(at).oldest(PAGE);
                            default -> query.oldest(PAGE);
                        };
                long start = System.nanoTime();
                List<Event> events = log.find(page);
                if (i < 0) {
                    continue;
                }
                asked.add(page);
                samples.add((System.nanoTime() - start) / 1e6);
                found += events.size();
            }
            whole.add(samples.percentile(95));
            Samples shell = inTheShell(
                    asked.stream().map(q -> Shell.statements(() -> log.find(q))).toList());
            if (shell.count() > 0) {
                ratios.add(samples.percentile(95) / shell.percentile(95));
            }
            System.out.printf(
                    Locale.ROOT,
                    "size: pages of %-30s %s (%d events)%s%n",
                    filter.getKey(),
                    samples,
                    found,
                    shell.count() == 0
                            ? ""
                            : String.format(
                                    Locale.ROOT,
                                    "; the shell p95 %.0f ms, ratio %.2f",
                                    shell.percentile(95),
                                    samples.percentile(95) / shell.percentile(95)));
        }
        if (ratios.count() > 0) {
            System.out.printf(
                    Locale.ROOT,
                    "size: pages against the shell with the same statements: median ratio %.2f, largest %.2f (wanted: at most 1.50)%n",
                    ratios.percentile(50),
                    ratios.percentile(100));
        }
        System.out.printf(
                Locale.ROOT, "size: the slowest filter's p95 is %.0f ms (wanted: under 60)%n", whole.percentile(100));
    }

    private Samples inTheShell(List<List<String>> questions) throws Exception {
        Samples samples = new Samples();
        if (server.isEmpty() && Shell.there()) {
            new Shell(path.resolve("custodia.db")).millis(questions).forEach(samples::add);
        }
        return samples;
    }

    /** What going through the events costs, where nothing was counted before. */
    private void groupBy(String what, String sql) throws Exception {
        Samples shell = inTheShell(List.of(List.of(sql), List.of(sql), List.of(sql)));
        if (shell.count() > 0) {
            System.out.printf(
                    Locale.ROOT,
                    "size: the shell groups a year's events by %s in %.0f ms%n",
                    what,
                    shell.percentile(50));
        }
    }

    private void sums(SqlEventLog log) throws Exception {
        Random random = new Random(6);
        Instant begin = YearOfEvents.FIRST_DAY.atStartOfDay(ZoneOffset.UTC).toInstant();
        Samples day = new Samples();
        Samples year = new Samples();
        Samples line = new Samples();
        for (int i = 0; i < tries() / 4; i++) {
            Instant from = begin.plus(Duration.ofHours(random.nextInt((YearOfEvents.DAYS - 2) * 24)));
            EventQuery ofDay = EventQuery.all().between(from, from.plus(Duration.ofDays(1)));
            EventQuery ofYear = EventQuery.all().between(begin, begin.plus(Duration.ofDays(365)));
            for (EventField<?> field :
                    List.of(EventField.KIND, EventField.DOOR, EventField.REASON, EventField.PERSON)) {
                time(day, () -> log.facets(field, ofDay, 50, new Cancellation()));
                if (i < 3) {
                    time(
                            year,
                            "facets by " + field + ", a year",
                            () -> log.facets(field, ofYear, 50, new Cancellation()));
                }
            }
            time(day, () -> log.histogram(ofDay, Duration.ofMinutes(15), new Cancellation()));
            time(
                    day,
                    () -> log.histogram(
                            ofDay.where(Filter.is(EventField.KIND, Kinds.REFUSED)),
                            Duration.ofHours(1),
                            new Cancellation()));
            time(
                    line,
                    () -> log.slices(
                            ofDay.where(Filter.not(Filter.is(EventField.KIND, Kinds.REPORT))),
                            Duration.ofMinutes(10),
                            new Cancellation()));
            if (i < 3) {
                time(
                        year,
                        "histogram by day, a year",
                        () -> log.histogram(ofYear, Duration.ofDays(1), new Cancellation()));
                time(
                        year,
                        "histogram by local day, a year",
                        () -> log.histogram(
                                EventQuery.all()
                                        .between(begin.plus(Duration.ofHours(1)), begin.plus(Duration.ofDays(364))),
                                Duration.ofDays(1),
                                new Cancellation()));
                time(
                        year,
                        "histogram of one kind by hour, a year",
                        () -> log.histogram(
                                ofYear.where(Filter.is(EventField.KIND, Kinds.REFUSED)),
                                Duration.ofHours(1),
                                new Cancellation()));
            }
        }
        String events = "FROM event e JOIN occasion o ON o.id = e.occasion WHERE e.time >= "
                + begin.toEpochMilli() * 1000 + " AND e.time < "
                + begin.plus(Duration.ofDays(365)).toEpochMilli() * 1000;
        groupBy("kind", "SELECT o.kind, COUNT(*) " + events + " GROUP BY 1 ORDER BY 2 DESC LIMIT 50");
        groupBy("door", "SELECT o.door, COUNT(*) " + events + " GROUP BY 1 ORDER BY 2 DESC LIMIT 50");
        groupBy(
                "person",
                "SELECT b.person, COUNT(*) FROM event e JOIN bearer b ON b.id = e.bearer GROUP BY 1 ORDER BY 2 DESC LIMIT 50");
        groupBy("day", "SELECT e.time / 86400000000, COUNT(*) " + events + " GROUP BY 1");
        System.out.println("size: facets and histograms of a day " + day + " (wanted: under 150 ms)");
        System.out.println("size: the day line " + line);
        System.out.println("size: facets and histograms of a year " + year + " (wanted: under 1 s)");
    }

    /** How long it takes until the log can be used, against an empty one. */
    private void opening() throws Exception {
        Path empty = Files.createTempDirectory("custodia-bench");
        try {
            Samples full = new Samples();
            Samples none = new Samples();
            // The first one loads classes as well.
            for (int i = -1; i < 6; i++) {
                boolean large = i >= 0 && i % 2 == 0;
                Samples samples = i < 0 ? new Samples() : large ? full : none;
                long start = System.nanoTime();
                try (DataDirectory directory = DataDirectory.claim(large ? path : empty);
                        Database database = Database.open(directory);
                        BatchIntake intake = new BatchIntake(database, new SqlEventLog(database), Clock.systemUTC())) {
                    intake.coverage(new SystemId("tidewater"), 1);
                    new SqlEventLog(database).find(EventQuery.all().newest(PAGE));
                    samples.add((System.nanoTime() - start) / 1e6);
                }
            }
            System.out.println("size: opened " + full + "; an empty log " + none + " (wanted: at most 1 s more)");
        } finally {
            TemporaryFiles.delete(empty);
        }
    }

    /** How long an event waits to be stored while questions of all sorts are asked. */
    private static void waiting(Database database, SqlEventLog log) throws Exception {
        Samples samples = new Samples();
        AtomicBoolean enough = new AtomicBoolean();
        Instant begin = YearOfEvents.FIRST_DAY.atStartOfDay(ZoneOffset.UTC).toInstant();
        List<Filter> filters = List.copyOf(filters().values());
        Thread asking = new Thread(() -> {
            Random random = new Random(9);
            while (!enough.get()) {
                Instant at = begin.plus(Duration.ofMinutes(random.nextInt(YearOfEvents.DAYS * 24 * 60)));
                EventQuery day = EventQuery.all().between(at, at.plus(Duration.ofDays(1)));
                log.find(EventQuery.all()
                        .where(filters.get(random.nextInt(filters.size())))
                        .until(at)
                        .newest(PAGE));
                log.facets(EventField.DOOR, day, 50, new Cancellation());
                log.histogram(day, Duration.ofMinutes(15), new Cancellation());
            }
        });
        try (BatchIntake intake = new BatchIntake(database, log, Clock.systemUTC())) {
            asking.start();
            for (int i = 0; i < 1_000; i++) {
                long start = System.nanoTime();
                intake.record(Event.of(new EventKey(SystemId.CUSTODIA, 1, 0), Kinds.NOTE, begin.plusSeconds(i))
                                .detail("n", Integer.toString(i)))
                        .join();
                samples.add((System.nanoTime() - start) / 1e6);
            }
        } finally {
            enough.set(true);
            asking.join();
        }
        System.out.println("size: an event waited to be stored while questions were asked " + samples
                + " (wanted: p99 under 50 ms)");
    }

    /** How all doors stood at random instants, once there are checkpoints of them all. */
    private void states(Database database, SqlEventLog log) throws InterruptedException {
        List<Door> doors = new ArrayList<>();
        for (int i = 0; i < YearOfEvents.DOORS; i++) {
            String system = i < 200 ? "tidewater" : "larkspur";
            doors.add(new Door(
                    new DoorId(system + "/door-" + i),
                    new SystemId(system),
                    new ControllerId(system + "/c" + i / 4),
                    "Door " + i,
                    new SiteId("site"),
                    "0",
                    "outside",
                    "inside",
                    Duration.ofSeconds(30),
                    Set.of(DoorCapability.CONTACT, DoorCapability.REPORTS_FORCED, DoorCapability.REPORTS_HELD)));
        }
        SiteModel sites = new SiteModel(List.of(), doors, List.of(), List.of());
        Clock clock = Clock.fixed(
                YearOfEvents.FIRST_DAY
                        .plusDays(YearOfEvents.DAYS)
                        .atStartOfDay(ZoneOffset.UTC)
                        .toInstant(),
                ZoneOffset.UTC);
        SqlDoorCheckpoints checkpoints = new SqlDoorCheckpoints(database);
        try (BatchIntake intake = new BatchIntake(database, log, clock)) {
            long start = System.nanoTime();
            try (CheckpointKeeper keeper = new CheckpointKeeper(log, checkpoints, intake, () -> sites, clock)) {
                keeper.awaitAll();
            }
            System.out.printf(
                    Locale.ROOT, "size: checkpoints of all doors made in %.0f s%n", (System.nanoTime() - start) / 1e9);
            Samples samples = new Samples();
            Random random = new Random(8);
            try (DoorBoard board = new DoorBoard(log, checkpoints, intake, () -> sites, clock)) {
                Samples unmeasured = new Samples();
                for (int i = -warm(); i < tries(); i++) {
                    Instant at = YearOfEvents.FIRST_DAY
                            .atStartOfDay(ZoneOffset.UTC)
                            .toInstant()
                            .plus(Duration.ofMinutes(10_000L + random.nextInt(500_000)));
                    time(i < 0 ? unmeasured : samples, () -> board.all(at));
                }
            }
            System.out.println("size: state of " + doors.size() + " doors at a random instant " + samples
                    + " (wanted: under 150 ms)");
        }
    }

    private static void time(Samples samples, Runnable question) {
        long start = System.nanoTime();
        question.run();
        samples.add((System.nanoTime() - start) / 1e6);
    }

    private static void time(Samples samples, String name, Runnable question) {
        long start = System.nanoTime();
        question.run();
        double millis = (System.nanoTime() - start) / 1e6;
        samples.add(millis);
        System.out.printf(Locale.ROOT, "size: %s: %.0f ms%n", name, millis);
    }
}
