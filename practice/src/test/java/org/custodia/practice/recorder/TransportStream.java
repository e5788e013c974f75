package org.custodia.practice.recorder;

import java.util.ArrayList;
import java.util.List;

/**
 * Counts the pictures of an MPEG transport stream by the headers alone (ISO/IEC 13818-1, 2.4.3), without a decoder: a packet
 * that begins a PES packet of the video begins a picture, and the random access indicator says that it stands alone.
 */
final class TransportStream {
    private static final int PACKET = 188;
    private static final int VIDEO = 0x100;

    /**
     * A picture's beginning.
     *
     * @param pts presentation time, in 1/90000 s
     */
    record Picture(boolean standsAlone, long pts) {}

    private TransportStream() {}

    static List<Picture> pictures(byte[] stream) {
        List<Picture> found = new ArrayList<>();
        if (stream.length % PACKET != 0) {
            throw new AssertionError("not whole packets: " + stream.length + " bytes");
        }
        for (int at = 0; at < stream.length; at += PACKET) {
            if (stream[at] != 0x47) {
                throw new AssertionError("no packet begins at " + at);
            }
            int pid = (stream[at + 1] & 0x1f) << 8 | stream[at + 2] & 0xff;
            boolean begins = (stream[at + 1] & 0x40) != 0;
            if (pid == VIDEO && begins) {
                boolean adaptation = (stream[at + 3] & 0x20) != 0;
                int length = adaptation ? stream[at + 4] & 0xff : -1;
                boolean alone = adaptation && length > 0 && (stream[at + 5] & 0x40) != 0;
                found.add(new Picture(alone, pts(stream, at + 5 + length)));
            }
        }
        return found;
    }

    /** The presentation time in a PES header that begins at an offset (2.4.3.7). */
    private static long pts(byte[] b, int pes) {
        int p = pes + 9;
        return (long) (b[p] & 0x0e) << 29
                | (b[p + 1] & 0xffL) << 22
                | (b[p + 2] & 0xfeL) << 14
                | (b[p + 3] & 0xffL) << 7
                | (b[p + 4] & 0xfeL) >> 1;
    }
}
