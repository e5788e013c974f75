/**
 * What happened: events, their identity and order, the open list of kinds, and the questions asked of the log. Begin with
 * {@link org.custodia.core.event.Event} and {@link org.custodia.core.event.EventLog}; what comes in goes through {@link
 * org.custodia.core.event.EventIntake}, and {@link org.custodia.core.event.LogFollower} follows what is stored from some
 * position on, without a gap. Numbers of a system's events are kept account of by {@link org.custodia.core.event.Ledger}.
 * Events and questions never change; logs and followers can be used from any thread, and listeners are told on the thread
 * that stored.
 */
package org.custodia.core.event;
