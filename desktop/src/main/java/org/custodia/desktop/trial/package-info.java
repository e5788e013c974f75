/**
 * Trying whether cameras show what they are said to show: something is presented or tripped, and somebody says whether the
 * picture is right. Enter by {@link org.custodia.desktop.trial.TrialPart} with a {@link org.custodia.desktop.trial.Tried}, which
 * says what is tried; {@code TrialModel} waits and keeps the answer. Lives as long as what it is shown in; used on the JavaFX
 * thread.
 */
package org.custodia.desktop.trial;
