/**
 * Commands to doors: {@link org.custodia.core.command.DoorDesk} puts down that one is meant, sends it, and follows it until
 * the door has confirmed it or nobody knows. What can be asked of a door is a {@link org.custodia.core.door.DoorCommand}.
 */
package org.custodia.core.command;
