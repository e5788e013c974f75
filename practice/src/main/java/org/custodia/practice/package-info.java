/**
 * The practice site: Sternwick Museum, a made-up place whose controllers, readers, cameras and recorders are simulated from
 * one timeline and served over the link protocol.
 */
package org.custodia.practice;
