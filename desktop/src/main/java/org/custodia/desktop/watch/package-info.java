/**
 * Watch: the doors in view as strips on one time axis, arrivals, the doorstep, the day line. Begin with {@link
 * org.custodia.desktop.watch.WatchView}; {@link org.custodia.desktop.watch.WatchModel} decides which doors are shown in
 * which order, {@code StripFeed} fills their {@link org.custodia.desktop.watch.StripModel}s from the log and from what is
 * published, and {@code StripColumn} makes {@code StripView}s of those that are in view. Lives as long as the window; used
 * on the JavaFX thread, with loads done by the desk's {@link org.custodia.desktop.Work}.
 */
package org.custodia.desktop.watch;
