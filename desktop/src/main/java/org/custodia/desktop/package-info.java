/**
 * The console: views and their models. Begin with {@link org.custodia.desktop.Services}, which is what views work with, and
 * {@link org.custodia.desktop.Work}, which does what takes time away from the JavaFX thread. Views never talk to a link,
 * and see what their operator may see. From below: {@code settings}, {@code theme}, {@code words}, {@code picture}, {@code
 * panel}, then {@code desk}, then one package a view, then {@code shell}.
 */
package org.custodia.desktop;
