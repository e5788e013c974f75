package org.custodia.desktop.settings;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

class SettingsTest {
    @TempDir
    Path path;

    @Test
    void what_was_set_is_there_next_time() {
        Settings settings = Settings.load(path);
        assertThat(settings.takeNotice()).isEmpty();
        settings.doors(List.of("tidewater/vault"));
        settings.span(1200);
        settings.look(false, 130);
        settings.window(5, 6, 1500, 900, true);
        assertThat(Settings.load(path).values()).isEqualTo(settings.values());
        assertThat(settings.values().spanSeconds()).isEqualTo(1200);
    }

    @ParameterizedTest
    @ValueSource(strings = {"", "{", "null", "[1,2]", "{\"doors\":7}", "{\"spanSeconds\":\"long\"}"})
    void a_broken_file_is_put_aside_and_said(String content) throws IOException {
        Files.writeString(path.resolve("settings.json"), content);
        Settings settings = Settings.load(path);
        assertThat(settings.values()).isEqualTo(Settings.Values.FIRST);
        assertThat(settings.takeNotice()).hasValueSatisfying(n -> assertThat(n).contains("settings.broken.json"));
        assertThat(settings.takeNotice()).isEmpty();
        assertThat(Files.readString(path.resolve("settings.broken.json"))).isEqualTo(content);
    }

    @Test
    void values_that_make_no_sense_are_brought_back_into_range() throws IOException {
        Files.writeString(path.resolve("settings.json"), "{\"spanSeconds\":-5,\"width\":3,\"height\":2,\"dark\":true}");
        Settings.Values v = Settings.load(path).values();
        assertThat(v.spanSeconds()).isEqualTo(600);
        assertThat(v.width()).isEqualTo(1280);
        assertThat(v.scale()).isEqualTo(100);
    }
}
