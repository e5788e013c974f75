package org.custodia.desktop.call;

/**
 * What reaches beyond the window.
 *
 * @param speaker what is heard
 * @param herald what is seen while the window is not
 */
public record Outside(Speaker speaker, Herald herald) {
    /** Reaches nobody, and says nothing of it. */
    public static final Outside NOBODY = new Outside((sound, rate) -> {}, (title, words) -> {});
}
