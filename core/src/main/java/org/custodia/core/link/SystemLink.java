package org.custodia.core.link;

import java.io.IOException;
import java.util.Optional;
import org.custodia.core.site.SystemId;

/** A connection to a system of any kind, from its making to its closing. */
public sealed interface SystemLink extends AutoCloseable permits AccessLink, RecorderLink {
    SystemId system();

    LinkStatus status();

    /** Where its clock takes the time from, as it said last; nothing where it does not say. */
    default Optional<ClockSource> clockSource() {
        return Optional.empty();
    }

    /**
     * Has the system set its clock now, and measures it. Waits for that.
     *
     * @throws IOException if it does not, or cannot; it says why
     */
    default void syncClock() throws IOException {
        throw new UnsupportedOperationException(system() + " cannot set its clock");
    }

    @Override
    void close();
}
