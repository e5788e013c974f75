package org.custodia.desktop.watch;

import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.function.BooleanSupplier;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import javafx.application.Platform;
import javafx.beans.property.ObjectProperty;
import javafx.beans.property.ReadOnlyObjectProperty;
import javafx.beans.property.ReadOnlyObjectWrapper;
import javafx.beans.property.SimpleObjectProperty;
import javafx.collections.FXCollections;
import javafx.collections.ObservableList;
import org.custodia.core.command.CommandProgress;
import org.custodia.core.door.DoorBoard;
import org.custodia.core.door.DoorCommand;
import org.custodia.core.door.DoorState;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.Priority;
import org.custodia.core.link.LinkStatus;
import org.custodia.core.moment.Moment;
import org.custodia.core.operator.NotPermittedException;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.SiteModel;
import org.custodia.desktop.Services;
import org.custodia.desktop.Work;
import org.custodia.desktop.settings.Settings;
import org.custodia.desktop.words.EventWords;

/**
 * The state of Watch: which doors are shown in which order, at which moment, over which span, and what their strips hold.
 * Used on the JavaFX thread; holds no nodes.
 */
public final class WatchModel implements AutoCloseable {
    private static final int FIRST_COUNT = 6;
    private static final Duration STATE_EVERY = Duration.ofMillis(900);
    private static final Duration RELOAD_EVERY = Duration.ofSeconds(5);

    private final Services services;
    private final Settings settings;
    private final Work work;
    private final EventWords words;
    private final StripLoader loader;
    private final BooleanSupplier nobodyPoints;
    private final ObjectProperty<Moment> moment = new SimpleObjectProperty<>(Moment.LIVE);
    private final ObjectProperty<Duration> span = new SimpleObjectProperty<>();
    private final ReadOnlyObjectWrapper<Optional<Event>> doorstep = new ReadOnlyObjectWrapper<>(Optional.empty());
    private final ObservableList<StripModel> strips = FXCollections.observableArrayList();
    private final Map<DoorId, StripModel> models = new LinkedHashMap<>();
    private final List<DoorId> onWatch = new ArrayList<>();
    private final Set<DoorId> toPlay = new LinkedHashSet<>();
    private final Set<DoorId> changed = ConcurrentHashMap.newKeySet();
    private final Runnable refreshChanged;
    private final List<EventIntake.Subscription> subscriptions;
    private final java.util.Queue<Event> arrived = new java.util.concurrent.ConcurrentLinkedQueue<>();
    private final Runnable takeArrived;
    private boolean doorstepPinned;
    private boolean arrivedSeen;
    private Instant statesAt = Instant.MIN;
    private Instant reloadedAt = Instant.MIN;
    private Instant doorstepAsked = Instant.EPOCH;
    private boolean chosen;
    private ZoneId zone;

    /**
     * @param nobodyPoints whether order may change: the pointer rests and nothing is open
     */
    public WatchModel(Services services, Settings settings, Work work, BooleanSupplier nobodyPoints) {
        this.services = services;
        this.settings = settings;
        this.work = work;
        this.nobodyPoints = nobodyPoints;
        this.words = new EventWords(services.people(), services.sites());
        this.loader = new StripLoader(services.log(), services.doors(), words);
        this.span.set(TimeAxis.SPANS.stream()
                .filter(s -> s.toSeconds() == settings.values().spanSeconds())
                .findFirst()
                .orElse(Duration.ofMinutes(10)));
        this.refreshChanged = Work.conflated(this::reloadChanged);
        this.takeArrived = Work.conflated(this::takeArrived);
        this.subscriptions = List.of(
                services.log().subscribe(this::stored),
                services.doors().onChange(doors -> {
                    changed.addAll(doors);
                    refreshChanged.run();
                }),
                services.doors().onProgress(p -> Platform.runLater(() -> progressed(p))));
        span.addListener((o, a, b) -> {
            settings.span(b.toSeconds());
            reloadAll();
        });
        moment.addListener((o, a, b) -> {
            reloadAll();
            doorstepOfTheMoment();
        });
        zone = zoneOfMostDoors();
        chooseFromSettings();
    }

    public Services services() {
        return services;
    }

    public EventWords words() {
        return words;
    }

    public ObjectProperty<Moment> moment() {
        return moment;
    }

    public ObjectProperty<Duration> span() {
        return span;
    }

    /** The strips in the order in which they are shown. */
    public ObservableList<StripModel> strips() {
        return strips;
    }

    /** The badge event on the doorstep. */
    public ReadOnlyObjectProperty<Optional<Event>> doorstep() {
        return doorstep.getReadOnlyProperty();
    }

    public Instant now() {
        return services.clock().instant();
    }

    /** The instant shown. */
    public Instant shown() {
        return moment.get().at(now());
    }

    /** The zone that most doors lie in; the common axis is lettered in it. */
    public ZoneId zone() {
        return zone;
    }

    private ZoneId zoneOfMostDoors() {
        SiteModel model = services.sites().get();
        Map<ZoneId, Long> doors = model.doors().stream()
                .collect(Collectors.groupingBy(d -> model.zoneOf(d.id()), LinkedHashMap::new, Collectors.counting()));
        return doors.entrySet().stream()
                .max(Map.Entry.comparingByValue())
                .map(Map.Entry::getKey)
                .orElse(ZoneId.systemDefault());
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
        if (!zone.equals(zoneOfMostDoors())) {
            zone = zoneOfMostDoors();
            models.clear();
        }
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
        if (!atOnce && !nobodyPoints.getAsBoolean()) {
            return;
        }
        List<DoorId> order = new ArrayList<>();
        if (moment.get().isLive()) {
            order.addAll(needing());
        }
        toPlay.stream().filter(d -> !order.contains(d)).forEach(order::add);
        onWatch.stream().filter(d -> !order.contains(d)).forEach(order::add);
        List<StripModel> wanted = new ArrayList<>();
        for (DoorId id : order) {
            services.sites().get().door(id).ifPresent(door -> {
                boolean fresh = !models.containsKey(id);
                StripModel model = models.computeIfAbsent(id, d -> new StripModel(door));
                model.shownFor(
                        onWatch.contains(id) ? "" : toPlay.contains(id) ? "shown to play" : "shown while it needs you");
                wanted.add(model);
                if (fresh) {
                    reload(model);
                }
            });
        }
        models.keySet().retainAll(new HashSet<>(order));
        if (!wanted.equals(strips)) {
            strips.setAll(wanted);
        }
    }

    /** The doors that need somebody now, whatever moment is shown: the worst first, then the oldest. */
    public List<DoorId> needing() {
        record Needing(DoorId id, Priority priority, Instant since) {}
        List<Needing> found = new ArrayList<>();
        Instant now = now();
        for (Door door : services.sites().get().doors()) {
            DoorState state = liveStates.getOrDefault(door.id(), DoorState.UNKNOWN);
            Priority priority = StripModel.priority(state);
            boolean unlockedOnPurpose = state.lock() == org.custodia.core.door.LockMode.UNLOCKED
                    && state.forcedSince().isEmpty();
            if (priority != Priority.NONE
                    && !unlockedOnPurpose
                    && !StripModel.needsSince(state).isAfter(now)) {
                found.add(new Needing(door.id(), priority, StripModel.needsSince(state)));
            }
        }
        return found.stream()
                .sorted(Comparator.comparing(Needing::priority).reversed().thenComparing(Needing::since))
                .map(Needing::id)
                .toList();
    }

    // ---- what strips hold

    private volatile Map<DoorId, DoorState> liveStates = Map.of();

    /** The state of every door now, as of the last look at the board. */
    public Map<DoorId, DoorState> liveStates() {
        return liveStates;
    }

    private void reload(StripModel model) {
        long number = model.ask();
        Instant end = moment.get().isLive() ? now().plus(DoorBoard.CLOCK_ERROR) : shown();
        DoorId id = model.door().id();
        Duration length = span.get();
        work.load(() -> loader.load(id, end, length), data -> model.take(number, data), model::fail);
    }

    private void reloadAll() {
        strips.forEach(this::reload);
        reloadedAt = now();
    }

    private void reloadChanged() {
        Set<DoorId> now = new HashSet<>(changed);
        changed.removeAll(now);
        if (moment.get().isLive()) {
            strips.stream().filter(s -> now.contains(s.door().id())).forEach(this::reload);
        }
        statesAt = Instant.MIN;
        tick();
    }

    private void stored(List<Event> events) {
        for (Event event : events) {
            boolean shown = event.kind().equals(Kinds.REFUSED) || event.kind().equals(Kinds.GRANTED);
            if (shown && event.door().isPresent()) {
                changed.add(event.door().get());
                arrived.add(event);
            }
        }
        if (!changed.isEmpty()) {
            refreshChanged.run();
            takeArrived.run();
        }
    }

    /**
     * Whether a link is still reading what happened while nobody listened, so that what is shown of it may lack something.
     */
    public boolean readsHistory() {
        return services.links().get().stream().anyMatch(s -> s.state() == LinkStatus.State.READING_BACKLOG);
    }

    /**
     * Whether what is known of a door is of an earlier time, since its system has not told yet how things stand now: why, in
     * words; nothing once it has, or while the door is known to be out of reach.
     */
    public Optional<String> notKnownYet(Door door) {
        if (!services.storing().getAsBoolean()) {
            return Optional.of("events are not being stored");
        }
        return services.links().get().stream()
                .filter(s -> s.system().equals(door.system()))
                .findFirst()
                .flatMap(s -> switch (s.state()) {
                    case CONNECTING -> Optional.of("connecting to its system");
                    case READING_BACKLOG -> Optional.of("history is still being read");
                    case UP, DOWN, CLOSED -> Optional.empty();
                });
    }

    /**
     * Until the first badge arrives, the doorstep shows who came last before the console was opened; that is known once
     * history is read.
     */
    private void firstDoorstep(Instant now) {
        boolean waits = !arrivedSeen && moment.get().isLive() && !readsHistory();
        if (waits && Duration.between(doorstepAsked, now).compareTo(RELOAD_EVERY) > 0) {
            doorstepAsked = now;
            doorstepOfTheMoment();
        }
    }

    /** Called several times a second: states that change as time passes, and the order of strips. */
    public void tick() {
        Instant now = now();
        firstDoorstep(now);
        if (Duration.between(reloadedAt, now).compareTo(RELOAD_EVERY) > 0
                && moment.get().isLive()) {
            reloadAll();
        }
        if (statesAt.equals(Instant.MIN) || Duration.between(statesAt, now).compareTo(STATE_EVERY) > 0) {
            statesAt = now;
            List<Door> all = List.copyOf(services.sites().get().doors());
            work.load(() -> states(all), this::takeStates, why -> {});
        }
    }

    private Map<DoorId, DoorState> states(List<Door> doors) {
        Map<DoorId, DoorState> result = new LinkedHashMap<>();
        Map<DoorId, DoorState> now =
                services.doors().now(doors.stream().map(Door::id).toList());
        for (Door door : doors) {
            DoorState state = now.getOrDefault(door.id(), DoorState.UNKNOWN);
            // How it stood when the log ended is not how it stands.
            boolean old = state.outOfReachSince().isEmpty() && notKnownYet(door).isPresent();
            result.put(door.id(), old ? DoorState.UNKNOWN : state);
        }
        return result;
    }

    private void takeStates(Map<DoorId, DoorState> states) {
        liveStates = states;
        for (StripModel strip : strips) {
            DoorState state = states.getOrDefault(strip.door().id(), DoorState.UNKNOWN);
            strip.live(state);
        }
        arrange(false);
    }

    // ---- doorstep

    private void takeArrived() {
        Set<DoorId> shownDoors = new HashSet<>();
        strips.forEach(s -> shownDoors.add(s.door().id()));
        Event event;
        Event newest = null;
        while ((event = arrived.poll()) != null) {
            boolean recent = Duration.between(event.time(), now()).compareTo(Duration.ofMinutes(2)) < 0;
            if (recent && shownDoors.contains(event.door().orElseThrow())) {
                newest = event;
            }
        }
        arrivedSeen |= newest != null;
        if (newest != null && !doorstepPinned && moment.get().isLive()) {
            doorstep.set(Optional.of(newest));
        }
    }

    /** While looking back the doorstep shows who came last before the moment; back at now the last who came. */
    private void doorstepOfTheMoment() {
        if (doorstepPinned) {
            return;
        }
        Moment asked = moment.get();
        Set<DoorId> doors = new HashSet<>();
        strips.forEach(s -> doors.add(s.door().id()));
        if (doors.isEmpty()) {
            return;
        }
        Instant until = shown();
        work.load(
                () -> services.log()
                        .find(EventQuery.all()
                                .until(until)
                                .doors(doors)
                                .kinds(Kinds.GRANTED, Kinds.REFUSED)
                                .newest(1)),
                found -> {
                    if (asked.equals(moment.get()) && !doorstepPinned) {
                        doorstep.set(found.stream().findFirst());
                    }
                },
                why -> {});
    }

    /** Puts an event on the doorstep, where it stays until {@link #unpin}. */
    public void pin(Event event) {
        boolean badge = event.kind().equals(Kinds.GRANTED) || event.kind().equals(Kinds.REFUSED);
        if (badge) {
            doorstepPinned = true;
            doorstep.set(Optional.of(event));
        }
    }

    /** Lets the doorstep follow what arrives again. */
    public void unpin() {
        doorstepPinned = false;
    }

    public boolean pinned() {
        return doorstepPinned;
    }

    // ---- moment

    /** Looks back at an instant; one that is not past returns to now. */
    public void lookBack(Instant at) {
        moment.set(at.isBefore(now().minusMillis(1500)) ? new Moment.At(at) : Moment.LIVE);
    }

    public void returnToNow() {
        moment.set(Moment.LIVE);
    }

    // ---- commands

    /** The commands offered at a door as it stands now. */
    public List<DoorCommand> offered(StripModel strip) {
        return services.doors().offered(strip.door());
    }

    /** Gives a command; how it goes shows in the strip. */
    public void act(Door door, DoorCommand command) {
        try {
            services.doors().act(door.id(), command, Optional.empty());
        } catch (NotPermittedException | IllegalArgumentException e) {
            progressed(
                    new CommandProgress("", door.id(), command, CommandProgress.Stage.FAILED, now(), e.getMessage()));
        }
    }

    private final ReadOnlyObjectWrapper<Optional<CommandProgress>> newest =
            new ReadOnlyObjectWrapper<>(Optional.empty());

    /** The latest stage of the latest command. */
    public ReadOnlyObjectProperty<Optional<CommandProgress>> newestCommand() {
        return newest.getReadOnlyProperty();
    }

    private void progressed(CommandProgress progress) {
        StripModel strip = models.get(progress.door());
        if (strip != null) {
            strip.progress().set(Optional.of(progress));
        }
        newest.set(Optional.of(progress));
    }

    @Override
    public void close() {
        subscriptions.forEach(EventIntake.Subscription::close);
    }
}
