package org.custodia.desktop;

import java.time.Clock;
import java.util.List;
import java.util.Optional;
import java.util.function.BooleanSupplier;
import java.util.function.Supplier;
import org.custodia.core.access.PersonRegister;
import org.custodia.core.access.Verdicts;
import org.custodia.core.door.DoorBoard;
import org.custodia.core.door.DoorDesk;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.EventLog;
import org.custodia.core.footage.ClockBook;
import org.custodia.core.link.LinkStatus;
import org.custodia.core.operator.Actor;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Sites;
import org.custodia.video.VideoDesk;

/**
 * What the views work with.
 *
 * @param siteName name of the whole, shown at the top
 * @param practiceTime whether the clock is practice time
 * @param firstWatch doors on watch until the operator chooses; may be empty
 * @param links how each link is doing now
 * @param trouble what somebody has to do something about, such as a full disk; nothing while all is well
 * @param storing whether events are being stored; while they are not, nothing that is known is current
 * @param mishaps what went wrong inside Custodia, a line each
 */
public record Services(
        Actor actor,
        String siteName,
        boolean practiceTime,
        Clock clock,
        Sites sites,
        EventLog log,
        EventIntake intake,
        DoorBoard board,
        DoorDesk doorDesk,
        PersonRegister people,
        Verdicts verdicts,
        VideoDesk video,
        ClockBook clocks,
        List<DoorId> firstWatch,
        Supplier<List<LinkStatus>> links,
        Supplier<Optional<String>> trouble,
        BooleanSupplier storing,
        Supplier<List<String>> mishaps) {}
