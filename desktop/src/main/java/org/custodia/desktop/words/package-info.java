/**
 * What the views say of an event, a time or a person. Words are made from facts here and decide nothing; begin with
 * {@link org.custodia.desktop.words.EventWords}. Used by any thread.
 */
package org.custodia.desktop.words;
