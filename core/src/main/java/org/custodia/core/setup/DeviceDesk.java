package org.custodia.core.setup;

import java.time.Clock;
import java.time.DateTimeException;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.custodia.core.event.Cancellation;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventLog;
import org.custodia.core.event.OnRecord;
import org.custodia.core.operator.Actor;
import org.custodia.core.operator.Permission;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Placing;
import org.custodia.core.site.Site;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.Sites;
import org.custodia.core.site.Thing;
import org.custodia.core.site.Walk;

/**
 * Where what systems have is put in its place: which of it is shown, how it is called here, at which site, which zone is on
 * which side of a door, and which doors are neighbours. Everything a system has is there from the beginning, so that no door
 * is missed because nobody chose it; what is not wanted is left out. Each change is a version in the book and a line in the
 * log.
 */
public final class DeviceDesk {
    private final DeviceBook book;
    /** That far back it is looked who went from door to door. */
    private static final Duration WALKED_SINCE = Duration.ofDays(14);

    private final Sites sites;
    private final EventLog log;
    private final Clock clock;

    public DeviceDesk(DeviceBook book, Sites sites, EventLog log, Clock clock) {
        this.book = book;
        this.sites = sites;
        this.log = log;
        this.clock = clock;
    }

    /** What systems have at sites where the operator may see what is set up. */
    public List<Found> found(Actor actor) {
        return book.found().stream().filter(f -> looks(f, actor)).toList();
    }

    private static boolean looks(Found found, Actor actor) {
        return actor.mayLook(Permission.SET_UP, found.site());
    }

    /**
     * Says of things where they are, all or none.
     *
     * @param basedOn what was looked at
     * @throws SetupException if one of them cannot be so, or what was looked at is not there any more
     * @throws org.custodia.core.event.EventLogException if somebody has said something else of one meanwhile
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not set up where they are, or will be
     */
    public void place(List<Placing> placings, Collection<Found> basedOn, Actor actor) {
        Map<Thing, Found> looked = new HashMap<>();
        basedOn.forEach(f -> looked.put(f.thing(), f));
        List<DeviceBook.PlacingEdit> edits = new ArrayList<>();
        for (Placing placing : placings) {
            Found found = looked.get(placing.thing());
            if (found == null) {
                throw new SetupException(
                        Saying.of("setup.thing-unknown", placing.thing().id()));
            }
            actor.require(Permission.SET_UP, found.site());
            actor.require(Permission.SET_UP, placing.site().orElse(found.said().site()));
            check(placing);
            if (!placing.equals(found.placing())) {
                edits.add(new DeviceBook.PlacingEdit(placing, found.version()));
            }
        }
        if (edits.isEmpty()) {
            return;
        }
        book.place(
                edits,
                actor,
                edits.stream()
                        .map(e -> fact(looked.get(e.placing().thing()), e.placing(), actor))
                        .toList());
    }

    /** Whether what is said of a thing can be words at all. */
    static void checkWords(Placing placing) {
        for (Optional<String> words : List.of(placing.name(), placing.level(), placing.outside(), placing.inside())) {
            if (words.filter(w -> w.length() > Placing.LONGEST
                            || w.chars().anyMatch(Character::isISOControl)
                            || !w.equals(w.strip()))
                    .isPresent()) {
                throw new SetupException(Saying.of("setup.words-odd", Placing.LONGEST));
            }
        }
        if (placing.name().filter(String::isEmpty).isPresent()) {
            throw new SetupException(Saying.of("setup.name-missing"));
        }
    }

    private void check(Placing placing) {
        checkWords(placing);
        placing.site()
                .filter(s -> sites.get().sites().stream().noneMatch(k -> k.id().equals(s)))
                .ifPresent(s -> {
                    throw new SetupException(Saying.of("setup.no-site", s.value()));
                });
    }

    private Event.Builder fact(Found before, Placing now, Actor actor) {
        Placing was = before.placing();
        String change = now.leftOut() && !was.leftOut()
                ? "left-out"
                : !now.leftOut() && was.leftOut() ? "taken-in" : !now.name().equals(was.name()) ? "renamed" : "placed";
        Event.Builder event = OnRecord.setUp("thing", change, actor, clock.instant())
                .detail("thing", now.thing().toString())
                .detail("name", before.name());
        now.name().filter(n -> !n.equals(before.name())).ifPresent(n -> event.detail("now", n));
        if (now.thing().sort() == Thing.Sort.DOOR) {
            event.door(new DoorId(now.thing().id()));
        }
        return event;
    }

    /** Marks what is new, changed or gone as seen. What the operator may not set up is passed over. */
    public void seen(Collection<Found> all, Actor actor) {
        Map<Thing, Long> versions = new HashMap<>();
        all.stream()
                .filter(f -> f.news() != Found.News.NONE)
                .filter(f -> actor.may(Permission.SET_UP, f.site()))
                .forEach(f -> versions.put(f.thing(), f.saidVersion()));
        if (!versions.isEmpty()) {
            book.seen(
                    versions,
                    actor,
                    OnRecord.setUp("thing", "reviewed", actor, clock.instant())
                            .detail("records", String.valueOf(versions.size())));
        }
    }

    /**
     * Makes a site that no system has.
     *
     * @throws SetupException if it cannot be one, or there is one of that name
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not set up everywhere
     */
    public Site addSite(String name, String timeZone, Actor actor) {
        actor.requireEverywhere(Permission.SET_UP);
        String words = name.strip();
        if (words.isEmpty()) {
            throw new SetupException(Saying.of("setup.name-missing"));
        }
        if (words.length() > Placing.LONGEST || words.chars().anyMatch(Character::isISOControl)) {
            throw new SetupException(Saying.of("setup.words-odd", Placing.LONGEST));
        }
        if (sites.get().sites().stream().anyMatch(s -> s.name().equalsIgnoreCase(words))) {
            throw new SetupException(Saying.of("setup.site-there", words));
        }
        ZoneId zone;
        try {
            zone = ZoneId.of(timeZone.strip());
        } catch (DateTimeException e) {
            throw new SetupException(Saying.of("setup.zone-odd", timeZone));
        }
        Site site = new Site(freeId(words), words, zone);
        book.keepSite(
                site,
                book.siteVersion(site.id()),
                actor,
                OnRecord.setUp("site", "added", actor, clock.instant())
                        .detail("site", site.id().value())
                        .detail("name", words));
        return site;
    }

    /** An id that no system gives: they have none with a blank before it. */
    private SiteId freeId(String name) {
        Set<String> taken = new HashSet<>();
        sites.get().sites().forEach(s -> taken.add(s.id().value()));
        String base = "here " + name;
        String id = base;
        for (int i = 2; taken.contains(id) || book.siteVersion(new SiteId(id)) > 0; i++) {
            id = base + " " + i;
        }
        return new SiteId(id);
    }

    /** Told how far something has come. */
    @FunctionalInterface
    public interface Told {
        void progress(long done, long of);
    }

    /**
     * Looks in the log who went from door to door in the last two weeks, and tells from that which doors are neighbours and
     * are not said to be so far. Takes seconds.
     *
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not see all that is set up
     * @throws java.util.concurrent.CancellationException if it is not wanted any more
     */
    public List<Neighbours.Proposal> proposedNeighbours(Told told, Cancellation cancellation, Actor actor) {
        actor.requireToLookEverywhere(Permission.SET_UP);
        Instant now = clock.instant();
        long span = WALKED_SINCE.toMillis();
        Neighbours walked = Neighbours.of(
                log, now.minus(WALKED_SINCE), now, done -> told.progress(Math.min(done, span), span), cancellation);
        SiteModel model = sites.get();
        Set<String> known = new HashSet<>();
        model.walks().forEach(w -> known.add(w.key()));
        return walked.proposals(model).stream()
                .filter(p -> !known.contains(p.walk().key()))
                .toList();
    }

    /**
     * Says of doors that they are neighbours, and how long the walk takes, all or none.
     *
     * @throws SetupException if one of the doors is not there
     * @throws org.custodia.core.event.EventLogException if somebody has said something else meanwhile
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not set up at both doors
     */
    public void neighbours(Collection<Walk> walks, Actor actor) {
        List<DeviceBook.WalkEdit> edits = new ArrayList<>();
        for (Walk walk : walks) {
            permit(walk, actor);
            edits.add(new DeviceBook.WalkEdit(walk.key(), Optional.of(walk), book.walkVersion(walk.key())));
        }
        if (edits.isEmpty()) {
            return;
        }
        book.walks(edits, actor, walks.stream().map(w -> fact("kept", w, actor)).toList());
    }

    /** Says of two doors that they are no neighbours; otherwise the same. */
    public void noNeighbours(Walk walk, Actor actor) {
        long version = book.walkVersion(walk.key());
        if (version == 0
                || sites.get().walks(walk.first()).stream()
                        .noneMatch(w -> w.key().equals(walk.key()))) {
            throw new SetupException(Saying.of("setup.no-neighbours"));
        }
        permit(walk, actor);
        book.walks(
                List.of(new DeviceBook.WalkEdit(walk.key(), Optional.empty(), version)),
                actor,
                List.of(fact("ended", walk, actor)));
    }

    private void permit(Walk walk, Actor actor) {
        for (DoorId id : List.of(walk.first(), walk.second())) {
            Door door =
                    sites.get().door(id).orElseThrow(() -> new SetupException(Saying.of("setup.no-door", id.value())));
            actor.require(Permission.SET_UP, door.site());
        }
    }

    private Event.Builder fact(String change, Walk walk, Actor actor) {
        return OnRecord.setUp("walk", change, actor, clock.instant())
                .door(walk.first())
                .detail("to", walk.second().value())
                .detail("seconds", String.valueOf(walk.takes().toSeconds()));
    }
}
