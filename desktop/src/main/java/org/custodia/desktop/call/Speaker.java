package org.custodia.desktop.call;

import java.io.IOException;

/** Plays sounds. */
@FunctionalInterface
public interface Speaker {
    /**
     * Plays a sound to its end; called on a thread that has time for that.
     *
     * @param sound samples of 16 bits, one channel, the lower byte first
     * @param rate of them in a second
     * @throws IOException if this machine plays none
     */
    void play(byte[] sound, int rate) throws IOException;
}
