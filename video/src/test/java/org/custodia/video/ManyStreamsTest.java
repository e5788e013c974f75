package org.custodia.video;

import static org.assertj.core.api.Assertions.assertThat;
import static org.custodia.video.RecorderInHand.VAULT;

import java.io.IOException;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import org.custodia.core.link.RecorderLink;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Streams that are written and read at once, more of them than there can be native callbacks of a kind. */
class ManyStreamsTest {
    private static final int MANY = 24;

    @TempDir
    Path directory;

    private RecorderInHand recorder;
    private final List<TsReader> readers = new ArrayList<>();

    @BeforeEach
    void open() {
        recorder = new RecorderInHand(directory, Duration.ZERO);
    }

    @AfterEach
    void close() {
        readers.forEach(TsReader::close);
        recorder.close();
    }

    @Test
    void each_has_its_own_pictures() throws IOException {
        Instant then = recorder.clock.instant().minusSeconds(900);
        List<Instant> firsts = new ArrayList<>();
        for (int i = 0; i < MANY; i++) {
            Instant from = then.plusSeconds(20L * i);
            RecorderLink.Stream stream = recorder.playback(VAULT, from, from.plusSeconds(2));
            readers.add(new TsReader(stream.bytes(), stream.firstFrame()));
            firsts.add(stream.firstFrame());
        }
        // In turn, so that all are under way at once.
        List<EncodedFrame> begun = new ArrayList<>();
        for (TsReader reader : readers) {
            begun.add(reader.next());
        }
        for (int i = 0; i < MANY; i++) {
            assertThat(shown(begun.get(i), readers.get(i).next())).isEqualTo(firsts.get(i));
        }
    }

    /** The instants that two frames one after the other show; that of the first. */
    private Instant shown(EncodedFrame first, EncodedFrame second) {
        try (FrameDecoder decoder = new FrameDecoder()) {
            Instant one = recorder.shownIn(decoder.decode(first, 640).orElseThrow());
            Instant two = recorder.shownIn(decoder.decode(second, 640).orElseThrow());
            assertThat(Duration.between(one, two)).isEqualTo(Duration.ofMillis(100));
            assertThat(first.at()).isEqualTo(one);
            return one;
        }
    }
}
