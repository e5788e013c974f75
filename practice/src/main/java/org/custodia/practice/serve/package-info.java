/** The practice site on loopback: the link protocol for its access systems and recorders, and its control page. */
package org.custodia.practice.serve;
