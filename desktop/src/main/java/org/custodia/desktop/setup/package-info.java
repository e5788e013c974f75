/**
 * Setup, where systems are connected to. Enter by {@link org.custodia.desktop.setup.SetupView}. {@code LinksModel} has the
 * connections that are set up and how they do, {@code LinkDraft} one that somebody is entering or changing, with its trial;
 * {@code LinkRow} shows one as a line, which opens to a {@code LinkEditor} in its place. Lives as long as the window; used on
 * the JavaFX thread.
 */
package org.custodia.desktop.setup;
