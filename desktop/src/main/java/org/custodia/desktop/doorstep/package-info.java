/**
 * The doorstep: who stands, or just stood, at a door, beside who is enrolled, and what an operator says of it. Begin with
 * {@link org.custodia.desktop.doorstep.Doorstep}, which shows what {@link org.custodia.desktop.desk.DoorstepModel} names;
 * the two faces and the note have models of their own, without nodes. Used on the JavaFX thread, lives as long as the view
 * it is part of, and is told the time by {@code tick}.
 */
package org.custodia.desktop.doorstep;
