package org.custodia.desktop.setup;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.function.Consumer;
import javafx.application.Platform;
import javafx.beans.property.ReadOnlyObjectProperty;
import javafx.beans.property.ReadOnlyObjectWrapper;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Kinds;
import org.custodia.core.setup.Trial;
import org.custodia.core.site.Door;
import org.custodia.core.site.Pairing;
import org.custodia.desktop.desk.Desk;

/** Trying a door's pairs: waits until something is presented there, and keeps what somebody says of the picture. No nodes. */
final class TrialModel implements AutoCloseable {
    /** Nobody takes longer from the desk's call to the reader. */
    static final Duration PATIENCE = Duration.ofSeconds(45);
    /** After an opening alone, what was presented may still be told. */
    private static final Duration MAY_FOLLOW = Duration.ofSeconds(2);
    /** What is older than this when it arrives did not happen because somebody asked for it. */
    private static final Duration OLD = Duration.ofSeconds(2);

    private static final Set<EventKind> PRESENTED = Set.of(Kinds.GRANTED, Kinds.REFUSED, Kinds.EXIT_REQUESTED);
    private static final int MOST_MEANWHILE = 4;

    /** How it goes. */
    sealed interface State {
        /** Nothing is tried. */
        record Idle() implements State {}

        /** Something is to be presented. */
        record Waiting(Instant since) implements State {}

        /**
         * Nothing came in time.
         *
         * @param elsewhere what came from other doors of the site meanwhile, the latest first
         */
        record NothingCame(List<Event> elsewhere) implements State {}

        /** Something came, and its pictures are to be judged. */
        record Judging(Event event) implements State {}
    }

    private final PairsModel pairs;
    private final Door door;
    private final Desk desk;
    private final ReadOnlyObjectWrapper<State> state = new ReadOnlyObjectWrapper<>(new State.Idle());
    private final List<Event> elsewhere = new ArrayList<>();
    private Optional<Event> opened = Optional.empty();
    private EventIntake.Subscription subscription;

    TrialModel(PairsModel pairs, Door door) {
        this.pairs = pairs;
        this.door = door;
        this.desk = pairs.desk();
    }

    ReadOnlyObjectProperty<State> state() {
        return state.getReadOnlyProperty();
    }

    Door door() {
        return door;
    }

    PairsModel pairs() {
        return pairs;
    }

    /** Begins to wait for something to be presented. */
    void begin() {
        end();
        elsewhere.clear();
        opened = Optional.empty();
        state.set(new State.Waiting(desk.now()));
        subscription = desk.services().log().subscribe(events -> Platform.runLater(() -> events.forEach(this::take)));
    }

    /** Gives up; nothing is kept. */
    void abandon() {
        end();
        state.set(new State.Idle());
    }

    private void end() {
        if (subscription != null) {
            subscription.close();
            subscription = null;
        }
    }

    private void take(Event event) {
        if (!(state.get() instanceof State.Waiting waiting)
                || event.time().isBefore(waiting.since().minus(OLD))) {
            return;
        }
        boolean here = event.door().filter(door.id()::equals).isPresent();
        if (here && PRESENTED.contains(event.kind())) {
            judge(event);
        } else if (here && event.kind().equals(Kinds.OPENED) && opened.isEmpty()) {
            opened = Optional.of(event);
        } else if (!here && PRESENTED.contains(event.kind()) && ofThisSite(event)) {
            elsewhere.add(0, event);
            if (elsewhere.size() > MOST_MEANWHILE) {
                elsewhere.remove(MOST_MEANWHILE);
            }
        }
    }

    private boolean ofThisSite(Event event) {
        return event.door()
                .flatMap(desk.services().sites().get()::door)
                .filter(d -> d.site().equals(door.site()))
                .isPresent();
    }

    private void judge(Event event) {
        end();
        state.set(new State.Judging(event));
    }

    /** Looks whether it has waited long enough. */
    void tick() {
        if (!(state.get() instanceof State.Waiting waiting)) {
            return;
        }
        Instant now = desk.now();
        if (opened.filter(o -> now.isAfter(o.time().plus(MAY_FOLLOW))).isPresent()) {
            judge(opened.get());
        } else if (now.isAfter(waiting.since().plus(PATIENCE))) {
            end();
            state.set(new State.NothingCame(List.copyOf(elsewhere)));
        }
    }

    /** How long it waits yet; nothing while it does not. */
    Optional<Duration> left() {
        return state.get() instanceof State.Waiting waiting
                ? Optional.of(Duration.between(desk.now(), waiting.since().plus(PATIENCE)))
                : Optional.empty();
    }

    /** Keeps what somebody says of a pair's picture. */
    void keep(
            Pairing pairing,
            boolean rightDoor,
            boolean rightPerson,
            boolean rightMoment,
            Runnable done,
            Consumer<String> failed) {
        if (state.get() instanceof State.Judging judging) {
            Event event = judging.event();
            Trial trial = new Trial(
                    pairing.id(),
                    Trial.as(pairing),
                    event.key(),
                    event.time(),
                    rightDoor,
                    rightPerson,
                    rightMoment,
                    desk.services().actor().name(),
                    desk.now());
            pairs.tried(trial, door.id(), done, failed);
        }
    }

    @Override
    public void close() {
        end();
    }
}
