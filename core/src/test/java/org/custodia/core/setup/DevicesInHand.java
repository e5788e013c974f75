package org.custodia.core.setup;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.function.UnaryOperator;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventLogException;
import org.custodia.core.event.MemoryLog;
import org.custodia.core.operator.Actor;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.Lookout;
import org.custodia.core.site.Placing;
import org.custodia.core.site.Site;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.Thing;
import org.custodia.core.site.Walk;

/** What systems have, and what was said of it, in memory. */
public final class DevicesInHand implements DeviceBook, LookoutBook, ChangeBook.Undoing {
    public final Map<String, Lookout> lookouts = new TreeMap<>();
    /** Where what records an edit is stored. */
    private final MemoryLog log;

    public DevicesInHand() {
        this(new MemoryLog());
    }

    /**
     * @param log where what records an edit is stored
     */
    public DevicesInHand(MemoryLog log) {
        this.log = log;
    }

    private void record(List<Event.Builder> facts) {
        log.commit(facts);
    }

    @Override
    public long lookoutVersion(String key) {
        return versions.getOrDefault("lookout " + key, 0L);
    }

    @Override
    public void keepLookout(String key, Optional<Lookout> lookout, long basedOn, Actor by, Event.Builder fact) {
        check("lookout " + key, basedOn);
        record(List.of(fact));
        next("lookout " + key, basedOn);
        lookout.ifPresentOrElse(l -> lookouts.put(key, l), () -> lookouts.remove(key));
    }

    public final Map<String, Found> found = new TreeMap<>();
    public final List<Change> changes = new ArrayList<>();
    public final List<Change> takenBack = new ArrayList<>();
    public final Map<SiteId, Site> sites = new HashMap<>();
    public final List<WalkEdit> walked = new ArrayList<>();
    private final Map<String, Long> versions = new HashMap<>();

    @Override
    public List<Found> found() {
        return List.copyOf(found.values());
    }

    private void check(String id, long basedOn) {
        long version = versions.getOrDefault(id, 0L);
        if (version != basedOn) {
            throw new EventLogException(Saying.of("store.changed-meanwhile", "placing", id, version, basedOn), null);
        }
    }

    private void next(String id, long basedOn) {
        check(id, basedOn);
        versions.put(id, basedOn + 1);
    }

    /** What was said of things, also of those that no system has. */
    public final Map<Thing, Placing> placed = new HashMap<>();

    @Override
    public List<PlacingEdit> placings() {
        return placed.values().stream()
                .map(p -> new PlacingEdit(p, placingVersion(p.thing())))
                .toList();
    }

    @Override
    public long placingVersion(Thing thing) {
        return versions.getOrDefault(thing.toString(), 0L);
    }

    @Override
    public List<Walk> allWalks() {
        Map<String, Walk> all = new TreeMap<>();
        walked.forEach(w -> w.walk().ifPresentOrElse(x -> all.put(w.key(), x), () -> all.remove(w.key())));
        return List.copyOf(all.values());
    }

    @Override
    public List<Lookout> allLookouts() {
        return List.copyOf(lookouts.values());
    }

    @Override
    public List<Site> ownSites() {
        return List.copyOf(sites.values());
    }

    @Override
    public void place(List<PlacingEdit> edits, Actor by, List<Event.Builder> facts) {
        edits.forEach(e -> check(e.placing().thing().toString(), e.basedOn()));
        record(facts);
        for (PlacingEdit edit : edits) {
            next(edit.placing().thing().toString(), edit.basedOn());
            placed.put(edit.placing().thing(), edit.placing());
            change(
                    edit.placing().thing(),
                    f -> new Found(
                            f.thing(),
                            f.said(),
                            f.saidVersion(),
                            edit.placing(),
                            edit.basedOn() + 1,
                            f.news(),
                            f.changes()));
        }
    }

    private void change(Thing thing, UnaryOperator<Found> how) {
        found.computeIfPresent(thing.toString(), (t, f) -> how.apply(f));
    }

    @Override
    public void seen(Map<Thing, Long> seen, Actor by, Event.Builder fact) {
        record(List.of(fact));
        seen.forEach((thing, version) -> {
            if (found.get(thing.toString()).saidVersion() == version) {
                change(
                        thing,
                        f -> new Found(
                                f.thing(),
                                f.said(),
                                f.saidVersion(),
                                f.placing(),
                                f.version(),
                                Found.News.NONE,
                                List.of()));
            }
        });
    }

    @Override
    public long walkVersion(String key) {
        return versions.getOrDefault(key, 0L);
    }

    @Override
    public void walks(List<WalkEdit> edits, Actor by, List<Event.Builder> facts) {
        edits.forEach(e -> check(e.key(), e.basedOn()));
        record(facts);
        edits.forEach(e -> next(e.key(), e.basedOn()));
        walked.addAll(edits);
    }

    @Override
    public long siteVersion(SiteId site) {
        return versions.getOrDefault("site " + site, 0L);
    }

    @Override
    public void keepSite(Site site, long basedOn, Actor by, Event.Builder fact) {
        check("site " + site.id(), basedOn);
        record(List.of(fact));
        next("site " + site.id(), basedOn);
        sites.put(site.id(), site);
    }

    @Override
    public List<Change> changes(int most) {
        return List.copyOf(changes.subList(0, Math.min(most, changes.size())));
    }

    @Override
    public void takeBack(Change change, Actor by, Event.Builder fact) {
        record(List.of(fact));
        takenBack.add(change);
    }
}
