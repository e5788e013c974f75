package org.custodia.link;

import java.io.BufferedInputStream;
import java.io.IOException;
import java.io.InputStream;
import java.nio.charset.StandardCharsets;
import java.util.Arrays;
import org.custodia.wire.Wire;

/** Reads an answer line by line, so that a page may be of any length while each line is bounded. */
final class Lines {
    private final InputStream in;
    private byte[] line = new byte[8 * 1024];

    /**
     * One line.
     *
     * @param whole whether it ended as a line does; the last of an answer that was cut does not
     * @param oversized it was longer than a message may be; the text is its beginning
     */
    record Line(String text, boolean whole, boolean oversized) {}

    Lines(InputStream in) {
        this.in = new BufferedInputStream(in, 64 * 1024);
    }

    /**
     * The next line that is not blank; null at the end.
     *
     * @throws IOException if the connection breaks; a line that had begun is lost then
     */
    Line next() throws IOException {
        int length = 0;
        boolean oversized = false;
        while (true) {
            int b = in.read();
            if (b < 0) {
                return length == 0 ? null : new Line(text(length), false, oversized);
            }
            if (b == '\n') {
                String text = text(length);
                if (!text.isBlank()) {
                    return new Line(text, true, oversized);
                }
                length = 0;
                oversized = false;
            } else if (length < Wire.LONGEST_EVENT) {
                if (length == line.length) {
                    line = Arrays.copyOf(line, Math.min(Wire.LONGEST_EVENT, 2 * length));
                }
                line[length++] = (byte) b;
            } else if (b != '\r') {
                oversized = true;
            }
        }
    }

    private String text(int length) {
        int end = length > 0 && line[length - 1] == '\r' ? length - 1 : length;
        return new String(line, 0, end, StandardCharsets.UTF_8);
    }
}
