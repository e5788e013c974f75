/**
 * What is around the views. Begin with {@link org.custodia.desktop.shell.ConsoleWindow}, the window, and {@link
 * org.custodia.desktop.shell.Shell}, which holds spine, top bar and panels and knows the views by the list in {@code Views}
 * only. Lives as long as the window; used on the JavaFX thread.
 */
package org.custodia.desktop.shell;
