package org.custodia.wire;

import java.time.Instant;
import java.util.List;

/** What a recorder says. All times are by its own clock. */
public final class RecorderMessages {
    /** Header of a stream or a still: the instant of its first frame. */
    public static final String FIRST_FRAME = "X-First-Frame";

    private RecorderMessages() {}

    /** Answer to {@code GET hello}. */
    public record Hello(int protocol, String system, String name, String make) {}

    /** Answer to {@code GET cameras}. */
    public record Cameras(List<WireCamera> cameras) {}

    /**
     * One picture of one camera and what footage of it there is.
     *
     * @param keptFrom the oldest instant that is not overwritten
     * @param readyAfterMillis how long until what was recorded can be had
     * @param lostSince since when it gives no picture; absent while it does
     * @param missing spans of which nothing was recorded; absent where all was
     */
    public record WireCamera(
            String id,
            String name,
            String site,
            int width,
            int height,
            Instant keptFrom,
            long readyAfterMillis,
            Instant lostSince,
            List<Missing> missing) {}

    /** A span of which nothing was recorded. */
    public record Missing(Instant from, Instant to) {}
}
