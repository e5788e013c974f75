package org.custodia.video;

import java.time.Instant;

/**
 * One decoded frame.
 *
 * @param argb pixels, row by row, opaque; not to be changed
 * @param at the instant it shows
 */
public record Picture(int width, int height, int[] argb, Instant at) {}
