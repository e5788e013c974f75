/**
 * Acting on a door from wherever a door is shown. Begin with {@link org.custodia.desktop.door.DoorCommandMenu}, which a
 * view makes for each door it shows and keeps as long as that; used on the JavaFX thread.
 */
package org.custodia.desktop.door;
