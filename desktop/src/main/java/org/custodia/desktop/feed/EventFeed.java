package org.custodia.desktop.feed;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Queue;
import java.util.concurrent.ConcurrentLinkedQueue;
import java.util.function.Predicate;
import java.util.function.Supplier;
import javafx.beans.property.ReadOnlyIntegerProperty;
import javafx.beans.property.ReadOnlyIntegerWrapper;
import javafx.beans.property.ReadOnlyObjectProperty;
import javafx.beans.property.ReadOnlyObjectWrapper;
import javafx.collections.FXCollections;
import javafx.collections.ObservableList;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.EventQuery;
import org.custodia.desktop.Work;
import org.custodia.desktop.desk.Desk;

/**
 * What happened up to the moment that is shown, newest first: a page at a time from the log, and live what is published.
 * What arrives waits and is counted until the view puts it among the rows, so that nothing moves while somebody reads. At
 * most a page is kept waiting; where more comes, all is read again instead.
 */
public final class EventFeed implements AutoCloseable {
    private static final int PAGE = 80;
    /** In a flood it is read anew no more often than that. */
    private static final Duration REST = Duration.ofSeconds(1);
    /** What just happened may lie ahead of our clock by so much. */
    private static final int SECONDS_AHEAD = 60;

    private final Desk desk;
    private final Supplier<EventQuery> question;
    private final Predicate<Event> belongs;
    private final ObservableList<Event> rows = FXCollections.observableArrayList();
    private final ReadOnlyIntegerWrapper waiting = new ReadOnlyIntegerWrapper();
    private final ReadOnlyObjectWrapper<State> state = new ReadOnlyObjectWrapper<>(new State.Loading());
    private final List<Event> held = new ArrayList<>();
    private final Queue<Event> incoming = new ConcurrentLinkedQueue<>();
    private final Runnable takeIncoming = Work.conflated(this::takeIncoming);
    private final EventIntake.Subscription subscription;
    /** Whether more has arrived than is kept waiting. */
    private boolean tooMany;

    private Instant readAt = Instant.EPOCH;
    private boolean loadingMore;
    private boolean atEnd;
    private int generation;

    /** Whether it was read. */
    public sealed interface State {
        record Loading() implements State {}

        record Read() implements State {}

        /**
         * @param why in a sentence
         */
        record Failed(String why) implements State {}
    }

    /**
     * @param question what is wanted, without a span; asked for at each reading
     * @param atOnce what may belong to it, decided on whichever thread publishes
     * @param belongs whether an event is among what is wanted now
     */
    public EventFeed(Desk desk, Supplier<EventQuery> question, Predicate<Event> atOnce, Predicate<Event> belongs) {
        this.desk = desk;
        this.question = question;
        this.belongs = belongs;
        this.subscription = desk.services().log().subscribe(events -> {
            boolean any = false;
            for (Event event : events) {
                if (atOnce.test(event)) {
                    incoming.add(event);
                    any = true;
                }
            }
            if (any) {
                takeIncoming.run();
            }
        });
        desk.moment().addListener((o, a, b) -> reload());
        desk.meanings().addListener((o, a, b) -> reload());
    }

    /** The events, newest first. */
    public ObservableList<Event> rows() {
        return rows;
    }

    /** How many have arrived that are not among the rows yet. */
    public ReadOnlyIntegerProperty waiting() {
        return waiting.getReadOnlyProperty();
    }

    public ReadOnlyObjectProperty<State> state() {
        return state.getReadOnlyProperty();
    }

    /** Reads again from the moment. */
    public void reload() {
        readAt = desk.now();
        int mine = ++generation;
        holdNothing();
        loadingMore = false;
        EventQuery first = question.get()
                .until(desk.shown().plusSeconds(desk.moment().get().isLive() ? SECONDS_AHEAD : 0))
                .newest(PAGE);
        desk.work()
                .latest(
                        this,
                        () -> desk.services().log().find(first),
                        found -> {
                            if (mine == generation) {
                                rows.setAll(found);
                                atEnd = found.size() < PAGE;
                                state.set(new State.Read());
                            }
                        },
                        why -> {
                            if (mine == generation) {
                                state.set(new State.Failed(why));
                            }
                        });
    }

    /** Reads further back; called when the reader nears the end of the rows. */
    public void more() {
        if (loadingMore || atEnd || rows.isEmpty()) {
            return;
        }
        loadingMore = true;
        int mine = generation;
        EventQuery next = question.get().before(rows.get(rows.size() - 1)).newest(PAGE);
        desk.work()
                .load(
                        () -> desk.services().log().find(next),
                        found -> {
                            if (mine == generation) {
                                rows.addAll(found);
                                atEnd = found.isEmpty();
                                loadingMore = false;
                            }
                        },
                        why -> {
                            if (mine == generation) {
                                loadingMore = false;
                            }
                        });
    }

    private void takeIncoming() {
        List<Event> fresh = new ArrayList<>();
        Event event;
        while ((event = incoming.poll()) != null) {
            if (belongs.test(event)) {
                fresh.add(event);
            }
        }
        if (fresh.isEmpty() || !desk.moment().get().isLive()) {
            return;
        }
        held.addAll(fresh);
        tooMany |= held.size() > PAGE;
        if (tooMany) {
            held.clear();
        }
        waiting.set(waiting.get() + fresh.size());
    }

    /**
     * Puts what waits among the rows, each at its place. Where that is too much, all is read again, unless it just was: ask
     * again as long as something waits.
     */
    public void showWaiting() {
        if (tooMany) {
            // A flood would have it read anew with each batch.
            if (Duration.between(readAt, desk.now()).compareTo(REST) >= 0) {
                reload();
            }
            return;
        }
        for (Event event : held) {
            place(event).ifPresent(i -> rows.add(i, event));
        }
        holdNothing();
    }

    /** Where among the rows an event goes; nowhere if it is there, or lies beyond what was read. */
    private Optional<Integer> place(Event event) {
        int place = 0;
        while (place < rows.size() && rows.get(place).compareTo(event) > 0) {
            place++;
        }
        boolean within = place < rows.size() || atEnd || rows.isEmpty();
        boolean there = place < rows.size() && rows.get(place).key().equals(event.key());
        return within && !there ? Optional.of(place) : Optional.empty();
    }

    private void holdNothing() {
        held.clear();
        tooMany = false;
        waiting.set(0);
    }

    @Override
    public void close() {
        subscription.close();
    }
}
