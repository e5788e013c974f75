package org.custodia.core.workplace;

import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import org.custodia.core.access.Verdict;
import org.custodia.core.access.Verdicts;
import org.custodia.core.event.Event;
import org.custodia.core.operator.NotPermittedException;

/** Verdicts on the events that one operator may see. */
public final class PermittedVerdicts {
    private final Permit permit;
    private final Verdicts verdicts;

    PermittedVerdicts(Permit permit, Verdicts verdicts) {
        this.permit = permit;
        this.verdicts = verdicts;
    }

    /**
     * The verdict on an event, if somebody gave one.
     *
     * @throws NotPermittedException if what happens at its door cannot be seen
     */
    public Optional<Verdict> of(Event about) {
        if (!permit.arrives(about)) {
            throw permit.refusal(Sight.ARRIVALS);
        }
        return verdicts.of(about.key());
    }

    /**
     * Keeps a verdict of this operator.
     *
     * @throws NotPermittedException as {@link Verdicts#give} does
     */
    public CompletableFuture<Event> give(Event about, Verdict verdict) {
        return verdicts.give(permit.actor(), about, verdict);
    }
}
