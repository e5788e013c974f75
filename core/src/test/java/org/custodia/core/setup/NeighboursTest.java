package org.custodia.core.setup;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Random;
import java.util.Set;
import java.util.concurrent.CancellationException;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.constraints.IntRange;
import org.custodia.core.event.Cancellation;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.MemoryLog;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.SystemId;
import org.custodia.core.site.Walk;
import org.junit.jupiter.api.Test;

/** Which doors are neighbours, told from who went from one to the other. */
class NeighboursTest {
    private static final Instant START = Instant.parse("2026-11-20T08:00:00Z");
    private static final SystemId SYSTEM = new SystemId("tidewater");
    private final Neighbours neighbours = new Neighbours();
    private Instant now = START;

    private static Door door(String id, String outside, String inside) {
        return new Door(
                new DoorId("tidewater/" + id),
                SYSTEM,
                new ControllerId("tidewater/c"),
                id,
                new SiteId("harbour"),
                "",
                outside,
                inside,
                Duration.ofSeconds(30),
                Set.of());
    }

    private static final Door LOBBY = door("lobby", "Quay", "Lobby");
    private static final Door STAIRS = door("stairs", "Lobby", "Stairs");
    private static final Door ARCHIVE = door("archive", "Stairs", "Archive");
    private static final Door NOWHERE = door("nowhere", "", "");
    private static final SiteModel SITES =
            new SiteModel(List.of(), List.of(LOBBY, STAIRS, ARCHIVE, NOWHERE), List.of(), List.of());

    private void walks(String person, Door from, Door to, long millis) {
        PersonId who = new PersonId("tidewater/" + person);
        neighbours.passed(who, from.id(), now);
        neighbours.passed(who, to.id(), now.plusMillis(millis));
        now = now.plus(Duration.ofHours(1));
    }

    @Test
    void the_walk_takes_what_it_took_in_the_middle_both_ways_and_from_how_many() {
        for (int i = 0; i < 5; i++) {
            walks("p" + i, LOBBY, STAIRS, 20_000 + i * 1_000);
            walks("q" + i, STAIRS, LOBBY, 30_000 + i * 1_000);
        }
        List<Neighbours.Proposal> found = neighbours.proposals(SITES);
        assertThat(found).hasSize(1);
        Neighbours.Proposal one = found.get(0);
        assertThat(one.walk()).isEqualTo(new Walk(LOBBY.id(), STAIRS.id(), Duration.ofMillis(27_000)));
        assertThat(one.walks()).isEqualTo(10);
        assertThat(one.quick()).isEqualTo(Duration.ofSeconds(21));
        assertThat(one.shared()).contains("Lobby");
    }

    @Test
    void too_few_too_slow_the_same_door_and_a_badge_at_two_doors_at_once_say_nothing() {
        for (int i = 0; i < Neighbours.FEWEST - 1; i++) {
            walks("p", LOBBY, STAIRS, 20_000);
        }
        for (int i = 0; i < 50; i++) {
            walks("slow", LOBBY, STAIRS, Neighbours.LONGEST.toMillis() + 1);
            walks("same", LOBBY, LOBBY, 5_000);
            walks("copied", LOBBY, STAIRS, 500);
            walks("back", LOBBY, STAIRS, -20_000);
        }
        assertThat(neighbours.proposals(SITES)).isEmpty();
        walks("p", LOBBY, STAIRS, 20_000);
        assertThat(neighbours.proposals(SITES)).hasSize(1);
    }

    @Test
    void doors_that_share_no_zone_are_proposed_only_where_most_go_there_next() {
        for (int i = 0; i < 20; i++) {
            walks("a" + i, LOBBY, STAIRS, 20_000);
            walks("b" + i, STAIRS, ARCHIVE, 20_000);
        }
        for (int i = 0; i < 9; i++) {
            walks("c" + i, LOBBY, ARCHIVE, 60_000);
        }
        assertThat(neighbours.proposals(SITES))
                .extracting(p -> p.walk().key())
                .containsExactlyInAnyOrder(
                        new Walk(LOBBY.id(), STAIRS.id(), Duration.ZERO).key(),
                        new Walk(STAIRS.id(), ARCHIVE.id(), Duration.ZERO).key());
        for (int i = 0; i < 10; i++) {
            walks("d" + i, NOWHERE, ARCHIVE, 60_000);
        }
        assertThat(neighbours.proposals(SITES)).hasSize(3);
        // A door that is no more is nobody's neighbour.
        assertThat(neighbours.proposals(SiteModel.EMPTY)).isEmpty();
    }

    @Property(tries = 60)
    void many_at_once_are_kept_apart_whatever_order_their_badges_come_in(
            @ForAll @IntRange(min = 8, max = 40) int people, @ForAll long seed) {
        Neighbours all = new Neighbours();
        Random random = new Random(seed);
        List<Event> events = new ArrayList<>();
        for (int i = 0; i < people; i++) {
            PersonId who = new PersonId("tidewater/p" + i);
            Instant at = START.plusMillis(random.nextInt(600_000));
            events.add(granted(who, LOBBY, at, i * 2 + 1));
            events.add(granted(who, STAIRS, at.plusSeconds(25), i * 2 + 2));
        }
        events.sort((a, b) -> a.time().compareTo(b.time()));
        events.forEach(e -> all.passed(e.person().orElseThrow(), e.door().orElseThrow(), e.time()));
        assertThat(all.proposals(SITES)).hasSize(1).allSatisfy(p -> {
            assertThat(p.walks()).isEqualTo(people);
            assertThat(p.walk().takes()).isEqualTo(Duration.ofSeconds(25));
        });
    }

    private static Event granted(PersonId who, Door door, Instant at, long number) {
        return Event.of(new EventKey(SYSTEM, 1, number), Kinds.GRANTED, at)
                .door(door.id())
                .person(who)
                .build();
    }

    @Test
    void the_log_is_read_page_by_page_and_reading_ends_when_it_is_not_wanted() {
        MemoryLog log = new MemoryLog();
        for (int i = 0; i < 6_000; i++) {
            PersonId who = new PersonId("tidewater/p" + i % 7);
            log.store(granted(who, i / 7 % 2 == 0 ? LOBBY : STAIRS, START.plusSeconds(3L * i), i + 1));
        }
        List<Long> told = new ArrayList<>();
        Neighbours read = Neighbours.of(log, START, START.plus(Duration.ofDays(1)), told::add, new Cancellation());
        assertThat(told).hasSize(1);
        assertThat(read.proposals(SITES)).extracting(Neighbours.Proposal::walks).containsExactly(5_993);
        Cancellation unwanted = new Cancellation();
        unwanted.cancel();
        assertThatThrownBy(() -> Neighbours.of(log, START, START.plusSeconds(9), d -> {}, unwanted))
                .isInstanceOf(CancellationException.class);
    }
}
