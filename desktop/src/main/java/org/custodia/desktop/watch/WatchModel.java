package org.custodia.desktop.watch;

import java.time.Duration;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.BooleanSupplier;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import javafx.beans.property.ObjectProperty;
import javafx.beans.property.ReadOnlyObjectProperty;
import javafx.beans.property.SimpleObjectProperty;
import javafx.collections.FXCollections;
import javafx.collections.ObservableList;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.SiteModel;
import org.custodia.desktop.Services;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.settings.Settings;
import org.custodia.desktop.strip.StripSize;
import org.custodia.desktop.strip.TimeAxis;
import org.custodia.desktop.text.Texts;

/**
 * The state of Watch: which doors are shown in which order, and over which span. Used on the JavaFX thread; holds no nodes.
 */
public final class WatchModel implements AutoCloseable {
    private static final Texts TEXTS = Texts.of(WatchModel.class);

    private static final int FIRST_COUNT = 6;

    /** So many doors that need somebody come first; in a flood the queue of alarms has the others. */
    private static final int MOST_FIRST = 12;

    private final Desk desk;
    private final Services services;
    private final Settings settings;
    private final BooleanSupplier nobodyPoints;
    private final ObjectProperty<Duration> span = new SimpleObjectProperty<>();
    private final ObjectProperty<StripSize> size = new SimpleObjectProperty<>();
    private final ObservableList<StripModel> strips = FXCollections.observableArrayList();
    private final StripFeed feed;
    private final Map<DoorId, StripModel> models = new LinkedHashMap<>();
    private final List<DoorId> onWatch = new ArrayList<>();
    private final Set<DoorId> toPlay = new LinkedHashSet<>();
    /** Doors that will move to the top when the operator stops pointing. */
    private final ObjectProperty<List<Door>> waiting = new SimpleObjectProperty<>(List.of());

    private List<DoorId> needing = List.of();

    private boolean chosen;

    /**
     * @param nobodyPoints whether order may change: nothing is open, and the pointer and the focus are elsewhere
     */
    public WatchModel(Desk desk, BooleanSupplier nobodyPoints) {
        this.desk = desk;
        this.services = desk.services();
        this.settings = desk.settings();
        this.nobodyPoints = nobodyPoints;
        this.span.set(TimeAxis.SPANS.stream()
                .filter(s -> s.toSeconds() == settings.values().spanSeconds())
                .findFirst()
                .orElse(Duration.ofMinutes(10)));
        this.size.set(StripSize.of(settings.values().stripSize()));
        size.addListener((o, a, b) -> settings.stripSize(b.name()));
        this.feed = new StripFeed(desk, strips, span::get);
        span.addListener((o, a, b) -> {
            settings.span(b.toSeconds());
            feed.readAll();
        });
        desk.moment().addListener((o, a, b) -> feed.readAll());
        desk.meanings().addListener((o, a, b) -> feed.readAll());
        desk.live().states().addListener((o, a, b) -> {
            strips.forEach(this::takeState);
            arrange(false);
        });
        desk.commands().newest().addListener((o, a, b) -> b.flatMap(p -> Optional.ofNullable(models.get(p.door())))
                .ifPresent(s -> s.progress().set(b)));
        desk.zoneProperty().addListener((o, a, b) -> models.clear());
        chooseFromSettings();
    }

    public Desk desk() {
        return desk;
    }

    public ObjectProperty<Duration> span() {
        return span;
    }

    /** How much room strips take; remembered. */
    public ObjectProperty<StripSize> size() {
        return size;
    }

    /** The strips in the order in which they are shown. */
    public ObservableList<StripModel> strips() {
        return strips;
    }

    /** Doors that need attention and will move to the top when the operator stops pointing. */
    public ReadOnlyObjectProperty<List<Door>> waiting() {
        return waiting;
    }

    /** Doors at the top since they need attention, in this order. */
    List<DoorId> needing() {
        return needing;
    }

    /** Sorts the strips at once, at the operator's request. */
    public void arrangeNow() {
        arrange(true);
    }

    /** Says which strips can be seen; before that is said for the first time, all can. */
    void inView(Set<StripModel> now) {
        feed.inView(now);
    }

    /** Whether somebody looks at the strips at all. */
    void inSight(boolean now) {
        feed.inSight(now);
    }

    // ---- doors on watch

    /** The doors on watch that are known, in the chosen order. */
    public List<DoorId> onWatch() {
        SiteModel model = services.sites().get();
        return onWatch.stream().filter(d -> model.door(d).isPresent()).toList();
    }

    /** As chosen, or else as the site proposes, or else doors that a camera looks at. */
    private void chooseFromSettings() {
        SiteModel model = services.sites().get();
        List<DoorId> kept = settings.values().doors() == null
                ? List.of()
                : settings.values().doors().stream().map(DoorId::new).toList();
        chosen = kept.stream().anyMatch(d -> model.door(d).isPresent());
        onWatch.clear();
        if (chosen) {
            // Those not known yet come with their system.
            onWatch.addAll(kept);
        } else {
            Stream.of(
                            services.firstWatch().stream(),
                            model.doors().stream().map(Door::id).filter(d -> !model.pairings(d)
                                    .isEmpty()),
                            model.doors().stream().map(Door::id))
                    .flatMap(doors -> doors)
                    .filter(d -> model.door(d).isPresent())
                    .distinct()
                    .limit(FIRST_COUNT)
                    .forEach(onWatch::add);
        }
        arrange(true);
    }

    /** Takes notice that the places changed. */
    public void placesChanged() {
        if (!chosen) {
            chooseFromSettings();
        }
        models.entrySet().removeIf(e -> services.sites()
                .get()
                .door(e.getKey())
                .filter(d -> d.equals(e.getValue().door()))
                .isEmpty());
        arrange(true);
    }

    /** Chooses the doors on watch and their order; remembered. */
    public void watch(List<DoorId> doors) {
        onWatch.clear();
        onWatch.addAll(new LinkedHashSet<>(doors));
        chosen = true;
        settings.doors(onWatch.stream().map(DoorId::value).toList());
        arrange(true);
    }

    /** Shows a door that is not on watch, so that something can be played there. */
    public void showToPlay(DoorId door) {
        if (!onWatch.contains(door)) {
            toPlay.add(door);
        }
        arrange(true);
    }

    /** Nothing is played at this door any more. */
    public void playedAt(DoorId door) {
        toPlay.remove(door);
        arrange(false);
    }

    /** Puts the strips in order: what needs somebody first, then as chosen. */
    private void arrange(boolean atOnce) {
        List<DoorId> first = first();
        if (!atOnce && !nobodyPoints.getAsBoolean()) {
            sayWaiting(first);
            return;
        }
        waiting.set(List.of());
        needing = first;
        List<DoorId> order = new ArrayList<>(first);
        toPlay.stream().filter(d -> !order.contains(d)).forEach(order::add);
        onWatch.stream().filter(d -> !order.contains(d)).forEach(order::add);
        List<StripModel> wanted = new ArrayList<>();
        List<StripModel> fresh = new ArrayList<>();
        for (DoorId id : order) {
            services.sites().get().door(id).ifPresent(door -> {
                StripModel model = models.computeIfAbsent(id, d -> {
                    StripModel added = new StripModel(door);
                    takeState(added);
                    added.progress().set(desk.commands().latest(id));
                    fresh.add(added);
                    return added;
                });
                model.shownFor(
                        onWatch.contains(id)
                                ? ""
                                : toPlay.contains(id) ? TEXTS.say("here-to-play") : TEXTS.say("here-needs"));
                wanted.add(model);
            });
        }
        models.keySet().retainAll(new HashSet<>(order));
        if (!wanted.equals(strips)) {
            strips.setAll(wanted);
            desk.doorstep().follow(strips.stream().map(s -> s.door().id()).collect(Collectors.toSet()));
        }
        feed.read(fresh);
    }

    /** The doors that need attention. */
    private List<DoorId> first() {
        if (!desk.moment().get().isLive()) {
            return List.of();
        }
        SiteModel model = services.sites().get();
        return Stream.concat(
                        desk.alarms().unseen().stream()
                                .filter(a -> a.origin().forward())
                                .flatMap(a -> a.calling().subject().door().stream()),
                        desk.live().needing().stream())
                .distinct()
                .filter(d -> model.door(d).isPresent())
                .limit(MOST_FIRST)
                .toList();
    }

    private void sayWaiting(List<DoorId> first) {
        Set<DoorId> above =
                strips.stream().limit(first.size()).map(s -> s.door().id()).collect(Collectors.toSet());
        List<Door> now = first.stream()
                .filter(d -> !above.contains(d))
                .flatMap(d -> services.sites().get().door(d).stream())
                .toList();
        if (!now.equals(waiting.get())) {
            waiting.set(now);
        }
    }

    private void takeState(StripModel strip) {
        strip.live(desk.live().state(strip.door().id()));
    }

    /** Called several times a second: what changes as time passes, and the order of strips. */
    public void tick() {
        feed.tick();
        arrange(false);
    }

    @Override
    public void close() {
        feed.close();
    }
}
