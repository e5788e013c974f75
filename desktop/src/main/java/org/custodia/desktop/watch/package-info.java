/** Watch: the doors in view as strips on one time axis, arrivals, the doorstep, the day line and looking back. */
package org.custodia.desktop.watch;
