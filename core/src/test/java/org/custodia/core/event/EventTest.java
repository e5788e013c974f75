package org.custodia.core.event;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.time.Duration;
import java.time.Instant;
import java.util.List;
import org.custodia.core.site.SystemId;
import org.junit.jupiter.api.Test;

class EventTest {
    private static final Instant T = Instant.parse("2026-11-24T14:20:00.123456789Z");

    @Test
    void the_corrected_time_is_the_device_time_less_the_offset_in_microseconds() {
        Event e = Event.of(new EventKey(new SystemId("a"), 1, 2), Kinds.GRANTED, T)
                .received(T.plusSeconds(3), Duration.ofNanos(1_000_000_999))
                .build();
        assertThat(e.deviceTime()).isEqualTo(Instant.parse("2026-11-24T14:20:00.123456Z"));
        assertThat(e.time()).isEqualTo(Instant.parse("2026-11-24T14:19:59.123456Z"));
        assertThat(e.toBuilder().build()).isEqualTo(e);
    }

    @Test
    void keys_survive_being_written_whatever_the_system_is_called() {
        EventKey key = new EventKey(new SystemId("north:store"), 3, 99);
        assertThat(EventKey.parse(key.text())).contains(key);
        assertThat(EventKey.parse("nonsense")).isEmpty();
    }

    @Test
    void kinds_are_open_but_not_everything_is_one() {
        assertThat(Kinds.of("door.opened")).isSameAs(Kinds.OPENED);
        assertThat(Kinds.entry(Kinds.of("Ventil auf")).name()).isEqualTo("Ventil auf");
        for (String bad : List.of("", " ", "a\nb", "x".repeat(101))) {
            assertThatThrownBy(() -> Kinds.of(bad)).isInstanceOf(IllegalArgumentException.class);
        }
    }

    private static Event.Builder full() {
        return Event.of(
                        new EventKey(new SystemId("tidewater"), 1, 7),
                        Kinds.REFUSED,
                        Instant.parse("2026-11-24T14:00:00Z"))
                .received(Instant.parse("2026-11-24T14:00:01Z"), java.time.Duration.ofMillis(300))
                .position(3)
                .late(true)
                .door(new org.custodia.core.site.DoorId("tidewater/vault"))
                .controller(new org.custodia.core.site.ControllerId("tidewater/c5"))
                .reader(new org.custodia.core.site.ReaderId("vault.in"))
                .side(org.custodia.core.site.Side.ENTRY)
                .person(new org.custodia.core.site.PersonId("tidewater/p1"))
                .credential("20266")
                .operator("iv")
                .reason("no-level")
                .code("T101")
                .cause("key")
                .details(java.util.Map.of("explanation", "x"))
                .raw("{}");
    }

    @Test
    void a_builder_gives_back_all_that_an_event_has() {
        Event event = full().build();
        assertThat(event.toBuilder().build()).isEqualTo(event);
        assertThat(event.position()).isEqualTo(3);
        assertThat(event.late()).isTrue();
        assertThat(event.time()).isEqualTo(Instant.parse("2026-11-24T13:59:59.700Z"));
        assertThat(full().time(Instant.parse("2026-11-24T14:00:00.000000999Z"))
                        .build()
                        .time())
                .isEqualTo(Instant.parse("2026-11-24T14:00:00Z"));
    }

    @Test
    void an_event_says_the_same_only_if_everything_that_was_sent_agrees() {
        Event event = full().build();
        Event redelivered = full().position(9)
                .late(false)
                .received(Instant.parse("2026-11-24T18:00:00Z"), java.time.Duration.ZERO)
                .raw("{ }")
                .detail("~odd", "x")
                .build();
        assertThat(redelivered.saysTheSameAs(event)).isTrue();
        assertThat(redelivered.sentDetails()).containsOnlyKeys("explanation");
        assertThat(event.sentDetails()).isEqualTo(event.details());
        List<Event> others = List.of(
                full().door(null).build(),
                full().controller(null).build(),
                full().reader(null).build(),
                full().side(org.custodia.core.site.Side.EXIT).build(),
                full().person(null).build(),
                full().credential("1").build(),
                full().reason("x").build(),
                full().code("x").build(),
                full().cause(null).build(),
                full().detail("more", "x").build(),
                full().detail(Event.UNREAL, "1970").build(),
                Event.of(event.key(), Kinds.REFUSED, Instant.parse("2026-11-24T14:00:01Z"))
                        .build());
        assertThat(others).noneMatch(o -> o.saysTheSameAs(event));
        Event granted = Event.of(event.key(), Kinds.GRANTED, event.deviceTime()).build();
        Event refused = Event.of(event.key(), Kinds.REFUSED, event.deviceTime()).build();
        assertThat(granted.saysTheSameAs(refused)).isFalse();
        Event unreal = full().detail(Event.UNREAL, "1970").build();
        Event again = Event.of(event.key(), Kinds.REFUSED, Instant.parse("2026-11-25T14:00:00Z"))
                .detail(Event.UNREAL, "1970")
                .build();
        assertThat(Event.of(event.key(), Kinds.REFUSED, Instant.EPOCH)
                        .detail(Event.UNREAL, "1970")
                        .build()
                        .saysTheSameAs(again))
                .isTrue();
        assertThat(unreal.saysTheSameAs(again)).isFalse();
    }

    @Test
    void keys_of_a_system_that_counts_again_stand_apart_and_say_the_same_epoch() {
        SystemId system = new SystemId("a:b");
        EventKey key = new EventKey(system, EventKey.again(5, 3), 7);
        assertThat(key.epoch()).isNotEqualTo(5).isEqualTo(5 | 3L << 52);
        assertThat(key.systemsEpoch()).isEqualTo(5);
        assertThat(EventKey.again(5, 0)).isEqualTo(5);
        assertThat(EventKey.parse(key.text())).contains(key);
        assertThat(system).hasToString("a:b");
        for (String bad : List.of(":1:2", "x:1", "x:y:z", "x:-1:2", "")) {
            assertThat(EventKey.parse(bad)).as(bad).isEmpty();
        }
        assertThat(EventKey.parse("x:1:2")).contains(new EventKey(new SystemId("x"), 1, 2));
        EventKey later = new EventKey(system, 6, 1);
        assertThat(Event.compareKeys(key, later)).isPositive();
        assertThat(Event.compareKeys(new EventKey(system, 5, 1), later)).isNegative();
        assertThat(Event.compareKeys(later, new EventKey(new SystemId("b"), 1, 1)))
                .isNegative();
        assertThat(Event.compareKeys(later, later)).isZero();
    }

    @Test
    void only_custodia_writes_what_is_its_own() {
        SystemId foreign = new SystemId("tidewater");
        for (String own :
                List.of("operator.x", "command.done", "link.lost", "log.gap", "camera.lost", "alarm.x", "LOG.gap")) {
            assertThat(Provenance.mayWrite(foreign, new EventKind(own))).as(own).isFalse();
            assertThat(Provenance.mayWrite(SystemId.CUSTODIA, new EventKind(own)))
                    .as(own)
                    .isTrue();
        }
        assertThat(Provenance.mayWrite(foreign, Kinds.FORCED)).isTrue();
        assertThat(Provenance.mayWrite(foreign, new EventKind("logger.x"))).isTrue();
        assertThat(Provenance.trusted(full().build())).isTrue();
    }
}
