package org.custodia.core;

import java.time.Duration;
import org.awaitility.Awaitility;
import org.awaitility.core.ConditionFactory;

/** Waits for what must come: long enough for a machine that is shared, and no longer than it takes. */
public final class Patience {
    /** The longest wait. Mutation tests shorten it, since most mutants would otherwise use all of it. */
    private static final Duration MOST = Duration.ofSeconds(Integer.getInteger("custodia.patience", 90));

    private Patience() {}

    /** A wait that checks every 25 ms and fails after the longest wait. It ignores exceptions in threads of other tests. */
    public static ConditionFactory await() {
        return Awaitility.await().dontCatchUncaughtExceptions().atMost(MOST).pollInterval(Duration.ofMillis(25));
    }
}
