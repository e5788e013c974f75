package org.custodia.core.site;

import java.util.Locale;

/**
 * Names a pairing of a door with a camera.
 *
 * @param value not blank, at most {@value #LONGEST} characters
 */
public record PairId(String value) {
    static final int LONGEST = 2 * Ids.LONGEST + 40;

    public PairId {
        if (value.isBlank() || value.length() > LONGEST) {
            throw new IllegalArgumentException(
                    "an id of a pairing is not blank and at most " + LONGEST + " characters");
        }
    }

    /** The name of one that has none yet: what it pairs. */
    public static PairId of(DoorId door, CameraId camera, Side side, Pairing.View view) {
        return new PairId(door + " " + camera + " " + side.name().toLowerCase(Locale.ROOT) + " "
                + view.name().toLowerCase(Locale.ROOT));
    }

    @Override
    public String toString() {
        return value;
    }
}
