/** Footage in time: what exists, what is still being written, what is gone, and by whose clock. */
package org.custodia.core.footage;
