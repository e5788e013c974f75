package org.custodia.link;

import java.io.BufferedInputStream;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.InputStream;
import java.nio.charset.StandardCharsets;
import java.util.Arrays;
import org.custodia.wire.Wire;

/** Reads server-sent events (HTML Living Standard, 9.2.6) with a bound on each. */
final class EventStream {
    /** A name, a colon and a space before the longest data. */
    private static final int LONGEST_LINE = Wire.LONGEST_EVENT + 16;

    private final InputStream in;
    private byte[] line = new byte[8 * 1024];
    private boolean afterReturn;

    /**
     * One message.
     *
     * @param id what the system gave as its id; empty if nothing
     * @param oversized it was longer than allowed; the data is its beginning
     */
    record Message(String event, String id, String data, boolean oversized) {}

    EventStream(InputStream in) {
        this.in = new BufferedInputStream(in, 32 * 1024);
    }

    /** Waits for the next message; null at the end of the stream. What the end cuts off is no message. */
    Message next() throws IOException {
        String event = "message";
        String id = "";
        ByteArrayOutputStream data = new ByteArrayOutputStream();
        boolean any = false;
        boolean oversized = false;
        while (true) {
            int length = readLine();
            if (length == -1) {
                return null;
            }
            boolean cut = length < -1;
            int end = cut ? -length - 2 : length;
            if (end == 0) {
                if (any) {
                    return new Message(event, id, data.toString(StandardCharsets.UTF_8), oversized);
                }
                event = "message";
                id = "";
                continue;
            }
            int colon = colon(end);
            String name = new String(line, 0, colon, StandardCharsets.UTF_8);
            int from = Math.min(end, colon + 1);
            if (from < end && line[from] == ' ') {
                from++;
            }
            switch (name) {
                case "event" -> event = new String(line, from, end - from, StandardCharsets.UTF_8);
                case "id" -> id = new String(line, from, end - from, StandardCharsets.UTF_8);
                case "data" -> {
                    oversized |= cut;
                    if (any) {
                        data.write('\n');
                    }
                    any = true;
                    int room = Wire.LONGEST_EVENT - data.size();
                    if (end - from > room) {
                        oversized = true;
                    }
                    data.write(line, from, Math.max(0, Math.min(room, end - from)));
                }
                default -> {
                    // A comment, or a field that nobody knows.
                }
            }
        }
    }

    private int colon(int end) {
        for (int i = 0; i < end; i++) {
            if (line[i] == ':') {
                return i;
            }
        }
        return end;
    }

    /** The length of the line read; less than -1, as -2 less the length, if it was cut; -1 at the end. */
    private int readLine() throws IOException {
        int length = 0;
        boolean cut = false;
        while (true) {
            int b = in.read();
            if (b < 0) {
                return -1;
            }
            if (b == '\n' && afterReturn) {
                afterReturn = false;
                continue;
            }
            afterReturn = b == '\r';
            if (b == '\n' || b == '\r') {
                return cut ? -2 - length : length;
            }
            if (length < LONGEST_LINE) {
                if (length == line.length) {
                    line = Arrays.copyOf(line, Math.min(LONGEST_LINE, 2 * length));
                }
                line[length++] = (byte) b;
            } else {
                cut = true;
            }
        }
    }
}
