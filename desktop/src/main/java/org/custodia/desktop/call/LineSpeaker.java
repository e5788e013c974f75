package org.custodia.desktop.call;

import java.io.IOException;
import javax.sound.sampled.AudioFormat;
import javax.sound.sampled.AudioSystem;
import javax.sound.sampled.DataLine;
import javax.sound.sampled.LineUnavailableException;
import javax.sound.sampled.SourceDataLine;

/** The machine's own loudspeaker, opened for each sound, so that one that is plugged in later is found. */
public final class LineSpeaker implements Speaker {
    @Override
    public void play(byte[] sound, int rate) throws IOException {
        AudioFormat format = new AudioFormat(rate, 16, 1, true, false);
        try (SourceDataLine line =
                (SourceDataLine) AudioSystem.getLine(new DataLine.Info(SourceDataLine.class, format))) {
            line.open(format);
            line.start();
            line.write(sound, 0, sound.length);
            line.drain();
        } catch (LineUnavailableException | IllegalArgumentException | SecurityException e) {
            throw new IOException(e);
        }
    }
}
