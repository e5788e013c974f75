package org.custodia.core.door;

import java.time.Duration;
import java.time.Instant;
import java.util.EnumSet;
import java.util.Set;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorCapability;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SystemId;

/** A door and its events, for tests. */
public final class DoorEvents {
    public static final Instant START = Instant.parse("2026-11-24T14:00:00Z");
    public static final SystemId SYSTEM = new SystemId("tidewater");
    public static final DoorId ID = new DoorId("tidewater/print-room-north");

    private long sequence;

    public static Door door(DoorCapability... without) {
        Set<DoorCapability> all = EnumSet.allOf(DoorCapability.class);
        for (DoorCapability c : without) {
            all.remove(c);
        }
        return new Door(
                ID,
                SYSTEM,
                new ControllerId("tidewater/c3"),
                "Print room north",
                new SiteId("harbour"),
                "1",
                "North stair",
                "Print room",
                Duration.ofSeconds(60),
                all);
    }

    public static Instant at(double seconds) {
        return START.plusMillis(Math.round(seconds * 1000));
    }

    /** The number of the last event. */
    long last() {
        return sequence;
    }

    public Event event(double seconds, EventKind kind, String... details) {
        Event.Builder b =
                Event.of(new EventKey(SYSTEM, 1, ++sequence), kind, at(seconds)).door(ID);
        for (int i = 0; i < details.length; i += 2) {
            b.detail(details[i], details[i + 1]);
        }
        return b.build();
    }
}
