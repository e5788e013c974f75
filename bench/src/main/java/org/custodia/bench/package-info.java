/** Measurements, as ratios to a named baseline in one run; docs/performance.md says how to read them. */
package org.custodia.bench;
