/** What happened: events, their identity and order, the open list of kinds, and the questions asked of the log. */
package org.custodia.core.event;
