package org.custodia.link;

import java.time.Clock;
import java.util.List;
import java.util.function.Consumer;
import java.util.function.UnaryOperator;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.EventLog;
import org.custodia.core.footage.ClockBook;
import org.custodia.core.link.LinkStatus;

/**
 * What a link needs around it.
 *
 * @param keepReading keeps what is known of a clock for later runs
 * @param news of reports of doors' states, those that would change what is known of the doors
 * @param pace how fast it goes about what it does by time
 * @param statusListener told of each change of a link's status, on any thread; must return quickly
 */
public record Surroundings(
        EventIntake intake,
        EventLog log,
        ClockBook clocks,
        Consumer<ClockBook.Estimate> keepReading,
        Inventory inventory,
        UnaryOperator<List<Event>> news,
        Clock clock,
        Pace pace,
        Consumer<LinkStatus> statusListener) {}
