package org.custodia.core.workplace;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.HashMap;
import java.util.HashSet;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventField;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Filter;
import org.custodia.core.event.Kinds;
import org.custodia.core.operator.Actor;
import org.custodia.core.operator.NotPermittedException;
import org.custodia.core.site.Camera;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.Sites;
import org.custodia.core.site.SystemId;

/**
 * What one operator may see where. The history of a door goes with the door: it can be seen where the door is now, or was
 * last. What belongs to no site can be seen by whoever may see it everywhere; only that a link was lost or that events are
 * missing concerns everybody. Safe for use by several threads.
 */
public final class Permit {
    /** What is no older than this is live still: whoever may see live pictures may see who came just now. */
    public static final Duration JUST_NOW = Duration.ofMinutes(2);

    private static final Set<EventKind> AUDIT = Set.of(Kinds.SIGNED_IN, Kinds.SET_UP, Kinds.REFUSED_TO_OPERATOR);
    private static final Set<EventKind> OF_LINKS = Set.of(
            Kinds.LINK_LOST,
            Kinds.LINK_CLOSED,
            Kinds.LINK_BACK,
            Kinds.CLOCK_OFF,
            Kinds.CLOCK_BACK,
            Kinds.GAP,
            Kinds.GAP_CLOSED,
            Kinds.COUNTS_AGAIN);

    private final Actor actor;
    private final Sites sites;
    private final Clock clock;
    private volatile Reach reach = new Reach(null, null, null, null);

    /**
     * What can be seen while places stand as they do.
     *
     * @param model by which this was made
     * @param every the site of every door there ever was
     */
    private record Reach(SiteModel model, Map<DoorId, SiteId> every, Filter arrivals, Filter past) {}

    public Permit(Actor actor, Sites sites, Clock clock) {
        this.actor = actor;
        this.sites = sites;
        this.clock = clock;
    }

    public Actor actor() {
        return actor;
    }

    /** Whether that can be seen at a site. */
    public boolean sees(Sight sight, SiteId site) {
        return sight.openedBy().stream().anyMatch(p -> actor.mayLook(p, site));
    }

    /** Whether that can be seen at a door; of one that nobody ever heard of, whether it can be seen everywhere. */
    public boolean sees(Sight sight, DoorId door) {
        SiteId site = reach().every().get(door);
        return site == null ? seesEverywhere(sight) : sees(sight, site);
    }

    /** Whether that can be seen at some site or other. */
    public boolean seesSomewhere(Sight sight) {
        return sight.openedBy().stream().anyMatch(actor::mayLookSomewhere);
    }

    /** Whether what of it belongs to no site can be seen. */
    public boolean seesEverywhere(Sight sight) {
        return sight.openedBy().stream().anyMatch(actor::mayLookEverywhere);
    }

    /** Whether pictures that a camera took since an instant can be seen. */
    public boolean seesPictures(CameraId camera, Instant since) {
        boolean past = since.isBefore(clock.instant().minus(JUST_NOW));
        return sees(Sight.PAST, camera) || !past && sees(Sight.PICTURES, camera);
    }

    /** Whether a camera's live picture can be seen. */
    public boolean seesLive(CameraId camera) {
        return sees(Sight.PICTURES, camera);
    }

    private boolean sees(Sight sight, CameraId id) {
        Optional<Camera> camera = sites.get().camera(id);
        return camera.isPresent() ? sees(sight, camera.get().site()) : seesEverywhere(sight);
    }

    /**
     * Stops whoever may not see that at a door.
     *
     * @throws NotPermittedException if it cannot be seen
     */
    public void require(Sight sight, DoorId door) {
        if (!sees(sight, door)) {
            throw refusal(sight);
        }
    }

    /**
     * Stops whoever may see that nowhere.
     *
     * @throws NotPermittedException if it cannot be seen at any site
     */
    public void requireSomewhere(Sight sight) {
        if (!seesSomewhere(sight)) {
            throw NotPermittedException.anywhere(actor.name(), sight.saying());
        }
    }

    /** Says that something cannot be seen at a site. */
    public NotPermittedException refusal(Sight sight) {
        return NotPermittedException.here(actor.name(), sight.saying());
    }

    /** Which stored events can be looked back at. */
    public Filter past() {
        return reach().past();
    }

    /** Whether an event can be seen as it arrives. */
    public boolean arrives(Event event) {
        return reach().arrivals().test(event);
    }

    private Reach reach() {
        SiteModel now = sites.get();
        Reach here = reach;
        if (here.model() != now) {
            Map<DoorId, SiteId> every = new HashMap<>(sites.everyDoor());
            now.doors().forEach(d -> every.put(d.id(), d.site()));
            here = new Reach(now, every, filter(Sight.ARRIVALS, now, every), filter(Sight.PAST, now, every));
            reach = here;
        }
        return here;
    }

    private Filter filter(Sight sight, SiteModel now, Map<DoorId, SiteId> every) {
        if (!seesSomewhere(sight) && !seesSomewhere(Sight.AUDIT)) {
            return Filter.or();
        }
        Filter audit = Filter.isOneOf(EventField.KIND, AUDIT);
        Filter common = seesEverywhere(sight)
                ? Filter.everything()
                : seesSomewhere(sight) ? atSomeSites(sight, now, every) : Filter.or();
        if (seesEverywhere(Sight.AUDIT) && seesEverywhere(sight)) {
            return common;
        }
        Filter withoutAudit = Filter.not(audit).and(common);
        if (!seesSomewhere(Sight.AUDIT)) {
            return withoutAudit;
        }
        return Filter.or(
                withoutAudit, seesEverywhere(Sight.AUDIT) ? audit : audit.and(atDoors(doors(Sight.AUDIT, every))));
    }

    private Filter atSomeSites(Sight sight, SiteModel now, Map<DoorId, SiteId> every) {
        Set<DoorId> doors = doors(sight, every);
        Set<ControllerId> controllers = new HashSet<>();
        for (Door door : now.doors()) {
            if (doors.contains(door.id())) {
                controllers.add(door.controller());
            }
        }
        Filter noDoor = Filter.not(Filter.known(EventField.DOOR));
        Filter ofControllers = Filter.isOneOf(EventField.CONTROLLER, controllers);
        Filter ofLinks = Filter.is(EventField.SYSTEM, SystemId.CUSTODIA).and(Filter.isOneOf(EventField.KIND, OF_LINKS));
        return Filter.or(atDoors(doors), noDoor.and(Filter.or(ofControllers, ofLinks)));
    }

    private static Filter atDoors(Set<DoorId> doors) {
        return Filter.isOneOf(EventField.DOOR, doors);
    }

    private Set<DoorId> doors(Sight sight, Map<DoorId, SiteId> every) {
        return every.entrySet().stream()
                .filter(e -> sees(sight, e.getValue()))
                .map(Map.Entry::getKey)
                .collect(Collectors.toSet());
    }
}
