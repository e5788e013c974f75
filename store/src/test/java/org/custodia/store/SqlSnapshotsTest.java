package org.custodia.store;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.function.Supplier;
import org.custodia.core.door.DoorWatch;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Kinds;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorCapability;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.SystemId;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Snapshots as they are written to the log's file and read from it. */
class SqlSnapshotsTest {
    private static final Instant START = Instant.parse("2026-11-24T14:00:00Z");
    private static final SystemId SYSTEM = new SystemId("tidewater");
    private static final DoorId VAULT = new DoorId("tidewater/vault");

    private final List<Event> events = new ArrayList<>();

    private Event event(long number, EventKind kind, int seconds, String... details) {
        Event.Builder event = Event.of(new EventKey(SYSTEM, 1, number), kind, START.plusSeconds(seconds))
                .door(VAULT);
        for (int i = 0; i < details.length; i += 2) {
            event.detail(details[i], details[i + 1]);
        }
        Event made = event.build();
        events.add(made);
        return made;
    }

    /** What {@link DoorWatch} holds of a door that was opened is the same after it was written and read. */
    @Test
    void what_is_known_of_doors_is_the_same_after_a_restart(@TempDir Path path) {
        Door door = new Door(
                VAULT,
                SYSTEM,
                new ControllerId("tidewater/c1"),
                "Vault ante-room",
                new SiteId("harbour"),
                "0",
                "",
                "",
                Duration.ofSeconds(60),
                Set.of(DoorCapability.CONTACT));
        Supplier<SiteModel> sites = () -> new SiteModel(List.of(), List.of(door), List.of(), List.of());
        List<String> found = new ArrayList<>();
        DoorWatch.Listener listener = new DoorWatch.Listener() {
            @Override
            public void follows(EventKind kind, Event by, Instant at) {
                found.add(kind + " by " + by.key().sequence());
            }

            @Override
            public void contradicted(EventKind kind, Event by, Instant at, Event because) {
                found.add("not " + kind + " by " + by.key().sequence());
            }
        };
        DoorWatch before = new DoorWatch(sites);
        before.take(event(1, Kinds.MODE, 0, "mode", "locked"), listener);
        before.take(event(7, Kinds.CLOSED, 1), listener);
        before.take(event(2, Kinds.GRANTED, 10), listener);
        before.take(event(4, Kinds.OPENED, 30), listener);
        assertThat(found).containsExactly("custodia.nobody-entered by 2", "door.forced by 4");
        DoorWatch.State state;
        try (StoreFixture store = new StoreFixture(path)) {
            new SqlSnapshots(store.database).save("doors", 1, 7, before.state());
        }
        try (StoreFixture store = new StoreFixture(path)) {
            state = new SqlSnapshots(store.database)
                    .load("doors", 1, DoorWatch.State.class)
                    .orElseThrow()
                    .state();
            assertThat(new SqlSnapshots(store.database).load("doors", 2, DoorWatch.State.class))
                    .isEmpty();
        }
        assertThat(state).isEqualTo(before.state());
        found.clear();
        DoorWatch after = new DoorWatch(sites);
        after.restore(
                state, key -> events.stream().filter(e -> e.key().equals(key)).findFirst());
        // Its grant was followed after all, and the opening was by an exit button.
        after.take(event(3, Kinds.OPENED, 12), listener);
        after.take(event(5, Kinds.CLOSED, 20), listener);
        after.take(event(6, Kinds.EXIT_REQUESTED, 29), listener);
        assertThat(found).contains("not custodia.nobody-entered by 2", "not door.forced by 4");
        assertThat(Optional.of(after.state())).isNotEqualTo(Optional.of(state));
    }
}
