package org.custodia.link;

import java.time.Duration;
import org.awaitility.Awaitility;
import org.awaitility.core.ConditionFactory;

/** Waiting for what must come: long enough for a machine that is shared, over at once where it has come. */
public final class Patience {
    private Patience() {}

    /** A wait that gives up after a minute and a half. */
    public static ConditionFactory await() {
        return Awaitility.await().atMost(Duration.ofSeconds(90)).pollInterval(Duration.ofMillis(20));
    }
}
