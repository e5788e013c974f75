package org.custodia.store;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Random;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventField;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Filter;
import org.custodia.core.event.Kinds;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.ReaderId;
import org.custodia.core.site.Side;
import org.custodia.core.site.SystemId;

/** Events and questions of all sorts, the same for the same seed. */
final class RandomEvents {
    static final Instant START = Instant.parse("2026-11-20T21:47:11.000123Z");
    static final List<SystemId> SYSTEMS =
            List.of(new SystemId("tidewater"), new SystemId("larkspur"), new SystemId("b"));
    private static final List<EventKind> KINDS = List.of(
            Kinds.GRANTED,
            Kinds.GRANTED,
            Kinds.OPENED,
            Kinds.CLOSED,
            Kinds.REFUSED,
            Kinds.FORCED,
            Kinds.of("lift.stuck"));
    private static final List<String> ODD = List.of(
            "plain",
            "",
            " ",
            "käse",
            "\u001f",
            "\u001b",
            "a\u0001b",
            "a\u0000b\u001b@",
            "\\\"",
            "日本",
            "'; DROP TABLE event; --",
            "%_",
            "😀");

    private final Random random;
    private final long[] sequences = new long[SYSTEMS.size()];

    RandomEvents(long seed) {
        this.random = new Random(seed);
    }

    private <T> T one(List<T> of) {
        return of.get(random.nextInt(of.size()));
    }

    private boolean once(int in) {
        return random.nextInt(in) == 0;
    }

    /** The next event; times come close together, the same, far apart and backwards. */
    Event next() {
        int s = random.nextInt(SYSTEMS.size());
        SystemId system = SYSTEMS.get(s);
        sequences[s]++;
        Instant at = START.plusSeconds(random.nextInt(400_000));
        if (once(4)) {
            at = START.plusSeconds(200_000);
        } else if (once(3)) {
            at = at.plusNanos(1000L * random.nextInt(1_000_000));
        }
        EventKind kind = one(KINDS);
        Event.Builder b = Event.of(new EventKey(system, 1 + random.nextInt(2), sequences[s]), kind, at)
                .received(
                        at.plusMillis(random.nextInt(5_000) - 1_000),
                        Duration.ofNanos(1000L * (random.nextInt(2_000) - 500)));
        String door = "d" + random.nextInt(9);
        if (!once(6)) {
            b.door(new DoorId(system.value() + "/" + door));
        }
        if (!once(5)) {
            b.controller(new ControllerId((once(9) ? "elsewhere/" : system.value() + "/") + "c" + random.nextInt(3)));
        }
        if (kind.equals(Kinds.GRANTED) || kind.equals(Kinds.REFUSED)) {
            b.reader(new ReaderId(door + ".in")).side(once(2) ? Side.ENTRY : Side.EXIT);
            if (!once(4)) {
                b.person(new PersonId(system.value() + "/p" + random.nextInt(40)));
            }
            b.credential(once(7) ? one(ODD) : Integer.toString(random.nextInt(60)));
        }
        if (once(12)) {
            b.reason(one(ODD));
        }
        if (once(3)) {
            b.code("T" + random.nextInt(5));
        }
        if (once(20)) {
            b.operator(once(2) ? "ana" : one(ODD));
        }
        if (once(15)) {
            b.cause("custodia:1:" + random.nextInt(9));
        }
        if (once(9)) {
            b.late(true);
        }
        if (once(4)) {
            b.detail(one(ODD) + "x", one(ODD));
        }
        b.raw(raw(b.build(), door));
        return b.build();
    }

    private String raw(Event e, String door) {
        if (once(8)) {
            return one(ODD);
        }
        if (once(15)) {
            return "{\"seq\":" + e.key().sequence() + ",\"door\":\"unfinished";
        }
        return "{\"epoch\":" + e.key().epoch() + ", \"seq\":" + e.key().sequence() + ",\"time\":\"" + e.deviceTime()
                + "\",\"door\":\"" + door + "\",\"kind\":\"" + e.kind() + "\",\"n\":-"
                + e.key().sequence()
                + (once(5) ? ",\"x\":\"" + one(ODD) + "\"" : "")
                + e.credential().map(c -> ",\"credential\":\"" + c + "\"").orElse("") + "}";
    }

    List<Event> events(int many) {
        List<Event> events = new ArrayList<>();
        for (int i = 0; i < many; i++) {
            events.add(next());
        }
        return events;
    }

    /** A question that some of those events may answer. */
    EventQuery query(List<Event> stored) {
        EventQuery q = EventQuery.all();
        if (once(2)) {
            q = q.since(START.plusSeconds(random.nextInt(300_000)));
        }
        if (once(2)) {
            q = q.until(once(4) ? START.plusSeconds(200_000) : START.plusSeconds(random.nextInt(450_000)));
        }
        if (!once(5)) {
            q = q.where(filter(stored, 3));
        }
        if (once(3)) {
            q = q.before(one(stored));
        }
        if (once(4)) {
            q = q.after(one(stored));
        }
        int limit = 1 + random.nextInt(once(3) ? 2_000 : 30);
        return once(2) ? q.newest(limit) : q.oldest(limit);
    }

    Filter filter(List<Event> stored, int depth) {
        return switch (random.nextInt(depth > 0 ? 9 : 5)) {
            case 0 -> Filter.late();
            case 1 -> Filter.known(one(EventField.ALL));
            case 2, 3, 4 -> is(one(EventField.ALL), stored);
            case 5 -> Filter.not(filter(stored, depth - 1));
            case 6 -> Filter.or(filter(stored, depth - 1), filter(stored, depth - 1));
            default -> filter(stored, depth - 1).and(filter(stored, depth - 1));
        };
    }

    private <T> Filter is(EventField<T> field, List<Event> stored) {
        List<T> values = new ArrayList<>();
        int many = once(15) ? 0 : 1 + random.nextInt(3);
        for (int i = 0; i < 200 && values.size() < many; i++) {
            field.of(one(stored)).ifPresent(values::add);
        }
        return Filter.isOneOf(field, values);
    }
}
