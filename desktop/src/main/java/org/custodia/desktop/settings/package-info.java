/**
 * What the console remembers from one start to the next: {@link org.custodia.desktop.settings.Settings}, read once and
 * written at each change by whoever the console lends for it. Used on the JavaFX thread.
 */
package org.custodia.desktop.settings;
