package org.custodia.link;

/** How fast the links of tests go about what they do by time. */
public final class TestPace {
    /** Five times as fast; still slow enough for a machine that is shared. */
    public static final Pace QUICK = new Pace(5);

    private TestPace() {}
}
