/**
 * People, their badges, levels and timetables; the decision at a reader, and why it is what it is. Begin with {@link
 * org.custodia.core.access.AccessRules}, which decides from nothing but its arguments, and {@link
 * org.custodia.core.access.DecisionExplainer}, which says what a past decision came from. Registers of people are asked
 * through {@link org.custodia.core.access.PersonRegister}; {@link org.custodia.core.access.Verdicts} follows the log and
 * lives as long as the hub. All of it can be used from any thread.
 */
package org.custodia.core.access;
