package org.custodia.desktop;

import java.io.IOException;
import java.nio.file.Path;
import java.time.Clock;
import java.util.List;
import java.util.Optional;
import java.util.function.BooleanSupplier;
import java.util.function.Supplier;
import org.custodia.core.access.PersonRegister;
import org.custodia.core.footage.ClockBook;
import org.custodia.core.link.LinkStatus;
import org.custodia.core.mishap.Mishaps;
import org.custodia.core.operator.Actor;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Sites;
import org.custodia.core.workplace.PermittedDoors;
import org.custodia.core.workplace.PermittedLog;
import org.custodia.core.workplace.PermittedVerdicts;
import org.custodia.core.workplace.Workplace;
import org.custodia.desktop.call.Outside;
import org.custodia.video.Pictures;

/**
 * What the views work with.
 *
 * @param workplace what is permitted to whoever is signed in
 * @param siteName name of the whole, shown at the top
 * @param practiceTime whether the clock is practice time
 * @param firstWatch doors on watch until the operator chooses; may be empty
 * @param links how each link is doing now
 * @param trouble what somebody has to do something about, such as a full disk; nothing while all is well
 * @param storing whether events are being stored; while they are not, nothing that is known is current
 * @param mishaps what went wrong inside Custodia, one each
 * @param diagnostics writes the file of diagnostics
 * @param outside what reaches beyond the window
 */
public record Services(
        Workplace workplace,
        Pictures pictures,
        String siteName,
        boolean practiceTime,
        Clock clock,
        ClockBook clocks,
        List<DoorId> firstWatch,
        Supplier<List<LinkStatus>> links,
        Supplier<Optional<Saying>> trouble,
        BooleanSupplier storing,
        Supplier<List<Mishaps.Seen>> mishaps,
        Diagnostics diagnostics,
        Outside outside) {
    /** Writes the file of diagnostics, for support. */
    @FunctionalInterface
    public interface Diagnostics {
        /**
         * Writes it, in place of what is there.
         *
         * @throws IOException if it cannot be written
         */
        void save(Path to) throws IOException;
    }

    public Actor actor() {
        return workplace.actor();
    }

    public Sites sites() {
        return workplace.sites();
    }

    public PermittedLog log() {
        return workplace.log();
    }

    public PermittedDoors doors() {
        return workplace.doors();
    }

    public PersonRegister people() {
        return workplace.people();
    }

    public PermittedVerdicts verdicts() {
        return workplace.verdicts();
    }
}
