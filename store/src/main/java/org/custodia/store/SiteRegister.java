package org.custodia.store;

import java.time.Clock;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.function.Function;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventIntake;
import org.custodia.core.operator.Actor;
import org.custodia.core.setup.ChangeBook;
import org.custodia.core.setup.DeviceBook;
import org.custodia.core.setup.Found;
import org.custodia.core.setup.LookoutBook;
import org.custodia.core.setup.PairBook;
import org.custodia.core.setup.WholeSetup;
import org.custodia.core.site.Camera;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.Device;
import org.custodia.core.site.DeviceId;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Lookout;
import org.custodia.core.site.PairId;
import org.custodia.core.site.Pairing;
import org.custodia.core.site.Placing;
import org.custodia.core.site.Reader;
import org.custodia.core.site.Site;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.Sites;
import org.custodia.core.site.SystemId;
import org.custodia.core.site.Thing;
import org.custodia.core.site.Walk;

/** Places as they are and as they were, kept over restarts and brought up to date by the links. Safe for several threads. */
public final class SiteRegister implements Sites, PairBook, DeviceBook, LookoutBook, ChangeBook.Undoing {
    private final Registers registers;
    private final Clock clock;
    private final List<Runnable> listeners = new CopyOnWriteArrayList<>();
    /** One reads at a time, so that what was read later takes the place of what was read before it. */
    private final Object reading = new Object();

    private volatile PlacesOverTime past;

    public SiteRegister(Registers registers, Clock clock) {
        this.registers = registers;
        this.clock = clock;
        this.past = new PlacesOverTime(PlacesOverTime.Told.read(registers));
    }

    @Override
    public SiteModel get() {
        return past.now(clock.instant());
    }

    @Override
    public SiteModel at(Instant instant) {
        return past.at(instant);
    }

    @Override
    public Map<DoorId, SiteId> everyDoor() {
        return past.everyDoor();
    }

    /** Asks to be told after each change, on the thread that made it, until that is ended. */
    public EventIntake.Subscription listen(Runnable listener) {
        listeners.add(listener);
        return () -> listeners.remove(listener);
    }

    /** Takes over what an access system says of its sites, doors, readers and other devices. */
    public void places(
            SystemId system,
            Collection<Site> sites,
            Collection<Door> doors,
            Collection<Reader> readers,
            Collection<Device> devices) {
        Instant at = clock.instant();
        // Two systems may serve one site: sites are only added or changed, never ended by one of them.
        int changes = registers.replace(RegisterForm.SITE, system, byId(sites, s -> s.id().value()), false, at);
        changes += registers.replace(RegisterForm.DOOR, system, byId(doors, d -> d.id().value()), true, at);
        changes += registers.replace(RegisterForm.READER, system, byId(readers, r -> r.id().value()), true, at);
        changes += registers.replace(RegisterForm.DEVICE, system, byId(devices, d -> d.id().value()), true, at);
        changed(changes);
    }

    /** Takes over what a recorder says of its cameras. */
    public void cameras(SystemId recorder, Collection<Camera> cameras) {
        changed(registers.replace(
                RegisterForm.CAMERA, recorder, byId(cameras, c -> c.id().value()), true, clock.instant()));
    }

    /** Takes off what a system had: it is not connected to any more. */
    public void systemGone(SystemId system) {
        Instant at = clock.instant();
        int changes = registers.replace(RegisterForm.DOOR, system, Map.of(), true, at);
        changes += registers.replace(RegisterForm.READER, system, Map.of(), true, at);
        changes += registers.replace(RegisterForm.CAMERA, system, Map.of(), true, at);
        changes += registers.replace(RegisterForm.DEVICE, system, Map.of(), true, at);
        changed(changes);
    }

    /**
     * Takes over what a links file says of places and cameras: what is new or different in it than it was the last time, and
     * what it had and has no more.
     */
    public void ofFile(WholeSetup file) {
        Instant at = clock.instant();
        Map<String, RegisterForm.Placed> placed = new LinkedHashMap<>();
        for (Pairing pairing : file.pairs()) {
            placed.putIfAbsent(pairing.id().value(), new RegisterForm.Placed(pairing, placed.size()));
        }
        int changes = registers.replace(RegisterForm.PAIR, Registers.LINKS_FILE, placed, true, at);
        changes += ofFile(RegisterForm.SITE, byId(file.sites(), s -> s.id().value()), at);
        changes += ofFile(
                RegisterForm.PLACING, byId(file.placings(), p -> p.thing().toString()), at);
        changes += ofFile(RegisterForm.WALK, byId(file.neighbours(), Walk::key), at);
        changes += ofFile(RegisterForm.LOOKOUT, byId(file.lookouts(), Lookout::key), at);
        changed(changes);
    }

    private <T> int ofFile(RegisterForm<T> form, Map<String, T> said, Instant at) {
        return registers.replace(form, Registers.LINKS_FILE, said, true, at);
    }

    @Override
    public List<Kept> allPairs() {
        Timeline<RegisterForm.Placed> all = past.told().pairs();
        return all.all(clock.instant()).entrySet().stream()
                .sorted(Comparator.comparingInt(e -> e.getValue().order()))
                .map(e -> new Kept(e.getValue().pairing(), all.newest(e.getKey())))
                .toList();
    }

    @Override
    public List<Kept> of(DoorId door) {
        Timeline<RegisterForm.Placed> all = past.told().pairs();
        return all.all(clock.instant()).entrySet().stream()
                .filter(e -> e.getValue().pairing().door().equals(door))
                .sorted(Comparator.comparingInt(e -> e.getValue().order()))
                .map(e -> new Kept(e.getValue().pairing(), all.newest(e.getKey())))
                .toList();
    }

    @Override
    public long version(PairId pair) {
        return past.told().pairs().newest(pair.value());
    }

    @Override
    public long keep(Pairing pairing, long basedOn, Actor by, Event.Builder fact) {
        Timeline<RegisterForm.Placed> all = past.told().pairs();
        Map<String, RegisterForm.Placed> now = all.all(clock.instant());
        int order = Optional.ofNullable(now.get(pairing.id().value()))
                .map(RegisterForm.Placed::order)
                .orElseGet(() -> 1
                        + now.values().stream()
                                .mapToInt(RegisterForm.Placed::order)
                                .max()
                                .orElse(-1));
        return edit(pairing.id(), Optional.of(new RegisterForm.Placed(pairing, order)), basedOn, by, fact);
    }

    @Override
    public void keepAll(List<Edit> edits, Actor by, List<Event.Builder> facts) {
        Map<String, RegisterForm.Placed> now = past.told().pairs().all(clock.instant());
        int last =
                now.values().stream().mapToInt(RegisterForm.Placed::order).max().orElse(-1);
        List<Registers.Edit<RegisterForm.Placed>> all = new ArrayList<>();
        for (Edit edit : edits) {
            RegisterForm.Placed before = now.get(edit.pair().value());
            int order = before == null ? ++last : before.order();
            all.add(new Registers.Edit<>(
                    edit.pair().value(), edit.basedOn(), edit.pairing().map(p -> new RegisterForm.Placed(p, order))));
        }
        registers.editAll(RegisterForm.PAIR, all, by, clock.instant(), facts);
        edited(RegisterForm.PAIR);
    }

    @Override
    public void order(List<Kept> order, Actor by, Event.Builder fact) {
        Map<String, RegisterForm.Placed> now = past.told().pairs().all(clock.instant());
        List<Integer> places = order.stream()
                .map(k -> Optional.ofNullable(now.get(k.pairing().id().value()))
                        .map(RegisterForm.Placed::order)
                        .orElse(0))
                .sorted()
                .toList();
        int first = places.isEmpty() ? 0 : places.get(0);
        List<Registers.Edit<RegisterForm.Placed>> edits = new ArrayList<>();
        for (int i = 0; i < order.size(); i++) {
            // Two of one place are told apart from now on.
            int place = Math.max(places.get(i), first + i);
            edits.add(new Registers.Edit<>(
                    order.get(i).pairing().id().value(),
                    order.get(i).version(),
                    Optional.of(new RegisterForm.Placed(order.get(i).pairing(), place))));
        }
        registers.editAll(RegisterForm.PAIR, edits, by, clock.instant(), List.of(fact));
        edited(RegisterForm.PAIR);
    }

    @Override
    public long end(PairId pair, long basedOn, Actor by, Event.Builder fact) {
        return edit(pair, Optional.empty(), basedOn, by, fact);
    }

    private long edit(PairId pair, Optional<RegisterForm.Placed> value, long basedOn, Actor by, Event.Builder fact) {
        Instant now = clock.instant();
        long version = registers.edit(
                RegisterForm.PAIR, pair.value(), basedOn, value, now, Optional.empty(), by, now, List.of(fact));
        edited(RegisterForm.PAIR);
        return version;
    }

    @Override
    public List<Found> found() {
        PlacesOverTime.Told told = past.told();
        Instant now = clock.instant();
        Map<String, Placing> placings = told.placings().allSaid(now);
        List<Found> all = new ArrayList<>();
        found(told.doors(), d -> Thing.of(new DoorId(d)), Found.SaidDoor::new, placings, all);
        found(told.cameras(), c -> Thing.of(new CameraId(c)), Found.SaidCamera::new, placings, all);
        found(told.devices(), d -> Thing.of(new DeviceId(d)), Found.SaidDevice::new, placings, all);
        all.sort(Comparator.comparing((Found f) -> f.name().toLowerCase(Locale.ROOT))
                .thenComparing(f -> f.thing().toString()));
        return all;
    }

    private <T> void found(
            Timeline<T> of,
            Function<String, Thing> thing,
            Function<T, Found.Said> said,
            Map<String, Placing> placings,
            List<Found> all) {
        for (String id : of.ids()) {
            Thing one = thing.apply(id);
            List<Registers.Version<T>> versions = of.versions(id).stream()
                    .filter(v -> v.source().equals(one.system()))
                    .toList();
            Optional<T> last =
                    versions.stream().flatMap(v -> v.value().stream()).reduce((before, after) -> after);
            if (last.isEmpty()) {
                continue;
            }
            Registers.Version<T> newest = versions.get(versions.size() - 1);
            long seen = past.told()
                    .seen()
                    .last(one.toString())
                    .map(RegisterForm.Seen::version)
                    .orElse(0L);
            Optional<T> before = versions.stream()
                    .filter(v -> v.version() <= seen)
                    .flatMap(v -> v.value().stream())
                    .reduce((a, b) -> b);
            boolean gone = newest.value().isEmpty();
            boolean goneWhenSeen = versions.stream()
                    .filter(v -> v.version() <= seen)
                    .reduce((a, b) -> b)
                    .filter(v -> v.value().isEmpty())
                    .isPresent();
            if (gone && (goneWhenSeen || before.isEmpty())) {
                // Seen to be gone, or come and gone without anybody having looked.
                continue;
            }
            List<Found.Difference> changes = gone || before.isEmpty() || goneWhenSeen
                    ? List.of()
                    : Found.differences(said.apply(before.get()), said.apply(last.get()));
            Found.News news = gone
                    ? Found.News.GONE
                    : before.isEmpty() || goneWhenSeen
                            ? Found.News.NEW
                            : changes.isEmpty() ? Found.News.NONE : Found.News.CHANGED;
            Placing placing = placings.getOrDefault(one.toString(), Placing.none(one));
            all.add(new Found(
                    one,
                    said.apply(last.get()),
                    newest.version(),
                    placing,
                    past.told().placings().newest(one.toString()),
                    news,
                    changes));
        }
    }

    @Override
    public List<PlacingEdit> placings() {
        Timeline<Placing> all = past.told().placings();
        return all.allSaid(clock.instant()).entrySet().stream()
                .map(e -> new PlacingEdit(e.getValue(), all.newest(e.getKey())))
                .toList();
    }

    @Override
    public long placingVersion(Thing thing) {
        return past.told().placings().newest(thing.toString());
    }

    @Override
    public List<Walk> allWalks() {
        return List.copyOf(past.told().walks().allSaid(clock.instant()).values());
    }

    @Override
    public List<Lookout> allLookouts() {
        return List.copyOf(past.told().lookouts().allSaid(clock.instant()).values());
    }

    @Override
    public List<Site> ownSites() {
        Timeline<Site> all = past.told().sites();
        return all.allSaid(clock.instant()).values().stream()
                .filter(s -> all.versions(s.id().value()).stream()
                        .allMatch(v -> v.source().equals(SystemId.CUSTODIA)
                                || v.source().equals(Registers.LINKS_FILE)))
                .toList();
    }

    @Override
    public void place(List<PlacingEdit> edits, Actor by, List<Event.Builder> facts) {
        registers.editAll(
                RegisterForm.PLACING,
                edits.stream()
                        .map(e -> new Registers.Edit<>(
                                e.placing().thing().toString(),
                                e.basedOn(),
                                Optional.of(e.placing()).filter(p -> !p.saysNothing())))
                        .toList(),
                by,
                clock.instant(),
                facts);
        edited(RegisterForm.PLACING);
    }

    @Override
    public void seen(Map<Thing, Long> versions, Actor by, Event.Builder fact) {
        Timeline<RegisterForm.Seen> seen = past.told().seen();
        registers.editAll(
                RegisterForm.SEEN,
                versions.entrySet().stream()
                        .map(e -> new Registers.Edit<>(
                                e.getKey().toString(),
                                seen.newest(e.getKey().toString()),
                                Optional.of(new RegisterForm.Seen(e.getKey(), e.getValue()))))
                        .toList(),
                by,
                clock.instant(),
                List.of(fact));
        edited(RegisterForm.SEEN);
    }

    @Override
    public long walkVersion(String key) {
        return past.told().walks().newest(key);
    }

    @Override
    public void walks(List<WalkEdit> edits, Actor by, List<Event.Builder> facts) {
        registers.editAll(
                RegisterForm.WALK,
                edits.stream()
                        .map(e -> new Registers.Edit<>(e.key(), e.basedOn(), e.walk()))
                        .toList(),
                by,
                clock.instant(),
                facts);
        edited(RegisterForm.WALK);
    }

    @Override
    public long lookoutVersion(String key) {
        return past.told().lookouts().newest(key);
    }

    @Override
    public void keepLookout(String key, Optional<Lookout> lookout, long basedOn, Actor by, Event.Builder fact) {
        Instant now = clock.instant();
        registers.edit(RegisterForm.LOOKOUT, key, basedOn, lookout, now, Optional.empty(), by, now, List.of(fact));
        edited(RegisterForm.LOOKOUT);
    }

    @Override
    public long siteVersion(SiteId site) {
        return past.told().sites().newest(site.value());
    }

    @Override
    public void keepSite(Site site, long basedOn, Actor by, Event.Builder fact) {
        Instant now = clock.instant();
        registers.edit(
                RegisterForm.SITE,
                site.id().value(),
                basedOn,
                Optional.of(site),
                now,
                Optional.empty(),
                by,
                now,
                List.of(fact));
        edited(RegisterForm.SITE);
    }

    @Override
    public List<Change> changes(int most) {
        PlacesOverTime.Told told = past.told();
        List<Change> all = new ArrayList<>();
        all.addAll(told.pairs().changes(About.PAIR, RegisterForm.Placed::pairing));
        all.addAll(told.placings().changes(About.PLACING, p -> p));
        all.addAll(told.walks().changes(About.WALK, w -> w));
        all.addAll(told.lookouts().changes(About.LOOKOUT, l -> l));
        all.addAll(told.sites().changes(About.SITE, s -> s));
        all.sort(Comparator.comparing(Change::when).reversed());
        return List.copyOf(all.subList(0, Math.min(most, all.size())));
    }

    @Override
    public void takeBack(Change change, Actor by, Event.Builder fact) {
        switch (change.about()) {
            case PAIR -> takeBack(RegisterForm.PAIR, past.told().pairs(), change, by, fact);
            case PLACING -> takeBack(RegisterForm.PLACING, past.told().placings(), change, by, fact);
            case WALK -> takeBack(RegisterForm.WALK, past.told().walks(), change, by, fact);
            case LOOKOUT -> takeBack(RegisterForm.LOOKOUT, past.told().lookouts(), change, by, fact);
            case SITE -> takeBack(RegisterForm.SITE, past.told().sites(), change, by, fact);
            case LINK, RULE, PROCEDURE, RECIPIENT, MAIL_SERVER, ESCALATION ->
                throw new IllegalArgumentException("it is put back by the desk that keeps it");
        }
    }

    private <T> void takeBack(RegisterForm<T> form, Timeline<T> of, Change change, Actor by, Event.Builder fact) {
        List<Registers.Edit<T>> edits = new ArrayList<>();
        for (Part part : change.parts()) {
            edits.add(new Registers.Edit<>(part.id(), part.version(), of.before(part.id(), part.version())));
        }
        registers.editAll(form, edits, by, clock.instant(), List.of(fact));
        edited(form);
    }

    private static <T> Map<String, T> byId(Collection<T> values, Function<T, String> id) {
        Map<String, T> result = new LinkedHashMap<>();
        values.forEach(v -> result.put(id.apply(v), v));
        return result;
    }

    private void changed(int changes) {
        if (changes > 0) {
            synchronized (reading) {
                past = new PlacesOverTime(PlacesOverTime.Told.read(registers));
            }
            new ArrayList<>(listeners).forEach(Runnable::run);
        }
    }

    private void edited(RegisterForm<?> form) {
        synchronized (reading) {
            past = new PlacesOverTime(past.told().after(form, registers));
        }
        new ArrayList<>(listeners).forEach(Runnable::run);
    }
}
