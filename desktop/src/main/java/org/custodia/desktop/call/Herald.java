package org.custodia.desktop.call;

/** Tells of something by the desktop that the window is on, where that has a way to. */
@FunctionalInterface
public interface Herald {
    /**
     * Tells of something; must return quickly, and where it cannot be told it is not.
     *
     * @param title what it is
     * @param words where, and what to do
     */
    void tell(String title, String words);
}
