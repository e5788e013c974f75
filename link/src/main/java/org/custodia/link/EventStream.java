package org.custodia.link;

import java.io.BufferedInputStream;
import java.io.IOException;
import java.io.InputStream;
import java.nio.charset.StandardCharsets;
import org.custodia.wire.Wire;

/** Reads server-sent events (HTML Living Standard, 9.2.6) with a bound on each. */
final class EventStream {
    private final InputStream in;
    private final byte[] line = new byte[Wire.LONGEST_EVENT * 2];

    /**
     * One message.
     *
     * @param oversized it was longer than allowed; the data is its beginning
     */
    record Message(String event, String data, boolean oversized) {}

    EventStream(InputStream in) {
        this.in = new BufferedInputStream(in, 32 * 1024);
    }

    /** Waits for the next message; null at the end of the stream. */
    Message next() throws IOException {
        String event = "message";
        StringBuilder data = new StringBuilder();
        boolean oversized = false;
        while (true) {
            int length = readLine();
            if (length == -1) {
                return null;
            }
            if (length == 0) {
                if (!data.isEmpty()) {
                    return new Message(event, data.toString(), oversized);
                }
                event = "message";
                continue;
            }
            oversized |= length < -1;
            String text = new String(line, 0, Math.abs(length), StandardCharsets.UTF_8);
            if (text.startsWith("event:")) {
                event = text.substring(6).trim();
            } else if (text.startsWith("data:")) {
                String part = text.startsWith("data: ") ? text.substring(6) : text.substring(5);
                if (data.length() + part.length() <= Wire.LONGEST_EVENT) {
                    data.append(data.isEmpty() ? "" : "\n").append(part);
                } else {
                    oversized = true;
                    data.append(part, 0, Math.max(0, Wire.LONGEST_EVENT - data.length()));
                }
            }
        }
    }

    /** The length of the line read; negative if it was cut; -1 at the end. */
    private int readLine() throws IOException {
        int length = 0;
        boolean cut = false;
        while (true) {
            int b = in.read();
            if (b < 0) {
                return -1;
            }
            if (b == '\n') {
                return cut ? -length : length;
            }
            if (b != '\r') {
                if (length < line.length) {
                    line[length++] = (byte) b;
                } else {
                    cut = true;
                }
            }
        }
    }
}
