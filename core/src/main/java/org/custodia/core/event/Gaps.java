package org.custodia.core.event;

/** Why numbers are missing: the reasons that a gap in the log can have. */
public final class Gaps {
    /** The system says, or shows, that it keeps nothing so old any more. */
    public static final String NOT_KEPT = "not-kept";
    /** The system was asked for them again and did not deliver them. */
    public static final String NOT_DELIVERED = "not-delivered";

    private Gaps() {}
}
