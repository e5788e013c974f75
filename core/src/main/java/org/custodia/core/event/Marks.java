package org.custodia.core.event;

import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;

/** How far those have come who go through the log and must miss nothing, also when the process ends in the middle. */
public interface Marks {
    /**
     * Up to which position somebody has gone through the log; 0 for one who never has.
     *
     * @throws EventLogException if it cannot be read
     */
    long reached(String who);

    /**
     * Keeps that somebody has gone through it up to a position.
     *
     * @throws EventLogException if it cannot be kept
     */
    void reach(String who, long position);

    /** Marks that are forgotten with the process. */
    static Marks inMemory() {
        Map<String, Long> all = new ConcurrentHashMap<>();
        return new Marks() {
            @Override
            public long reached(String who) {
                return all.getOrDefault(who, 0L);
            }

            @Override
            public void reach(String who, long position) {
                all.put(who, position);
            }
        };
    }
}
