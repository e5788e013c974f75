/**
 * Panels over everything, such as the sheet of keys: {@link org.custodia.desktop.panel.Panels} holds the window's content and
 * keeps it out of reach while a panel is open. Lives as long as the window; used on the JavaFX thread.
 */
package org.custodia.desktop.panel;
