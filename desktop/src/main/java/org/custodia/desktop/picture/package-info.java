/**
 * Panes that show a camera: live, recorded, or the reason why there is nothing. Begin with {@link
 * org.custodia.desktop.picture.PicturePane}; it watches its camera only while it is told that it is seen, and is closed by
 * the view that made it. Used on the JavaFX thread; frames may be handed to it on any.
 */
package org.custodia.desktop.picture;
