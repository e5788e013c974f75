/**
 * The program: {@link org.custodia.app.Main} is its command line, {@link org.custodia.app.Hub} wires log, links and
 * services by hand and has no window, {@link org.custodia.app.Console} is a desk on a hub. Each closes what it opened.
 */
package org.custodia.app;
