package org.custodia.core.footage;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.ByteArrayOutputStream;
import java.util.Optional;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import org.junit.jupiter.api.Test;

class JpegSizeTest {
    private static byte[] jpeg(int... more) {
        ByteArrayOutputStream out = new ByteArrayOutputStream();
        out.write(0xff);
        out.write(0xd8);
        for (int b : more) {
            out.write(b);
        }
        return out.toByteArray();
    }

    @Test
    void the_frame_header_tells_whatever_stands_before_it() {
        assertThat(JpegSize.of(jpeg(0xff, 0xe0, 0, 4, 1, 2, 0xff, 0xff, 0xc2, 0, 11, 8, 1, 144, 2, 128, 3)))
                .contains(new JpegSize(640, 400));
        assertThat(JpegSize.of(jpeg(0xff, 0xc4, 0, 3, 9, 0xff, 0x01, 0xff, 0xd0, 0xff, 0xc0, 0, 11, 8, 0, 9, 0, 16)))
                .contains(new JpegSize(16, 9));
    }

    @Test
    void what_is_no_jpeg_has_no_size() {
        for (byte[] bytes : new byte[][] {
            {},
            {1, 2, 3, 4, 5},
            jpeg(),
            jpeg(0xff, 0xe0, 0, 1),
            jpeg(0xff, 0xda, 0, 4, 0, 0),
            jpeg(0x12, 0xe0, 0, 4),
            jpeg(0xff, 0xe0, 0xff, 0xff, 0),
            jpeg(0xff, 0xc0, 0, 11, 8, 0)
        }) {
            assertThat(JpegSize.of(bytes)).isEqualTo(Optional.empty());
        }
    }

    @Test
    void there_is_room_for_what_is_reasonable() {
        assertThat(new JpegSize(4_000, 4_000).reasonable()).isTrue();
        assertThat(new JpegSize(4_001, 4_000).reasonable()).isFalse();
        assertThat(new JpegSize(8_000, 2_000).reasonable()).isTrue();
        assertThat(new JpegSize(8_001, 1).reasonable()).isFalse();
        assertThat(new JpegSize(1, 8_001).reasonable()).isFalse();
        assertThat(new JpegSize(0, 5).reasonable()).isFalse();
        assertThat(new JpegSize(5, 0).reasonable()).isFalse();
        assertThat(new JpegSize(65_535, 65_535).reasonable()).isFalse();
    }

    @Property(tries = 500)
    void whatever_it_is_it_is_read_or_not(@ForAll byte[] anything) {
        JpegSize.of(anything);
        byte[] begun = new byte[anything.length + 2];
        begun[0] = (byte) 0xff;
        begun[1] = (byte) 0xd8;
        System.arraycopy(anything, 0, begun, 2, anything.length);
        JpegSize.of(begun);
    }
}
