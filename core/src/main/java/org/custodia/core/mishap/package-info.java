/**
 * What went wrong inside Custodia itself: {@link org.custodia.core.mishap.Mishaps} says who is told, and {@link
 * org.custodia.core.mishap.Threads} makes every thread, so that none ends unseen. Lives as long as the process.
 */
package org.custodia.core.mishap;
