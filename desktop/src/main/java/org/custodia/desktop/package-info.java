/** The console: views and their models. Views never talk to a link; what takes time is done off the JavaFX thread. */
package org.custodia.desktop;
