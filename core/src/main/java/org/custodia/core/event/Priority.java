package org.custodia.core.event;

/** How much something matters, least first. Each has a shape of its own wherever it is drawn. */
public enum Priority {
    /** Nothing to draw. */
    NONE,
    /** Worth seeing, no colour: a hollow diamond. */
    NOTE,
    /** A ring. */
    LOW,
    /** A triangle. */
    CAUTION,
    /** A filled hexagon. */
    URGENT
}
