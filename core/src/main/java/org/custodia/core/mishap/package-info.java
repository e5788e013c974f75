/** What went wrong inside Custodia itself: who is told, and how every thread is made so that none ends unseen. */
package org.custodia.core.mishap;
