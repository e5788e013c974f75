package org.custodia.core.door;

import java.time.Instant;
import java.util.Optional;

/**
 * One time a door stood open.
 *
 * @param end when it closed; nothing while it is open
 * @param heldAt from when on it was open for longer than its limit
 * @param forced whether nothing had allowed it
 */
public record Opening(Instant start, Optional<Instant> end, Optional<Instant> heldAt, boolean forced) {}
