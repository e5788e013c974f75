package org.custodia.store;

import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeSet;
import java.util.function.BiFunction;
import java.util.function.Function;
import java.util.stream.Collectors;
import org.custodia.core.site.Camera;
import org.custodia.core.site.Device;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Lookout;
import org.custodia.core.site.Pairing;
import org.custodia.core.site.Placing;
import org.custodia.core.site.Reader;
import org.custodia.core.site.Site;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.Thing;
import org.custodia.core.site.Walk;

/** All that was ever said of places, by systems and here, and what follows from it for any instant. Not changed once it is read. */
final class PlacesOverTime {
    /** Models of past times that are kept; what is looked at lies mostly within few of them. */
    private static final int REMEMBERED = 12;

    private final Told told;
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

    PlacesOverTime(Told told) {
        this.told = told;
        told.placed().forEach(t -> changes.addAll(t.changes()));
        everyDoor = lastSites();
        now = new Span(Instant.MAX, Instant.MIN, SiteModel.EMPTY);
    }

    private Map<DoorId, SiteId> lastSites() {
        Map<DoorId, SiteId> result = new HashMap<>();
        for (String id : told.doors().ids()) {
            told.doors().last(id).ifPresent(d -> result.put(d.id(), d.site()));
        }
        for (String id : told.placings().ids()) {
            told.placings()
                    .last(id)
                    .filter(p -> p.thing().sort() == Thing.Sort.DOOR)
                    .flatMap(Placing::site)
                    .ifPresent(site -> result.replace(
                            new DoorId(Thing.parse(id).orElseThrow().id()), site));
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
        List<Pairing> ordered = told.pairs().all(at).values().stream()
                .sorted(Comparator.comparingInt(RegisterForm.Placed::order))
                .map(RegisterForm.Placed::pairing)
                .toList();
        Map<String, Placing> placings = told.placings().allSaid(at);
        return new SiteModel(
                told.sites().all(at).values(),
                here(told.doors().all(at).values(), d -> Thing.of(d.id()), Placing::on, placings),
                here(told.cameras().all(at).values(), c -> Thing.of(c.id()), Placing::on, placings),
                ordered,
                told.readers().all(at).values(),
                here(told.devices().all(at).values(), d -> Thing.of(d.id()), Placing::on, placings),
                told.walks().all(at).values(),
                told.lookouts().all(at).values(),
                placings.values().stream()
                        .filter(p -> p.leftOut() && p.thing().sort() == Thing.Sort.DOOR)
                        .map(p -> new DoorId(p.thing().id()))
                        .collect(Collectors.toSet()));
    }

    /** What systems have as it stands here: without what was left out, and where and how it was said to be. */
    private static <T> List<T> here(
            Collection<T> said, Function<T, Thing> thing, BiFunction<Placing, T, T> on, Map<String, Placing> placings) {
        List<T> result = new ArrayList<>(said.size());
        for (T one : said) {
            Placing placing = placings.get(thing.apply(one).toString());
            if (placing == null) {
                result.add(one);
            } else if (!placing.leftOut()) {
                result.add(on.apply(placing, one));
            }
        }
        return result;
    }

    /** All that was ever said, by systems and here. */
    record Told(
            Timeline<Site> sites,
            Timeline<Door> doors,
            Timeline<Camera> cameras,
            Timeline<RegisterForm.Placed> pairs,
            Timeline<Reader> readers,
            Timeline<Device> devices,
            Timeline<Placing> placings,
            Timeline<Walk> walks,
            Timeline<Lookout> lookouts,
            Timeline<RegisterForm.Seen> seen) {
        static Told read(Registers registers) {
            return new Told(
                    registers.timeline(RegisterForm.SITE),
                    registers.timeline(RegisterForm.DOOR),
                    registers.timeline(RegisterForm.CAMERA),
                    registers.timeline(RegisterForm.PAIR),
                    registers.timeline(RegisterForm.READER),
                    registers.timeline(RegisterForm.DEVICE),
                    registers.timeline(RegisterForm.PLACING),
                    registers.timeline(RegisterForm.WALK),
                    registers.timeline(RegisterForm.LOOKOUT),
                    registers.timeline(RegisterForm.SEEN));
        }

        /** The same after somebody has said something here in one register, with all others as they were. */
        Told after(RegisterForm<?> edited, Registers registers) {
            return new Told(
                    again(RegisterForm.SITE, sites, edited, registers),
                    doors,
                    cameras,
                    again(RegisterForm.PAIR, pairs, edited, registers),
                    readers,
                    devices,
                    again(RegisterForm.PLACING, placings, edited, registers),
                    again(RegisterForm.WALK, walks, edited, registers),
                    again(RegisterForm.LOOKOUT, lookouts, edited, registers),
                    again(RegisterForm.SEEN, seen, edited, registers));
        }

        private static <T> Timeline<T> again(
                RegisterForm<T> form, Timeline<T> before, RegisterForm<?> edited, Registers registers) {
            return form == edited ? registers.timeline(form) : before;
        }

        /** Those from which a model is made. */
        List<Timeline<?>> placed() {
            return List.of(sites, doors, cameras, pairs, readers, devices, placings, walks, lookouts);
        }
    }

    /** All that was ever said. */
    Told told() {
        return told;
    }

    /** The site of every door there ever was; of one that is gone or has moved, the last. */
    Map<DoorId, SiteId> everyDoor() {
        return everyDoor;
    }
}
