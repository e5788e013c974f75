package org.custodia.core.workplace;

import java.time.Duration;
import java.time.Instant;
import java.util.Collection;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import java.util.function.Consumer;
import org.custodia.core.alarm.Alarm;
import org.custodia.core.alarm.AlarmDesk;
import org.custodia.core.alarm.Escalation;
import org.custodia.core.alarm.Figures;
import org.custodia.core.alarm.Outcome;
import org.custodia.core.alarm.Procedure;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.EventKey;
import org.custodia.core.operator.Permission;

/** Alarms, as far as an operator may handle them. What is thrown is as {@link AlarmDesk} says. */
public final class PermittedAlarms {
    private final Permit permit;
    private final AlarmDesk desk;

    PermittedAlarms(Permit permit, AlarmDesk desk) {
        this.permit = permit;
        this.desk = desk;
    }

    /** After how long an alarm that nobody has seen calls louder. */
    public Escalation escalation() {
        return desk.escalation();
    }

    /** Whether the operator may see alarms anywhere. */
    public boolean mayLook() {
        return permit.actor().mayLookSomewhere(Permission.HANDLE_ALARMS);
    }

    /** Those that are not finished, the most urgent first. */
    public List<Alarm> open() {
        return desk.open(permit.actor());
    }

    /** The latest that are finished, the newest first. */
    public List<Alarm> finished() {
        return desk.finished(permit.actor());
    }

    /** Those that were raised in a period, as they stand by now, the newest first. */
    public List<Alarm> raised(Instant from, Instant to) {
        return desk.raised(from, to, permit.actor());
    }

    /** The queue as it stood at an instant. */
    public List<Alarm> openAt(Instant at) {
        return desk.openAt(at, permit.actor());
    }

    /** How much was called for of late. */
    public Figures figures(Duration of) {
        return desk.figures(of, permit.actor());
    }

    /** Tells of each that changes and that the operator may see, on the thread that stores it. */
    public EventIntake.Subscription listen(Consumer<Alarm> listener) {
        return desk.listen(a -> {
            if (desk.sees(a, permit.actor())) {
                listener.accept(a);
            }
        });
    }

    public CompletableFuture<Void> acknowledge(Collection<Alarm.Seen> seen) {
        return desk.acknowledge(seen, permit.actor());
    }

    public CompletableFuture<Event> take(EventKey id) {
        return desk.take(id, permit.actor());
    }

    public CompletableFuture<Event> hand(EventKey id, AlarmDesk.Colleague to) {
        return desk.hand(id, to.operator(), to.name(), permit.actor());
    }

    /** Whom an alarm can be handed over to; nobody where the operator may not handle alarms. */
    public List<AlarmDesk.Colleague> colleagues() {
        return mayLook() ? desk.colleagues(permit.actor()) : List.of();
    }

    public CompletableFuture<Event> shelve(EventKey id, Instant until, String reason) {
        return desk.shelve(id, until, reason, permit.actor());
    }

    public CompletableFuture<Event> back(EventKey id) {
        return desk.back(id, permit.actor());
    }

    /** What is to be done about an alarm; nothing where nobody has said. */
    public Optional<Procedure> procedure(Alarm alarm) {
        return desk.procedure(alarm);
    }

    public CompletableFuture<Event> tick(EventKey id, String step, boolean done) {
        return desk.tick(id, step, done, permit.actor());
    }

    public CompletableFuture<Event> note(EventKey id, String text) {
        return desk.note(id, text, permit.actor());
    }

    public CompletableFuture<Event> finish(Alarm.Seen seen, Outcome outcome, String text) {
        return desk.finish(seen, outcome, text, permit.actor());
    }
}
