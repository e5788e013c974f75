package org.custodia.practice.timeline;

import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.Set;

/**
 * Something that is installed: it can be acted on, and tells how it is. What is done to the site goes to the device that it
 * names, so that a new sort of device is one class and some lines of the installation file.
 */
interface Device {
    /** Unlike that of any other device of the site. */
    String id();

    /** What sort of device it is, in words of the installation file. */
    String kind();

    /** The acts that it understands. */
    Set<String> acts();

    /**
     * Does something.
     *
     * @param act one of those it understands
     * @param random for whatever of it is left to chance
     * @return nothing if it was done, else why not
     */
    Optional<String> perform(Act act, long now, Random random);

    /** How it is, as it tells a link; nothing where it has nothing to tell. */
    default Map<String, String> report(long now) {
        return Map.of();
    }
}
