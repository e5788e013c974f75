package org.custodia.link;

import java.time.Duration;
import org.awaitility.Awaitility;
import org.awaitility.core.ConditionFactory;

/** Waiting for what must come: long enough for a machine that is shared, over at once where it has come. */
public final class Patience {
    /** How fast the links of tests go about what they do by time; still slow enough for a machine that is shared. */
    public static final Pace QUICK = new Pace(5);

    /** How long what must come may take: less where mutants are tried, most of which keep it from coming. */
    private static final Duration MOST = Duration.ofSeconds(Integer.getInteger("custodia.patience", 90));

    private Patience() {}

    /** A wait that gives up at some time. */
    public static ConditionFactory await() {
        return Awaitility.await().atMost(MOST).pollInterval(Duration.ofMillis(20));
    }
}
