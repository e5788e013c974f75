package org.custodia.store;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Path;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventLog;
import org.custodia.core.event.EventQuery;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.TestInstance;
import org.junit.jupiter.api.io.TempDir;

/** The log in SQL, looked through in each of its ways. */
@TestInstance(TestInstance.Lifecycle.PER_CLASS)
abstract class SqlLogTest extends EventLogContract {
    private static final int EVENTS = 4_000;

    private StoreFixture store;
    private final List<Event> sent = new ArrayList<>();
    private List<EventLog> ways;
    private int asked;

    /** Where the log lies, unless it lies in a file. */
    abstract Optional<ServerAddress> server();

    @BeforeAll
    void store(@TempDir Path path) {
        store = new StoreFixture(path, server());
        RandomEvents random = new RandomEvents(30);
        Database database = store.database;
        // Written as they are, since what intake makes of times is its own affair.
        database.write(dsl -> dsl.connection(connection -> {
            EventWriter writer = new EventWriter(connection, database.dialect(), database.payloads());
            for (Event event : random.events(EVENTS)) {
                sent.add(event.toBuilder().position(sent.size() + 1L).build());
                writer.add(event, sent.size());
                if (sent.size() % 700 == 0) {
                    writer.flush();
                }
            }
            writer.flush();
        }));
        ways = List.of(
                new SqlEventLog(database),
                new SqlEventLog(database, database::reader, new PageSearch.Reach(0, 5_000, 0)),
                new SqlEventLog(database, database::reader, new PageSearch.Reach(3, 0, 0)),
                new SqlEventLog(database, database::reader, new PageSearch.Reach(40, 6, 0)));
    }

    @AfterAll
    void close() {
        store.close();
    }

    @Override
    List<Event> stored() {
        return sent;
    }

    @Override
    EventLog log() {
        return ways.get(asked++ % ways.size());
    }

    @Test
    void each_way_gives_the_same() {
        RandomEvents random = new RandomEvents(35);
        for (int i = 0; i < questions() / 2; i++) {
            EventQuery query = random.query(sent);
            List<Event> found = ways.get(0).find(query);
            for (EventLog way : ways) {
                assertThat(way.find(query)).as("%s", query).isEqualTo(found);
            }
        }
    }

    @Test
    void what_lies_outside_of_the_log_is_not_looked_for() {
        assertThat(log().find(EventQuery.all().until(Instant.parse("1980-01-01T00:00:00Z"))))
                .isEmpty();
        assertThat(log().find(EventQuery.all().since(Instant.parse("2400-01-01T00:00:00Z"))))
                .isEmpty();
        assertThat(log().count(EventQuery.all().since(Instant.parse("2400-01-01T00:00:00Z"))))
                .isZero();
    }
}
