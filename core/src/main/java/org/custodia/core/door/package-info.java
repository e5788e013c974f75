/**
 * Doors in time: their state folded from the log, at now and at any past instant, what became of each grant, and what can be
 * asked of a door. Begin with {@link org.custodia.core.door.DoorBoard}; the fold itself is
 * {@link org.custodia.core.door.DoorTimeline}.
 */
package org.custodia.core.door;
