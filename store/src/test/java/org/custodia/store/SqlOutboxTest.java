package org.custodia.store;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventQuery;
import org.custodia.core.message.Occasion;
import org.custodia.core.message.Outbox;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.SystemId;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Messages under way are there after the end, too, and none is there twice. */
class SqlOutboxTest {
    private static final Instant T = StoreFixture.START;

    private static Outbox.Slip slip(int alarm, String receiver, Occasion occasion) {
        return new Outbox.Slip(new EventKey(SystemId.CUSTODIA, 1, alarm), T, receiver, occasion);
    }

    @Test
    void what_is_put_in_twice_is_there_once_and_outlives_a_restart(@TempDir Path path) {
        String id;
        try (StoreFixture store = new StoreFixture(path)) {
            Outbox outbox = new SqlOutbox(store.database, store.intake);
            Outbox.Slip one = slip(1, "duty", Occasion.RAISED);
            outbox.put(List.of(one, one, slip(1, "duty", Occasion.ENDED), slip(1, "phones", Occasion.RAISED)), T);
            outbox.put(List.of(one), T.plusSeconds(9));
            assertThat(outbox.all(10)).hasSize(3);
            Outbox.Entry first = outbox.due("duty", T, 1).get(0);
            id = first.id();
            assertThat(first.slip()).isEqualTo(one);
            assertThat(first.maybe()).isFalse();
            outbox.begin(first, T);
        }
        try (StoreFixture store = new StoreFixture(path)) {
            Outbox outbox = new SqlOutbox(store.database, store.intake);
            Outbox.Entry first = outbox.due("duty", T, 1).get(0);
            assertThat(first.id()).isEqualTo(id);
            assertThat(first.attempts()).isEqualTo(1);
            assertThat(first.maybe())
                    .as("it was begun, and nobody knows what came of it")
                    .isTrue();
            assertThat(outbox.receiversDue(T)).containsExactlyInAnyOrder("duty", "phones");
            // Of another call of the same alarm they are told as well, once.
            Outbox.Slip more = new Outbox.Slip(new EventKey(SystemId.CUSTODIA, 1, 1), T, "phones", Occasion.RAISED, 12);
            outbox.put(List.of(more, more), T);
            assertThat(outbox.all(10)).hasSize(4).extracting(Outbox.Entry::slip).contains(more);
            assertThat(outbox.of(more.alarm())).hasSize(4);
            // Nobody is asked about what is sent or given up.
            outbox.put(List.of(slip(1, "duty", Occasion.RAISED)), T);
            assertThat(outbox.due("duty", T, 10)).hasSize(2);
        }
    }

    @Test
    void what_waits_comes_first_and_is_due_when_its_time_has_come(@TempDir Path path) {
        try (StoreFixture store = new StoreFixture(path)) {
            Outbox outbox = new SqlOutbox(store.database, store.intake);
            outbox.put(List.of(slip(1, "duty", Occasion.RAISED), slip(2, "duty", Occasion.RAISED)), T);
            outbox.put(List.of(slip(3, "duty", Occasion.RAISED)), T.plusSeconds(60));
            List<Outbox.Entry> all = outbox.all(10);
            Saying why = Saying.of("message.nobody-there", "mail.example", 25);
            Instant later = T.plusSeconds(5);
            Outbox.Result waiting = new Outbox.Result(
                    Outbox.State.WAITING, true, T.plusSeconds(30), Optional.of(why), List.of("a@x.test", "b@x.test"));
            outbox.end(all.get(0), waiting, later, List.of());
            Outbox.Result sent = new Outbox.Result(Outbox.State.SENT, false, later, Optional.empty());
            outbox.end(all.get(1), sent, later, List.of(StoreFixture.fact()));
            assertThat(store.log.count(EventQuery.all())).isEqualTo(1);
            assertThat(outbox.due("duty", later, 10)).isEmpty();
            assertThat(outbox.receiversDue(T.plusSeconds(30))).containsExactly("duty");
            assertThat(outbox.all(10))
                    .extracting(e -> e.slip().alarm().sequence())
                    .containsExactly(1L, 3L, 2L);
            Outbox.Entry waits = outbox.entry(all.get(0).number()).orElseThrow();
            assertThat(waits.said()).contains(why);
            assertThat(waits.remaining()).containsExactly("a@x.test", "b@x.test");
            assertThat(waits.maybe()).isTrue();
            assertThat(outbox.fares())
                    .containsOnlyKeys("duty")
                    .containsEntry("duty", new Outbox.Fares(2, Optional.of(T), Optional.of(later)));
            // Its clock was set back by a day: nothing is put so far ahead.
            assertThat(outbox.receiversDue(T.minus(Duration.ofDays(1)))).containsExactly("duty");
            assertThat(outbox.due("duty", T.minus(Duration.ofDays(1)), 10)).hasSize(2);
            outbox.hurry("duty", later);
            assertThat(outbox.due("duty", later, 10)).hasSize(2);
            assertThat(outbox.of(new EventKey(SystemId.CUSTODIA, 1, 2))).hasSize(1);
            // What waits is never forgotten.
            outbox.forget(T.plus(Duration.ofDays(90)));
            assertThat(outbox.all(10)).hasSize(2);
        }
    }
}
