package org.custodia.store;

import java.nio.file.Path;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CopyOnWriteArrayList;
import org.awaitility.core.ConditionFactory;
import org.custodia.core.Patience;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.Kinds;
import org.custodia.core.setup.WholeSetup;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Pairing;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.SystemId;
import org.jooq.DSLContext;
import org.jooq.ExecuteContext;
import org.jooq.ExecuteListener;
import org.jooq.impl.DSL;
import org.jooq.impl.DefaultExecuteListenerProvider;

/** A log in a directory, with what was published from it. */
final class StoreFixture implements AutoCloseable {
    static final SystemId SYSTEM = new SystemId("tidewater");
    static final Instant START = Instant.parse("2026-11-24T14:20:00Z");

    final DataDirectory directory;
    final Database database;
    final SqlEventLog log;
    final BatchIntake intake;
    final List<Event> published = new CopyOnWriteArrayList<>();

    StoreFixture(Path path) {
        this(path, Optional.empty());
    }

    StoreFixture(Path path, Optional<ServerAddress> server) {
        directory = DataDirectory.claim(path);
        try {
            database = Database.open(directory, server, (done, of) -> {});
        } catch (RuntimeException e) {
            directory.close();
            throw e;
        }
        log = new SqlEventLog(database);
        intake = new BatchIntake(database, log, Clock.systemUTC());
        intake.subscribe(published::addAll);
    }

    /** Answers questions, and puts down what it was asked. */
    DSLContext listened(Collection<String> asked) {
        return DSL.using(
                database.reader().configuration().derive(new DefaultExecuteListenerProvider(new ExecuteListener() {
                    private static final long serialVersionUID = 1L;

                    @Override
                    public void executeStart(ExecuteContext context) {
                        if (context.query() != null) {
                            asked.add(DSL.using(context.dialect()).renderInlined(context.query()));
                        }
                    }
                })));
    }

    /** From now on the disk is full. */
    void limitPages() {
        if (database.dialect() == Dialect.SQLITE) {
            database.write(dsl -> {
                int pages = dsl.fetchOne("PRAGMA page_count").get(0, Integer.class);
                dsl.execute("PRAGMA max_page_count = " + pages);
            });
        } else {
            database.write(dsl -> {
                dsl.execute("CREATE OR REPLACE FUNCTION full_disk() RETURNS trigger LANGUAGE plpgsql AS"
                        + " $$ BEGIN RAISE EXCEPTION 'no space' USING ERRCODE = '53100'; END $$");
                dsl.execute("CREATE TRIGGER full_disk AFTER INSERT ON event EXECUTE FUNCTION full_disk()");
            });
        }
    }

    /** There is room again. */
    void unlimitPages() {
        database.write(dsl -> dsl.execute(
                database.dialect() == Dialect.SQLITE
                        ? "PRAGMA max_page_count = 1000000"
                        : "DROP TRIGGER full_disk ON event"));
    }

    /** A text that no compression makes much shorter. */
    static String noise(int length) {
        Random random = new Random(7);
        return random.ints(length, ' ', '~' + 1)
                .collect(StringBuilder::new, StringBuilder::appendCodePoint, StringBuilder::append)
                .toString();
    }

    /** An event recording some edit of a register. */
    static Event.Builder fact() {
        return Event.of(new EventKey(SystemId.CUSTODIA, 1, 0), Kinds.SET_UP, START)
                .detail("what", "test");
    }

    /** Stores events in one batch of a feed of their own. */
    CompletableFuture<Void> accept(List<Event> events, boolean backlog) {
        return intake.feed(SYSTEM).accept(EventIntake.Batch.of(events, backlog));
    }

    /** Waits for what is to come; what fails in a thread of another test meanwhile is not meant. */
    static ConditionFactory await() {
        return Patience.await();
    }

    static Event event(long sequence) {
        return event(sequence, sequence);
    }

    static Event event(long sequence, double seconds) {
        return Event.of(
                        new EventKey(SYSTEM, 1, sequence),
                        sequence % 3 == 0 ? Kinds.REFUSED : Kinds.GRANTED,
                        START.plusMillis((long) (seconds * 1000)))
                .received(START.plusMillis((long) (seconds * 1000) + 40), Duration.ofMillis(350))
                .door(new DoorId("tidewater/d" + sequence % 7))
                .person(new PersonId("tidewater/p" + sequence % 5))
                .credential("2" + sequence)
                .detail("credential-kind", "card")
                .raw("{\"seq\":" + sequence + "}")
                .build();
    }

    static List<Event> events(long from, long to) {
        List<Event> result = new ArrayList<>();
        for (long i = from; i <= to; i++) {
            result.add(event(i));
        }
        return result;
    }

    @Override
    public void close() {
        intake.close();
        database.close();
        directory.close();
    }

    /** A links file that says nothing but which cameras show doors. */
    static WholeSetup file(List<Pairing> pairs) {
        return new WholeSetup(
                "Sternwick Museum", List.of(), List.of(), pairs, List.of(), List.of(), List.of(), Map.of(), List.of());
    }
}
