/**
 * Events in a list that is read as far back as somebody scrolls and grows at the top as things happen. Begin with {@link
 * org.custodia.desktop.feed.EventFeed}, which holds no nodes; a view shows its rows and tells it where the reader is. Used
 * on the JavaFX thread, closed by the view that made it.
 */
package org.custodia.desktop.feed;
