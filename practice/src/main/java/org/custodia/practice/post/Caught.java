package org.custodia.practice.post;

import java.time.Instant;

/**
 * A message that came.
 *
 * @param when by practice time
 * @param way mail or web
 * @param to whom it was for
 * @param id by which the same one is known when it comes again
 * @param remark how it stands with its signature, or that it came before
 * @param picture bytes of the picture that came with it; 0 for none
 */
public record Caught(
        Instant when, String way, String to, String id, String subject, String text, String remark, int picture) {}
