/**
 * Telling people of alarms who are not at a desk: whom, by what way, and the messages that are under way. What is to be told
 * follows from the facts in the log; a message is kept until it has arrived or is given up.
 */
package org.custodia.core.message;
