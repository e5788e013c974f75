package org.custodia.core.site;

/** A part of a picture in shares of its width and height, 0 to 1 from the upper left corner. */
public record Crop(double x, double y, double width, double height) {
    /** The whole picture. */
    public static final Crop WHOLE = new Crop(0, 0, 1, 1);

    public Crop {
        if (!(x >= 0 && y >= 0 && width > 0 && height > 0 && x + width <= 1.000001 && y + height <= 1.000001)) {
            throw new IllegalArgumentException(
                    "a crop lies inside its picture, this does not: " + x + " " + y + " " + width + " " + height);
        }
    }
}
