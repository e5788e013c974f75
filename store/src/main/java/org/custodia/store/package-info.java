/** The event log, the versioned registers and what else outlives the program, on SQL. */
package org.custodia.store;
