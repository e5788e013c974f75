/** The program: its command line, and the wiring of all parts in one place. */
package org.custodia.app;
