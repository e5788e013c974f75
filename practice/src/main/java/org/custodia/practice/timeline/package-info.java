/**
 * What happens at Sternwick: one seeded course of events with a journal of what was done to it, the controllers that decide
 * and report, and the scenes that cameras see. The same seed and journal always give the same course. Begin with {@link
 * org.custodia.practice.timeline.Timeline}; it is locked while it moves on, and can be asked from any thread.
 */
package org.custodia.practice.timeline;
