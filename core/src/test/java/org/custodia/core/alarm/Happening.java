package org.custodia.core.alarm;

import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.List;
import java.util.Set;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Priority;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorCapability;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Site;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.SystemId;

/** Something that happens at Sternwick. */
public final class Happening {
    public static final SystemId TIDEWATER = new SystemId("tidewater");
    public static final Instant START = Instant.parse("2026-11-24T13:00:00Z");
    public static final SiteId HARBOUR = new SiteId("harbour");
    public static final SiteId YARD = new SiteId("yard");
    public static final DoorId VAULT = new DoorId("tidewater/vault");
    public static final DoorId GATE = new DoorId("tidewater/gate");
    public static final SiteModel SITES = new SiteModel(
            List.of(
                    new Site(HARBOUR, "Harbour House", ZoneId.of("Europe/London")),
                    new Site(YARD, "Cooper's Yard", ZoneId.of("Europe/London"))),
            List.of(door(VAULT, HARBOUR), door(GATE, YARD)),
            List.of(),
            List.of());

    private long number;

    private static Door door(DoorId id, SiteId site) {
        return new Door(
                id,
                TIDEWATER,
                new ControllerId("tidewater/c1"),
                id.value(),
                site,
                "0",
                "",
                "",
                Duration.ofSeconds(30),
                Set.of(
                        DoorCapability.CONTACT,
                        DoorCapability.REPORTS_FORCED,
                        DoorCapability.REPORTS_HELD,
                        DoorCapability.LET_THROUGH));
    }

    public static Instant at(double seconds) {
        return START.plusMillis(Math.round(seconds * 1_000));
    }

    /** The next event of the system. */
    public Event.Builder event(EventKind kind, DoorId door, double seconds) {
        Instant at = at(seconds);
        return Event.of(new EventKey(TIDEWATER, 1, ++number), kind, at)
                .received(at, Duration.ZERO)
                .door(door);
    }

    /** A rule for everything, everywhere and at any time, that calls. */
    static Rule rule(String id, Rule.When when) {
        return new Rule(
                id,
                1,
                id,
                true,
                when,
                Rule.Where.ANYWHERE,
                Rule.Who.ANYBODY,
                Hours.ALWAYS,
                Priority.CAUTION,
                Rule.Then.CALLS);
    }
}
