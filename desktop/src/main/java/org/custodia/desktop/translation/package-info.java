/**
 * What systems mean by what they send: a page of Setup. Enter by {@link org.custodia.desktop.translation.TranslationPage}.
 * {@code TranslationModel} has what one system sent, with how often, and says what it means; {@code MeaningPart} shows
 * examples of what is chosen and changes it. Lives as long as the window; used on the JavaFX thread.
 */
package org.custodia.desktop.translation;
