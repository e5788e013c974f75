package org.custodia.link;

import java.time.Duration;

/** How long to wait before trying again: twice as long each time, up to a limit. */
final class BackOff {
    private static final Duration FIRST = Duration.ofMillis(500);
    private static final Duration MOST = Duration.ofSeconds(15);

    private final Pace pace;
    private Duration next = FIRST;

    BackOff(Pace pace) {
        this.pace = pace;
    }

    Duration next() {
        Duration now = next;
        Duration doubled = next.multipliedBy(2);
        next = doubled.compareTo(MOST) > 0 ? MOST : doubled;
        return pace.of(now);
    }

    void reset() {
        next = FIRST;
    }
}
