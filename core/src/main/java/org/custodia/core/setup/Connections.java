package org.custodia.core.setup;

import java.time.Instant;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.function.Consumer;
import org.custodia.core.link.ClockSource;
import org.custodia.core.link.Finding;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.SystemId;

/** Opens and closes connections as they are set up, while everything else goes on. */
public interface Connections {
    /**
     * What can be connected to.
     *
     * @param kind what sort of system, as an access system or a recorder
     * @param make what it speaks
     */
    record Make(String kind, String make) {}

    /** All there are. */
    List<Make> makes();

    /** Where a system's clock takes the time from, as it said last; nothing where it does not say or is not connected to. */
    Optional<ClockSource> clockSource(SystemId system);

    /**
     * Has a system set its clock now. Waits for that.
     *
     * @throws SetupException if it does not, or cannot; it says why
     */
    void syncClock(SystemId system);

    /** Begins to connect; the connection goes on by itself. One that there is to the same system is closed first. */
    void open(LinkSetup link, String token);

    /** Says of a link that is set up why it is not connected to. */
    void cannotOpen(LinkSetup link, Saying why);

    /** Says of a link that is set up that it is not wanted now; there was none to it. */
    void leave(LinkSetup link);

    /** Ends a connection for a while. The log says that the link is lost, and why: what its doors do is not known then. */
    void pause(LinkSetup link, Saying why);

    /** The same for good: its doors and cameras are no longer there, and all that is past stays. */
    void end(SystemId system, Saying why);

    /**
     * Who answers at an address. Waits for the answer.
     *
     * @throws SetupException if nobody does who can be connected to; it says why
     */
    Answer whoAnswers(LinkSetup link, String token) throws InterruptedException;

    /**
     * A certificate that answers at an address.
     *
     * @param fingerprint SHA-256, 64 hexadecimal digits
     * @param subject whom it names
     * @param until when it ends
     * @param vouchedFor whether an authority that this machine trusts vouches for it, at that address
     */
    record Shown(String fingerprint, String subject, Instant until, boolean vouchedFor) {
        /** A fingerprint as people compare it, in pairs. */
        public static String written(String fingerprint) {
            return fingerprint.toUpperCase(Locale.ROOT).replaceAll("(..)(?=.)", "$1:");
        }
    }

    /**
     * Which certificate answers at an address that begins with https; nothing is sent there.
     *
     * @throws SetupException if nothing answers, or not so; it says why
     */
    Shown certificate(LinkSetup link);

    /**
     * Who a system says it is.
     *
     * @param name as people call it; empty if it does not say
     */
    record Answer(String id, String name) {}

    /**
     * Walks through a system from outside, as far as it lets one in, without connecting to it. Waits for the end.
     *
     * @param told of each finding, in order, on the thread that walks
     * @throws InterruptedException if whoever walks is interrupted, which ends the walk
     */
    void walk(LinkSetup link, String token, Consumer<Finding> told) throws InterruptedException;
}
