/** Connections to access systems and recorders that speak the link protocol of docs/link-protocol.md. */
package org.custodia.link;
