package org.custodia.desktop.watch;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Queue;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ConcurrentLinkedQueue;
import java.util.function.Supplier;
import java.util.stream.Collectors;
import org.custodia.core.door.DoorBoard;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.EventQuery;
import org.custodia.core.operator.NotPermittedException;
import org.custodia.core.site.DoorId;
import org.custodia.desktop.Work;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.saying.SayingWords;
import org.custodia.desktop.strip.StripData;
import org.custodia.desktop.strip.StripMaker;

/**
 * Fills the strips that are in view. When the moment or the span changes, or others come into view, they are read from the log
 * in one go; from then on an event that is published goes to its strip without being read again, and a strip is touched only
 * when it shows something else.
 */
final class StripFeed implements AutoCloseable {
    /** What became of a grant changes as time passes. */
    private static final Duration LOOK_AGAIN = Duration.ofSeconds(2);
    /** In a flood strips are read anew no more often than that. */
    private static final Duration REST = Duration.ofSeconds(1);
    /** More than so many at once are read in one go. */
    private static final int MANY = 500;

    private final Desk desk;
    private final Collection<StripModel> strips;
    private final Supplier<Duration> span;
    private final Queue<Event> arrived = new ConcurrentLinkedQueue<>();
    private final Set<DoorId> changed = ConcurrentHashMap.newKeySet();
    private final Runnable take = Work.conflated(this::take);
    private final Runnable readSoon = Work.conflated(this::read);
    private final List<EventIntake.Subscription> subscriptions;
    private Instant lookedAt = Instant.MIN;
    private boolean readsHistory;
    /** Whether more was published at once than is worth taking one by one. */
    private boolean flooded;

    private Instant readAt = Instant.EPOCH;
    /** Those that can be seen; empty before that is said for the first time, when all can. */
    private Optional<Set<StripModel>> visible = Optional.empty();
    /** Nobody looks at the strips, whatever is in view once somebody does. */
    private volatile boolean unseen;

    private static final Window NOTHING = new Window(Set.of(), Instant.MAX, Instant.MIN);
    /** What is worth taking of what is published; told to whichever thread publishes. */
    private volatile Window window = NOTHING;

    /**
     * @param strips those that are shown, as they are at any time
     * @param span how far back they go
     */
    StripFeed(Desk desk, Collection<StripModel> strips, Supplier<Duration> span) {
        this.desk = desk;
        this.strips = strips;
        this.span = span;
        this.subscriptions = List.of(
                desk.services().log().subscribe(this::stored),
                desk.services().doors().onChange(doors -> {
                    if (!unseen) {
                        changed.addAll(doors);
                        take.run();
                    }
                }));
    }

    /**
     * What strips show.
     *
     * @param begin the first instant that matters to them
     * @param end the last
     */
    private record Window(Set<DoorId> doors, Instant begin, Instant end) {
        boolean holds(Event event) {
            return event.door().filter(doors::contains).isPresent()
                    && !event.time().isBefore(begin)
                    && !event.time().isAfter(end);
        }
    }

    /** Whether somebody looks at strips at all: while nobody does they stay as they are, and are read once somebody does. */
    void inSight(boolean now) {
        if (unseen != now) {
            return;
        }
        unseen = !now;
        if (now) {
            readAll();
        } else {
            window = NOTHING;
            arrived.clear();
            changed.clear();
        }
    }

    private void lookThrough() {
        Instant end = end();
        Instant begin = end.minus(span.get()).minus(StripMaker.EXPLAINED);
        window = new Window(doors(inView()), begin, desk.moment().get().isLive() ? Instant.MAX : end);
    }

    /** The instant up to which strips go. */
    private Instant end() {
        // What just happened may lie a little ahead of our clock.
        return desk.moment().get().isLive() ? desk.now().plus(DoorBoard.CLOCK_ERROR) : desk.shown();
    }

    private static Set<DoorId> doors(Collection<StripModel> of) {
        return of.stream().map(s -> s.door().id()).collect(Collectors.toSet());
    }

    private List<StripModel> inView() {
        return strips.stream().filter(StripModel::isInView).toList();
    }

    /** Reads all strips in view from the log; others when they come into view. */
    void readAll() {
        flooded = false;
        readAt = desk.now();
        strips.forEach(StripModel::outdate);
        read();
    }

    /** Reads strips that were not there before, if they can be seen. */
    void read(Collection<StripModel> some) {
        // Those that come below the others change nothing of what can be seen, so that nothing is said of them.
        visible.ifPresent(now -> some.forEach(s -> s.inView(now.contains(s))));
        some.forEach(StripModel::outdate);
        if (!some.isEmpty()) {
            readSoon.run();
        }
    }

    /** Says which strips can be seen; the others are not kept up to date. */
    void inView(Set<StripModel> now) {
        visible = Optional.of(now);
        strips.forEach(s -> s.inView(now.contains(s)));
        if (!unseen) {
            lookThrough();
            readSoon.run();
        }
    }

    /** Reads what is in view and has not been read: all of it under one key, so that a later reading never leaves one out. */
    private void read() {
        if (unseen) {
            return;
        }
        record Asked(StripModel strip, long number, List<Event> before) {}
        lookThrough();
        List<Asked> asked = inView().stream()
                .filter(s -> !s.isRead())
                .map(s -> new Asked(s, s.reading(), s.events()))
                .toList();
        if (asked.isEmpty()) {
            return;
        }
        Set<DoorId> doors = doors(asked.stream().map(Asked::strip).toList());
        Instant end = end();
        Duration length = span.get();
        desk.work()
                .latest(
                        "strips",
                        () -> load(doors, end, length),
                        loaded -> {
                            List<StripModel> again = new ArrayList<>();
                            for (Asked a : asked) {
                                Loaded its = loaded.get(a.strip().door().id());
                                if (a.strip().takeReading(a.number(), a.before(), its.events(), its.data())) {
                                    again.add(a.strip());
                                }
                            }
                            again.forEach(this::makeAgain);
                        },
                        why -> asked.forEach(a -> a.strip().failReading(a.number(), why)));
    }

    private record Loaded(List<Event> events, StripData data) {}

    private Map<DoorId, Loaded> load(Set<DoorId> doors, Instant end, Duration length) {
        EventQuery question = EventQuery.all()
                .between(end.minus(length).minus(StripMaker.EXPLAINED), end.plusNanos(1000))
                .doors(doors)
                .kinds(StripMaker.SHOWN);
        Map<DoorId, List<Event>> events = Map.of();
        Optional<String> refused = Optional.empty();
        try {
            events = desk.services().log().find(question).stream()
                    .collect(Collectors.groupingBy(e -> e.door().orElseThrow()));
        } catch (NotPermittedException e) {
            refused = Optional.of(SayingWords.of(e));
        }
        Map<DoorId, Loaded> all = new LinkedHashMap<>();
        StripMaker maker = maker();
        for (DoorId door : doors) {
            List<Event> its = events.getOrDefault(door, List.of());
            StripData made = maker.make(door, its, end, length);
            // What is said of the one door is more to the point.
            boolean silent = refused.isPresent() && made.failure().isEmpty();
            all.put(door, new Loaded(its, silent ? made.failed(refused.get()) : made));
        }
        return all;
    }

    private StripMaker maker() {
        return new StripMaker(desk.services().doors(), desk.words());
    }

    private void stored(List<Event> events) {
        boolean any = false;
        for (Event event : events) {
            if (StripMaker.SHOWN.contains(event.kind()) && window.holds(event)) {
                arrived.add(event);
                any = true;
            }
        }
        if (any) {
            take.run();
        }
    }

    /** Brings strips up to date with what was published. */
    private void take() {
        Map<DoorId, List<Event>> fresh = new HashMap<>();
        int many = 0;
        Event event;
        while ((event = arrived.poll()) != null) {
            many++;
            fresh.computeIfAbsent(event.door().orElseThrow(), d -> new ArrayList<>())
                    .add(event);
        }
        Set<DoorId> touched = new HashSet<>(changed);
        changed.removeAll(touched);
        touched.addAll(fresh.keySet());
        if (many > MANY) {
            flooded = true;
            return;
        }
        boolean live = desk.moment().get().isLive();
        for (StripModel strip : inView()) {
            List<Event> its = fresh.getOrDefault(strip.door().id(), List.of()).stream()
                    .filter(window::holds)
                    .toList();
            if (!its.isEmpty()) {
                strip.arrived(its);
            }
            // What happens now does not change how it was.
            if (!its.isEmpty() || live && touched.contains(strip.door().id())) {
                makeAgain(strip);
            }
        }
    }

    private void makeAgain(StripModel strip) {
        makeAgain(strip.door().id(), List.of(strip));
    }

    /** Makes strips anew of the events that are there. */
    private void makeAgain(Object key, Collection<StripModel> some) {
        record Job(StripModel strip, long number, DoorId door, List<Event> events) {}
        List<Job> jobs = new ArrayList<>();
        some.forEach(s -> s.askMaking()
                .ifPresent(number -> jobs.add(new Job(s, number, s.door().id(), s.events()))));
        if (jobs.isEmpty()) {
            return;
        }
        Instant end = end();
        Duration length = span.get();
        desk.work()
                .latest(
                        key,
                        () -> {
                            StripMaker maker = maker();
                            return jobs.stream()
                                    .map(j -> maker.make(j.door(), j.events(), end, length))
                                    .toList();
                        },
                        made -> {
                            for (int i = 0; i < jobs.size(); i++) {
                                jobs.get(i).strip().takeMade(jobs.get(i).number(), made.get(i));
                            }
                        },
                        why -> {});
    }

    /** What changes as time passes, and what was read while links were still reading history. */
    void tick() {
        if (unseen) {
            return;
        }
        Instant now = desk.now();
        boolean reads = desk.readsHistory();
        boolean rested = Duration.between(readAt, now).compareTo(REST) >= 0;
        if (reads != readsHistory || flooded && rested) {
            readsHistory = reads;
            readAll();
        }
        lookThrough();
        if (lookedAt.equals(Instant.MIN) || Duration.between(lookedAt, now).compareTo(LOOK_AGAIN) > 0) {
            lookedAt = now;
            if (inView().stream().anyMatch(s -> s.data().get().failure().isPresent())) {
                readAll();
            } else if (desk.moment().get().isLive()) {
                makeAgain("all made anew", inView());
            }
        }
    }

    @Override
    public void close() {
        subscriptions.forEach(EventIntake.Subscription::close);
    }
}
