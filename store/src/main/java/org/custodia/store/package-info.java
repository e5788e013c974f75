/**
 * The event log, the versioned registers and what else outlives the program, on SQLite or PostgreSQL. Begin with {@link
 * org.custodia.store.DataDirectory}, which is claimed by one process, and {@link org.custodia.store.Database}, opened in
 * it; {@link org.custodia.store.BatchIntake} is the one writer and has a thread of its own, {@link
 * org.custodia.store.SqlEventLog} answers questions from any thread, and the registers of places, people and rules keep all
 * versions. What differs between the two stands in {@code Dialect} and the two databases. All of it is opened and closed by
 * the hub.
 */
package org.custodia.store;
