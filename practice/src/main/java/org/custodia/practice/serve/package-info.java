/**
 * The practice site on loopback: the link protocol for its access systems and recorders, and its control page. Begin with
 * {@link org.custodia.practice.serve.PracticeServer}, opened and closed by the practice site; it answers on the server's
 * threads.
 */
package org.custodia.practice.serve;
