package org.custodia.link;

import java.time.Duration;

/**
 * How fast a link goes about what it does by time: trying again, looking whether it is behind, giving up what is silent. (How
 * long an answer may take is apart from that: it depends on the machine and the network.) A hub goes
 * at the {@linkplain #USUAL usual} pace; whoever plays a system by script goes faster and sees the same in less time.
 *
 * @param times how many times faster than usual, 1 or more
 */
public record Pace(int times) {
    /** At this pace the lengths that are given in the code hold as they stand. */
    public static final Pace USUAL = new Pace(1);

    /**
     * @throws IllegalArgumentException if it is slower than usual
     */
    public Pace {
        if (times < 1) {
            throw new IllegalArgumentException("A link cannot go " + times + " times as fast as usual");
        }
    }

    /** What a usual length of time comes to. */
    Duration of(Duration usual) {
        return usual.dividedBy(times);
    }
}
