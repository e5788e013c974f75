/**
 * What is said to the operator apart from what they look at: trouble that somebody has to do something about, work that
 * goes on in the background, and notes on what came of it. Begin with {@link org.custodia.desktop.notice.Notices}, which the
 * desk has; it holds no nodes, and the shell shows what is in it. Used on the JavaFX thread but for a {@link
 * org.custodia.desktop.notice.Progress}, which is told from wherever the work is done.
 */
package org.custodia.desktop.notice;
