package org.custodia.store;

import java.time.Clock;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeSet;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.function.Function;
import org.custodia.core.event.EventIntake;
import org.custodia.core.operator.Actor;
import org.custodia.core.setup.PairBook;
import org.custodia.core.site.Camera;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PairId;
import org.custodia.core.site.Pairing;
import org.custodia.core.site.Reader;
import org.custodia.core.site.Site;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.Sites;
import org.custodia.core.site.SystemId;

/** Places as they are and as they were, kept over restarts and brought up to date by the links. Safe for several threads. */
public final class SiteRegister implements Sites, PairBook {
    /** Models of past times that are kept; what is looked at lies mostly within few of them. */
    private static final int REMEMBERED = 12;

    private final Registers registers;
    private final Clock clock;
    private final List<Runnable> listeners = new CopyOnWriteArrayList<>();
    /** One reads at a time, so that what was read later takes the place of what was read before it. */
    private final Object reading = new Object();

    private volatile Past past;

    /** All that was ever said, and what follows from it. */
    private static final class Past {
        private final Timeline<Site> sites;
        private final Timeline<Door> doors;
        private final Timeline<Camera> cameras;
        private final Timeline<RegisterForm.Placed> pairs;
        private final Timeline<Reader> readers;
        private final TreeSet<Instant> changes = new TreeSet<>();
        private final Map<Instant, SiteModel> models = new LinkedHashMap<>(16, 0.75f, true) {
            private static final long serialVersionUID = 1L;

            @Override
            protected boolean removeEldestEntry(Map.Entry<Instant, SiteModel> eldest) {
                return size() > REMEMBERED;
            }
        };
        private final Map<DoorId, SiteId> everyDoor;
        private volatile Span now;

        /** A model and the span in which it holds. */
        private record Span(Instant from, Instant to, SiteModel model) {}

        Past(Registers registers) {
            this(
                    registers.timeline(RegisterForm.SITE),
                    registers.timeline(RegisterForm.DOOR),
                    registers.timeline(RegisterForm.CAMERA),
                    registers.timeline(RegisterForm.PAIR),
                    registers.timeline(RegisterForm.READER));
        }

        /** The same places, with what was said of pairs meanwhile. */
        Past(Past before, Timeline<RegisterForm.Placed> pairs) {
            this(before.sites, before.doors, before.cameras, pairs, before.readers);
        }

        private Past(
                Timeline<Site> sites,
                Timeline<Door> doors,
                Timeline<Camera> cameras,
                Timeline<RegisterForm.Placed> pairs,
                Timeline<Reader> readers) {
            this.sites = sites;
            this.doors = doors;
            this.cameras = cameras;
            this.pairs = pairs;
            this.readers = readers;
            List.of(sites, doors, cameras, pairs, readers).forEach(t -> changes.addAll(t.changes()));
            everyDoor = everyDoor();
            now = new Span(Instant.MAX, Instant.MIN, SiteModel.EMPTY);
        }

        private Map<DoorId, SiteId> everyDoor() {
            Map<DoorId, SiteId> result = new HashMap<>();
            for (String id : doors.ids()) {
                doors.versions(id).stream()
                        .flatMap(v -> v.value().stream())
                        .reduce((before, after) -> after)
                        .ifPresent(d -> result.put(d.id(), d.site()));
            }
            return Map.copyOf(result);
        }

        /** The model that holds now, which is asked for all the time. */
        SiteModel now(Instant at) {
            Span here = now;
            if (at.isBefore(here.from()) || !at.isBefore(here.to())) {
                here = span(at);
                now = here;
            }
            return here.model();
        }

        SiteModel at(Instant at) {
            Span here = now;
            return !at.isBefore(here.from()) && at.isBefore(here.to()) ? here.model() : span(at).model();
        }

        private Span span(Instant at) {
            Instant from = changes.floor(at);
            Instant to = changes.higher(at);
            Instant begin = from == null ? Instant.MIN : from;
            synchronized (models) {
                SiteModel model = models.get(begin);
                if (model == null) {
                    model = model(at);
                    models.put(begin, model);
                }
                return new Span(begin, to == null ? Instant.MAX : to, model);
            }
        }

        private SiteModel model(Instant at) {
            List<Pairing> ordered = pairs.all(at).values().stream()
                    .sorted(Comparator.comparingInt(RegisterForm.Placed::order))
                    .map(RegisterForm.Placed::pairing)
                    .toList();
            return new SiteModel(
                    sites.all(at).values(),
                    doors.all(at).values(),
                    cameras.all(at).values(),
                    ordered,
                    readers.all(at).values());
        }
    }

    public SiteRegister(Registers registers, Clock clock) {
        this.registers = registers;
        this.clock = clock;
        this.past = new Past(registers);
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
        return past.everyDoor;
    }

    /** Asks to be told after each change, on the thread that made it, until that is ended. */
    public EventIntake.Subscription listen(Runnable listener) {
        listeners.add(listener);
        return () -> listeners.remove(listener);
    }

    /** Takes over what an access system says of its sites, doors and readers. */
    public void places(SystemId system, Collection<Site> sites, Collection<Door> doors, Collection<Reader> readers) {
        Instant at = clock.instant();
        // Two systems may serve one site: sites are only added or changed, never ended by one of them.
        int changes = registers.replace(RegisterForm.SITE, system, byId(sites, s -> s.id().value()), false, at);
        changes += registers.replace(RegisterForm.DOOR, system, byId(doors, d -> d.id().value()), true, at);
        changes += registers.replace(RegisterForm.READER, system, byId(readers, r -> r.id().value()), true, at);
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
        changed(changes);
    }

    /** Takes over the pairings of a links file, for each door the most telling first. */
    public void pairings(List<Pairing> pairings) {
        Map<String, RegisterForm.Placed> placed = new LinkedHashMap<>();
        for (Pairing pairing : pairings) {
            placed.putIfAbsent(pairing.id().value(), new RegisterForm.Placed(pairing, placed.size()));
        }
        changed(registers.replace(RegisterForm.PAIR, Registers.LINKS_FILE, placed, true, clock.instant()));
    }

    @Override
    public List<Kept> of(DoorId door) {
        Timeline<RegisterForm.Placed> all = past.pairs;
        return all.all(clock.instant()).entrySet().stream()
                .filter(e -> e.getValue().pairing().door().equals(door))
                .sorted(Comparator.comparingInt(e -> e.getValue().order()))
                .map(e -> new Kept(e.getValue().pairing(), all.newest(e.getKey())))
                .toList();
    }

    @Override
    public long version(PairId pair) {
        return past.pairs.newest(pair.value());
    }

    @Override
    public long keep(Pairing pairing, long basedOn, Actor by) {
        Timeline<RegisterForm.Placed> all = past.pairs;
        Map<String, RegisterForm.Placed> now = all.all(clock.instant());
        int order = Optional.ofNullable(now.get(pairing.id().value()))
                .map(RegisterForm.Placed::order)
                .orElseGet(() -> 1
                        + now.values().stream()
                                .mapToInt(RegisterForm.Placed::order)
                                .max()
                                .orElse(-1));
        return edit(pairing.id(), Optional.of(new RegisterForm.Placed(pairing, order)), basedOn, by);
    }

    @Override
    public void keepAll(List<Edit> edits, Actor by) {
        Map<String, RegisterForm.Placed> now = past.pairs.all(clock.instant());
        int last =
                now.values().stream().mapToInt(RegisterForm.Placed::order).max().orElse(-1);
        List<Registers.Edit<RegisterForm.Placed>> all = new ArrayList<>();
        for (Edit edit : edits) {
            RegisterForm.Placed before = now.get(edit.pair().value());
            int order = before == null ? ++last : before.order();
            all.add(new Registers.Edit<>(
                    edit.pair().value(), edit.basedOn(), edit.pairing().map(p -> new RegisterForm.Placed(p, order))));
        }
        registers.editAll(RegisterForm.PAIR, all, by, clock.instant());
        pairsChanged();
    }

    @Override
    public long end(PairId pair, long basedOn, Actor by) {
        return edit(pair, Optional.empty(), basedOn, by);
    }

    private long edit(PairId pair, Optional<RegisterForm.Placed> value, long basedOn, Actor by) {
        Instant now = clock.instant();
        long version = registers.edit(RegisterForm.PAIR, pair.value(), basedOn, value, now, Optional.empty(), by, now);
        pairsChanged();
        return version;
    }

    private static <T> Map<String, T> byId(Collection<T> values, Function<T, String> id) {
        Map<String, T> result = new LinkedHashMap<>();
        values.forEach(v -> result.put(id.apply(v), v));
        return result;
    }

    private void changed(int changes) {
        if (changes > 0) {
            synchronized (reading) {
                past = new Past(registers);
            }
            new ArrayList<>(listeners).forEach(Runnable::run);
        }
    }

    private void pairsChanged() {
        synchronized (reading) {
            past = new Past(past, registers.timeline(RegisterForm.PAIR));
        }
        new ArrayList<>(listeners).forEach(Runnable::run);
    }
}
