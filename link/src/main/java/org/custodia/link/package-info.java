/**
 * Connections to access systems and recorders that speak the link protocol of docs/link-protocol.md. Begin with {@link
 * org.custodia.link.HttpAccessLink} and {@link org.custodia.link.HttpRecorderLink}, each with threads of its own from its
 * making to its closing; what a link may use of the rest stands in {@code Surroundings}. {@link
 * org.custodia.link.AccessSystemWalk} and {@link org.custodia.link.RecorderWalk} try a system from outside.
 */
package org.custodia.link;
