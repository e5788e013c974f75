/** Who is told of alarms who is not at a desk: what messages say, and the page where that is set up and watched. */
package org.custodia.desktop.message;
