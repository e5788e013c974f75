/**
 * What happens at Sternwick: one seeded course of events with a journal of what was done to it, the controllers that
 * decide and report, and the scenes that cameras see. The same seed and journal always give the same course.
 */
package org.custodia.practice.timeline;
