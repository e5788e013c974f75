/**
 * Colours, fonts and signs, all from one set of tokens. Begin with {@link org.custodia.desktop.theme.Theme}, of which each
 * window has its own; what comes and goes listens weakly to its looks. Used on the JavaFX thread.
 */
package org.custodia.desktop.theme;
