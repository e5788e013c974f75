/**
 * Which camera sees which door, told from what moved in its pictures when the door opened. Begin with {@link
 * org.custodia.core.evidence.EvidenceSearch}, which asks recorders for stills on a thread of its own and lives as long as the
 * hub; {@link org.custodia.core.evidence.PairEvidence} is what they say, and can be used from any thread. Names decide
 * nothing here.
 */
package org.custodia.core.evidence;
