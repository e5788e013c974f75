/**
 * Small things that several pages are made of: {@link org.custodia.desktop.control.Segments}, one of several ways to look at a
 * list, and {@link org.custodia.desktop.control.Rows}, a list that is filled anew again and again. Used on the JavaFX thread.
 */
package org.custodia.desktop.control;
