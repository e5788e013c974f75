package org.custodia.core.site;

/**
 * Where badges are presented at a door.
 *
 * @param side on which side of the door it is
 */
public record Reader(ReaderId id, DoorId door, Side side, String name) {}
