package org.custodia.core.setup;

import java.util.List;

/** Writes pairs as a sheet that people can work on elsewhere, and reads one. */
public interface PairSheets {
    /** How a sheet is written. */
    enum Form {
        CSV,
        JSON
    }

    /**
     * One pair, as it stands on a sheet; nothing of it has been checked. What is empty counts as left out.
     *
     * @param line where it stands, from 1
     * @param doorName for people, not read back
     * @param cameraName likewise
     */
    record Row(
            int line,
            String door,
            String doorName,
            String camera,
            String cameraName,
            String side,
            String view,
            String leadInSeconds,
            String faceX,
            String faceY,
            String faceWidth,
            String faceHeight,
            String faceAfterSeconds) {}

    byte[] write(List<Row> rows, Form form);

    /**
     * Reads a sheet of either form.
     *
     * @throws SetupException if it is none; it says why
     */
    List<Row> read(byte[] sheet);
}
