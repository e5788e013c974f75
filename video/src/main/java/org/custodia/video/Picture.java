package org.custodia.video;

import java.time.Instant;

/**
 * One decoded frame.
 *
 * @param argb pixels, row by row, opaque; not to be changed, and where a listener is told of frames, good only until it returns
 * @param at the instant it shows
 */
public record Picture(int width, int height, int[] argb, Instant at) {}
