package org.custodia.desktop.call;

import org.custodia.core.event.Priority;

/** The sounds of alarms, made from sine tones: the more urgent, the more and the higher. */
public final class Tones {
    /** Samples in a second. */
    public static final int RATE = 22_050;

    private static final double EDGE_SECONDS = 0.012;

    private Tones() {}

    /**
     * The sound of a priority.
     *
     * @param volume 0 to 1
     * @return as {@link Speaker} plays it
     */
    public static byte[] of(Priority priority, double volume) {
        // Tones, each with how long it lasts in seconds; 0 is silence.
        double[][] tones =
                switch (priority) {
                    case URGENT ->
                        new double[][] {
                            {660, 0.13},
                            {0, 0.03},
                            {880, 0.13},
                            {0, 0.03},
                            {1_175, 0.22},
                            {0, 0.12},
                            {660, 0.13},
                            {0, 0.03},
                            {880, 0.13},
                            {0, 0.03},
                            {1_175, 0.22}
                        };
                    case CAUTION -> new double[][] {{587, 0.2}, {0, 0.06}, {440, 0.3}};
                    default -> new double[][] {{523, 0.22}};
                };
        int length = 0;
        for (double[] tone : tones) {
            length += (int) (tone[1] * RATE);
        }
        byte[] sound = new byte[2 * length];
        int at = 0;
        for (double[] tone : tones) {
            int samples = (int) (tone[1] * RATE);
            for (int i = 0; i < samples; i++) {
                double edge = Math.min(1, Math.min(i, samples - 1 - i) / (EDGE_SECONDS * RATE));
                double wave =
                        Math.sin(2 * Math.PI * tone[0] * i / RATE) + 0.25 * Math.sin(4 * Math.PI * tone[0] * i / RATE);
                int value =
                        (int) Math.round(Math.max(0, Math.min(1, volume)) * edge * wave / 1.25 * (Short.MAX_VALUE - 1));
                sound[at++] = (byte) value;
                sound[at++] = (byte) (value >> 8);
            }
        }
        return sound;
    }
}
