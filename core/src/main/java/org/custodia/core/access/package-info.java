/** People, their badges, levels and timetables; the decision at a reader, and why it is what it is. */
package org.custodia.core.access;
