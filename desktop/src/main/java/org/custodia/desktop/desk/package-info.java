/**
 * What all views have in common: the moment that is shown, how the doors stand now, commands and how they go, who is on the
 * doorstep. Begin with {@link org.custodia.desktop.desk.Desk}, which lives as long as its window and ends with it; a view is a
 * {@link org.custodia.desktop.desk.MainView}. Everything here is used on the JavaFX thread, and what takes time is done away
 * from it by {@link org.custodia.desktop.Work}. Nothing here but a view holds nodes.
 */
package org.custodia.desktop.desk;
