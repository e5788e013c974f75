package org.custodia.practice.picture;

import static org.assertj.core.api.Assertions.assertThat;

import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.constraints.LongRange;
import org.junit.jupiter.api.Test;

class TimeStripTest {
    private static int[] luma(int[] rgb) {
        int[] luma = new int[rgb.length];
        for (int i = 0; i < rgb.length; i++) {
            luma[i] = rgb[i] >> 8 & 255;
        }
        return luma;
    }

    @Property
    void what_is_written_is_read_and_a_damaged_strip_is_not(
            @ForAll @LongRange(min = 0, max = (1L << 44) - 1) long millis) {
        int[] rgb = new int[640 * 360];
        TimeStrip.write(rgb, 640, 360, millis);
        int[] luma = luma(rgb);
        assertThat(TimeStrip.read(luma, 640, 360)).hasValue(millis);
        for (int x = 200; x < 210; x++) {
            for (int y = 354; y < 360; y++) {
                luma[y * 640 + x] = luma[y * 640 + x] > 60 ? 42 : 88;
            }
        }
        assertThat(TimeStrip.read(luma, 640, 360)).isEmpty();
    }

    @Test
    void a_picture_without_a_strip_has_no_time() {
        assertThat(TimeStrip.read(new int[640 * 360], 640, 360)).isEmpty();
    }
}
