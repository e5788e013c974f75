package org.custodia.desktop.shell;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Instant;
import java.time.ZoneId;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;

class TimeWordsTest {
    /** A Tuesday. */
    private static final Instant NOW = Instant.parse("2026-11-24T14:20:00Z");

    private static final ZoneId LONDON = ZoneId.of("Europe/London");

    @ParameterizedTest
    @CsvSource({
        "14:05, 2026-11-24T14:05:00Z",
        "14:30, 2026-11-23T14:30:00Z",
        "yesterday 9, 2026-11-23T09:00:00Z",
        "Yesterday 9:15, 2026-11-23T09:15:00Z",
        "mon 8:15, 2026-11-23T08:15:00Z",
        "tuesday 8, 2026-11-17T08:00:00Z",
        "today 9.30, 2026-11-24T09:30:00Z",
        "2026-11-20 16:00:07, 2026-11-20T16:00:07Z",
        "2026-10-20 16, 2026-10-20T15:00:00Z"
    })
    void times_as_people_type_them(String words, Instant expected) {
        assertThat(TimeWords.parse(words, NOW, LONDON)).contains(expected);
    }

    @ParameterizedTest
    @ValueSource(strings = {"", "20417", "9", "vault", "25:00", "today 23:00", "2026-13-01 9", "14:99"})
    void what_is_no_past_time(String words) {
        assertThat(TimeWords.parse(words, NOW, LONDON)).isEmpty();
    }
}
