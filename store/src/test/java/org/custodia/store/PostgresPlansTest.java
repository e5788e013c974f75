package org.custodia.store;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.util.Optional;
import org.custodia.core.event.Cancellation;
import org.jooq.DSLContext;
import org.junit.jupiter.api.Test;

/**
 * How a server goes about each question. It decides by how much there is, so what is looked at is what it does with few
 * events when it may not go through them all.
 */
class PostgresPlansTest extends PlansTest {
    private final Optional<ServerAddress> server = Optional.of(TestServer.fresh());

    @Override
    Optional<ServerAddress> server() {
        return server;
    }

    private String plan(String sql) {
        return store.database.reader().transactionResult(c -> {
            DSLContext dsl = c.dsl();
            dsl.execute("SET LOCAL enable_seqscan = off");
            dsl.execute("SET LOCAL enable_sort = off");
            return String.join("\n", dsl.fetch("EXPLAIN " + sql).getValues(0, String.class));
        });
    }

    @Test
    @Override
    void pages_are_found_by_an_index_and_only_what_is_found_is_sorted() {
        for (var query : queries()) {
            log(new PageSearch.Reach(3, 5_000, 0)).find(query);
        }
        assertThat(asked).hasSizeGreaterThan(100);
        asked.forEach(sql -> assertThat(plan(sql)).as(sql).doesNotContain("Seq Scan on event"));
    }

    @Test
    @Override
    void sums_are_made_of_what_is_counted_already() {
        log(PageSearch.Reach.COMMON).count(org.custodia.core.event.EventQuery.all());
        assertThat(asked).isNotEmpty();
        asked.forEach(sql -> assertThat(plan(sql)).as(sql).doesNotContain(" on event"));
    }

    @Test
    @Override
    void single_events_and_what_follows_a_position_are_found_by_their_numbers() {
        SqlEventLog log = log(PageSearch.Reach.COMMON);
        log.byKey(StoreFixture.event(7).key());
        log.storedAfter(100, 10);
        log.newestPosition();
        log.newestOwnNumber();
        assertThat(asked).hasSize(4);
        asked.forEach(sql -> assertThat(plan(sql))
                .as(sql)
                .containsPattern("Index (Only )?Scan (Backward )?using event_(key|pkey)")
                .doesNotContain("Seq Scan on event"));
    }

    @Test
    @Override
    void the_day_line_is_counted_along_the_day() {
        log(PageSearch.Reach.COMMON).slices(MINUTE, Duration.ofSeconds(10), new Cancellation());
        assertThat(asked).isNotEmpty();
        asked.forEach(sql -> assertThat(plan(sql)).as(sql).doesNotContain("Seq Scan on event"));
    }
}
