package org.custodia.desktop.desk;

/**
 * A key as the sheet of keys shows it.
 *
 * @param keys as they are lettered
 * @param words what they do
 * @param where they work
 */
public record Shortcut(String keys, String words, String where) {}
