/**
 * Playing one moment of one door: {@link org.custodia.desktop.play.PlayerModel} says what is played, where it stands and
 * what can be done with it, and holds no nodes; {@link org.custodia.desktop.play.Deck} is what an operator sees and works.
 * A view makes a deck for what {@link org.custodia.desktop.desk.Desk#playing} names and closes it when that changes. Used on
 * the JavaFX thread; frames come on the playback's own.
 */
package org.custodia.desktop.play;
