package org.custodia.desktop.trial;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Base64;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.CancellationException;
import java.util.concurrent.CompletionException;
import java.util.function.Consumer;
import javafx.application.Platform;
import javafx.beans.property.ReadOnlyObjectProperty;
import javafx.beans.property.ReadOnlyObjectWrapper;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventIntake;
import org.custodia.core.setup.Trial;
import org.custodia.core.site.Crop;
import org.custodia.core.site.Pairing;
import org.custodia.desktop.desk.Desk;

/** Trying cameras: waits until something happens at what is tried, and keeps what somebody says of the picture. No nodes. */
public final class TrialModel implements AutoCloseable {
    /** Nobody takes longer from the desk's call to the reader. */
    public static final Duration PATIENCE = Duration.ofSeconds(45);
    /** After an opening alone, what was presented may still be told. */
    private static final Duration MAY_FOLLOW = Duration.ofSeconds(2);
    /** What is older than this when it arrives did not happen because somebody asked for it. */
    private static final Duration OLD = Duration.ofSeconds(2);

    /** Pixels; enough to see who it was. */
    private static final int STILL_HEIGHT = 120;

    private static final int MOST_MEANWHILE = 4;

    /** How it goes. */
    public sealed interface State {
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

    private final Tried tried;
    private final Desk desk;
    private final ReadOnlyObjectWrapper<State> state = new ReadOnlyObjectWrapper<>(new State.Idle());
    private final List<Event> elsewhere = new ArrayList<>();
    private Optional<Event> opened = Optional.empty();
    private EventIntake.Subscription subscription;

    public TrialModel(Tried tried, Desk desk) {
        this.tried = tried;
        this.desk = desk;
    }

    public ReadOnlyObjectProperty<State> state() {
        return state.getReadOnlyProperty();
    }

    Tried tried() {
        return tried;
    }

    Desk desk() {
        return desk;
    }

    /** Begins to wait for something to be presented. */
    public void begin() {
        end();
        elsewhere.clear();
        opened = Optional.empty();
        state.set(new State.Waiting(desk.now()));
        subscription = desk.services().log().subscribe(events -> Platform.runLater(() -> events.forEach(this::take)));
    }

    /** Gives up; nothing is kept. */
    public void abandon() {
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
        if (tried.happened(event)) {
            judge(event);
        } else if (tried.moved(event)) {
            opened = opened.or(() -> Optional.of(event));
        } else if (tried.elsewhere(event)) {
            elsewhere.add(0, event);
            if (elsewhere.size() > MOST_MEANWHILE) {
                elsewhere.remove(MOST_MEANWHILE);
            }
        }
    }

    private void judge(Event event) {
        end();
        state.set(new State.Judging(event));
    }

    /** Looks whether it has waited long enough. */
    public void tick() {
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
    public Optional<Duration> left() {
        return state.get() instanceof State.Waiting waiting
                ? Optional.of(Duration.between(desk.now(), waiting.since().plus(PATIENCE)))
                : Optional.empty();
    }

    /** Keeps what somebody says of a pair's picture. */
    public void keep(
            Pairing pairing,
            boolean rightDoor,
            boolean rightPerson,
            boolean rightMoment,
            Runnable done,
            Consumer<String> failed) {
        if (state.get() instanceof State.Judging judging) {
            Event event = judging.event();
            desk.work()
                    .load(
                            () -> still(pairing, event),
                            still -> tried.keep(
                                    pairing,
                                    new Trial(
                                            pairing.id(),
                                            Trial.as(pairing),
                                            event.key(),
                                            event.time(),
                                            still,
                                            rightDoor,
                                            rightPerson,
                                            rightMoment,
                                            desk.services().actor().name(),
                                            desk.now()),
                                    done,
                                    failed),
                            failed);
        }
    }

    /** The picture that was judged, small; nothing where there is none by now, which keeps no answer from being kept. */
    private Optional<String> still(Pairing pairing, Event event) {
        return desk.services().sites().get().camera(pairing.camera()).flatMap(c -> {
            try {
                byte[] jpeg = desk.services()
                        .pictures()
                        .still(c.id(), c.recorder(), event.time(), Crop.WHOLE, STILL_HEIGHT)
                        .join()
                        .picture()
                        .jpeg();
                return Optional.of(Base64.getEncoder().encodeToString(jpeg));
            } catch (CompletionException | CancellationException e) {
                return Optional.empty();
            }
        });
    }

    @Override
    public void close() {
        end();
    }
}
