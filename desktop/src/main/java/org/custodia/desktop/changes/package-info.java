/**
 * Who has set up what otherwise, and taking that back: a page of Setup. Enter by {@link
 * org.custodia.desktop.changes.ChangesPage}; {@code ChangeWords} says what a change was. Lives as long as the window; used on
 * the JavaFX thread.
 */
package org.custodia.desktop.changes;
