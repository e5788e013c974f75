/**
 * What happened at one door, laid out in time: ticks and stills on an axis, bars for the leaf standing open. Used by whichever
 * view shows that.
 */
package org.custodia.desktop.strip;
