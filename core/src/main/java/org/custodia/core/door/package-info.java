/**
 * Doors in time: their state folded from the log, at now and at any past instant, what became of each grant, and the
 * commands an operator gives them.
 */
package org.custodia.core.door;
