package org.custodia.practice.place;

/**
 * A camera at Sternwick.
 *
 * @param view o outside, i inside, v overview
 */
public record PracticeCamera(String id, String name, PracticeDoor door, char view) {
    public static final int WIDTH = 640;
    public static final int HEIGHT = 360;

    public Building building() {
        return door.building();
    }
}
