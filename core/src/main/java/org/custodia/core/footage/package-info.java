/**
 * Footage in time: what exists, what is still being written, what is gone, and by whose clock. Begin with {@link
 * org.custodia.core.footage.Footage}; {@link org.custodia.core.footage.ClockBook} estimates how far each clock was ahead at
 * any time, is filled by links and lives as long as the hub. Both can be used from any thread.
 */
package org.custodia.core.footage;
