package org.custodia.wire;

import java.time.Instant;

/**
 * Answer to {@code GET time} of any system.
 *
 * @param time what its clock shows
 */
public record ClockMessage(Instant time) {}
