/**
 * The one instant that the whole console shows: a {@link org.custodia.core.moment.Moment} is now, or a past instant. A
 * value; the desk has the one that holds.
 */
package org.custodia.core.moment;
