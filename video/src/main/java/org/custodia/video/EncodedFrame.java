package org.custodia.video;

import java.time.Instant;

/**
 * One frame as it came.
 *
 * @param data H.264 in the byte stream format (ITU-T H.264, annex B)
 * @param key whether it can be decoded alone
 * @param at the instant it shows
 */
record EncodedFrame(byte[] data, boolean key, Instant at) {}
