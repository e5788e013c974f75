/**
 * Connections to access systems and recorders that speak the link protocol of docs/link-protocol.md. Begin with {@link
 * org.custodia.link.LinkFactory}, which has one for each kind and make; each link has threads of its own from its making to
 * its closing, and what it may use of the rest stands in {@code Surroundings}. {@link org.custodia.link.SystemWalk} tries a
 * system from outside.
 */
package org.custodia.link;
