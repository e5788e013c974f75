/**
 * The practice site: Sternwick Museum, a made-up place whose controllers, readers, cameras and recorders are simulated from
 * one timeline and served over the link protocol. Begin with {@link org.custodia.practice.PracticeSite}, which opens and
 * closes all of it.
 */
package org.custodia.practice;
