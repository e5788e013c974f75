package org.custodia.core;

import java.time.Duration;
import org.awaitility.Awaitility;
import org.awaitility.core.ConditionFactory;

/** Waits for what must come: long enough for a machine that is shared, and no longer than it takes. */
public final class Patience {
    /** How long it may take, in seconds: less where mutants are tried, most of which keep it from coming. */
    private static final Duration MOST = Duration.ofSeconds(Integer.getInteger("custodia.patience", 90));

    private Patience() {}

    /** A wait that looks often and gives up at some time; what fails in a thread of another test meanwhile is not meant. */
    public static ConditionFactory await() {
        return Awaitility.await().dontCatchUncaughtExceptions().atMost(MOST).pollInterval(Duration.ofMillis(25));
    }
}
