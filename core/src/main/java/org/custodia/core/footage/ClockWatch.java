package org.custodia.core.footage;

import java.time.Clock;
import java.time.Duration;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Function;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventField;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.EventLog;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Filter;
import org.custodia.core.event.Kinds;
import org.custodia.core.site.SystemId;

/**
 * Tells when a system's clock is off by more than is allowed for it, once, and when it is back; also over restarts. A clock is
 * off only when it is so beyond the uncertainty of the measurement, and back only well within. Safe for use by several threads.
 */
public final class ClockWatch {
    /** It is back at this share of what is allowed, so that one at the edge is not told of again and again. */
    private static final double BACK = 0.8;

    private final EventLog log;
    private final EventIntake intake;
    private final Function<SystemId, Optional<Duration>> limit;
    private final Clock clock;
    private final Map<SystemId, Boolean> off = new HashMap<>();

    /**
     * @param limit how far a system's clock may be off; nothing where that does not matter
     */
    public ClockWatch(EventLog log, EventIntake intake, Function<SystemId, Optional<Duration>> limit, Clock clock) {
        this.log = log;
        this.intake = intake;
        this.limit = limit;
        this.clock = clock;
    }

    /** Takes notice of what is known of a clock now. */
    public synchronized void measured(ClockBook.Estimate estimate) {
        Optional<Duration> allowed = limit.apply(estimate.system());
        if (allowed.isEmpty()) {
            return;
        }
        double most = allowed.get().toMillis();
        long ahead = Math.abs(estimate.ahead().toMillis());
        long unsure = estimate.uncertainty().toMillis();
        boolean was = off.computeIfAbsent(estimate.system(), this::lastWord);
        if (!was && ahead - unsure > most) {
            tell(Kinds.CLOCK_OFF, estimate, allowed.get());
        } else if (was && ahead + unsure < BACK * most) {
            tell(Kinds.CLOCK_BACK, estimate, allowed.get());
        }
    }

    private void tell(EventKind kind, ClockBook.Estimate estimate, Duration allowed) {
        off.put(estimate.system(), kind.equals(Kinds.CLOCK_OFF));
        intake.recordInOrder(Event.of(new EventKey(SystemId.CUSTODIA, 1, 0), kind, clock.instant())
                        .detail("system", estimate.system().value())
                        .detail("ahead-millis", Long.toString(estimate.ahead().toMillis()))
                        .detail(
                                "uncertainty-millis",
                                Long.toString(estimate.uncertainty().toMillis()))
                        .detail("allowed-millis", Long.toString(allowed.toMillis())))
                .whenComplete((stored, failure) -> {
                    if (failure != null) {
                        forget(estimate.system());
                    }
                });
    }

    /** What could not be written is told again. */
    private synchronized void forget(SystemId system) {
        off.remove(system);
    }

    private boolean lastWord(SystemId system) {
        List<Event> all = log.find(EventQuery.all()
                .where(Filter.is(EventField.SYSTEM, SystemId.CUSTODIA))
                .kinds(Kinds.CLOCK_OFF, Kinds.CLOCK_BACK)
                .newest(10_000));
        return all.stream()
                .filter(e -> e.detail("system").filter(system.value()::equals).isPresent())
                .findFirst()
                .filter(e -> e.kind().equals(Kinds.CLOCK_OFF))
                .isPresent();
    }
}
