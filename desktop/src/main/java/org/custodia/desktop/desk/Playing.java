package org.custodia.desktop.desk;

import java.time.Instant;
import java.util.Optional;
import org.custodia.core.event.Event;
import org.custodia.core.site.DoorId;

/**
 * What an operator plays: a moment of a door.
 *
 * @param number tells it from all else that was played, since the same may be played again
 * @param event what is played; nothing for a bare moment
 */
public record Playing(long number, DoorId door, Optional<Event> event, Instant moment) {}
