package org.custodia.desktop.desk;

import java.time.Duration;
import java.time.Instant;
import java.util.Collection;
import java.util.List;
import java.util.Optional;
import java.util.function.Consumer;
import java.util.function.Supplier;
import javafx.beans.property.ReadOnlyObjectProperty;
import javafx.beans.property.ReadOnlyObjectWrapper;
import org.custodia.core.alarm.Alarm;
import org.custodia.core.alarm.Figures;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.EventKey;
import org.custodia.core.workplace.PermittedAlarms;
import org.custodia.desktop.Services;
import org.custodia.desktop.Work;

/**
 * The alarms that are not finished, as they stand now, also while the console looks back. Asked for anew when one changes and
 * every second, since one that is put aside comes back by time.
 */
public final class LiveAlarms implements AutoCloseable {
    private final Services services;
    private final Work lane = new Work("alarms now", 1);
    private final ReadOnlyObjectWrapper<List<Alarm>> open = new ReadOnlyObjectWrapper<>(List.of());
    private final EventIntake.Subscription subscription;
    private Figures hour = Figures.NONE;
    private int ten;
    private long second;

    LiveAlarms(Services services) {
        this.services = services;
        this.subscription = alarms().listen(a -> refresh());
    }

    private PermittedAlarms alarms() {
        return services.workplace().alarms();
    }

    /** Whether the operator sees alarms at all. */
    public boolean mayLook() {
        return alarms().mayLook();
    }

    /** Those that are not finished, the most urgent first. */
    public ReadOnlyObjectProperty<List<Alarm>> open() {
        return open.getReadOnlyProperty();
    }

    /** Those that nobody has seen, the most urgent first. */
    public List<Alarm> unseen() {
        Instant now = services.clock().instant();
        return open.get().stream().filter(a -> a.state(now) == Alarm.State.NEW).toList();
    }

    /** One of them. */
    public Optional<Alarm> alarm(EventKey id) {
        return open.get().stream().filter(a -> a.id().equals(id)).findFirst();
    }

    void tick() {
        long now = services.clock().instant().getEpochSecond();
        if (now != second) {
            second = now;
            refresh();
            lane.latest(
                    "figures",
                    () -> new Load(
                            alarms().figures(Duration.ofHours(1)),
                            alarms().figures(Duration.ofMinutes(10)).calls()),
                    load -> {
                        hour = load.hour();
                        ten = load.ten();
                    },
                    why -> {});
        }
    }

    /** Looks again, soon. From any thread. */
    void refresh() {
        lane.latest(this, () -> alarms().open(), this::take, why -> {});
    }

    private record Load(Figures hour, int ten) {}

    private void take(List<Alarm> now) {
        if (!now.equals(open.get())) {
            open.set(now);
        }
    }

    /** How much was called for in the last hour. */
    public Figures hour() {
        return hour;
    }

    /** How many were raised in the last ten minutes. */
    public int raisedInTen() {
        return ten;
    }

    /** Whether others are told when it does. */
    public boolean escalatesToOthers(Alarm alarm) {
        return alarms().escalation().nextTells(alarm);
    }

    /** When one calls louder, or others too, if nobody comes; nothing where it does not. */
    public Optional<Instant> escalates(Alarm alarm) {
        return alarms().escalation().next(alarm, services.clock().instant());
    }

    /** Acknowledges alarms as the operator saw them. */
    public void acknowledge(Collection<Alarm.Seen> seen, Consumer<String> failed) {
        List<Alarm.Seen> all = List.copyOf(seen);
        act(() -> alarms().acknowledge(all).join(), failed);
    }

    /**
     * Does something with an alarm, away from the JavaFX thread.
     *
     * @param failed told why it could not be done
     */
    public void act(Supplier<?> what, Consumer<String> failed) {
        lane.load(
                () -> {
                    what.get();
                    return Boolean.TRUE;
                },
                done -> refresh(),
                failed);
    }

    @Override
    public void close() {
        subscription.close();
        lane.close();
    }
}
