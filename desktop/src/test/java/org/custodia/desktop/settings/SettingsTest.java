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
        assertThat(settings.takeNotice())
                .hasValueSatisfying(n -> assertThat(n.of()).contains("settings.broken.json"));
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

    @Test
    void a_set_that_somebody_broke_by_hand_is_passed_over() throws IOException {
        Files.writeString(
                path.resolve("settings.json"),
                "{\"doorSets\":{\"Dock\":null,\"Night\":[null,\"tidewater/vault\",\"\"]},\"stripSize\":\"HUGE\"}");
        Settings settings = Settings.load(path);
        assertThat(settings.takeNotice()).isEmpty();
        assertThat(settings.doorSets()).containsOnlyKeys("Night");
        assertThat(settings.doorSets().get("Night")).containsExactly("tidewater/vault", "");
    }

    @Test
    void sets_of_doors_and_the_room_of_strips_are_kept_beside_the_rest() {
        Settings settings = Settings.load(path);
        settings.doors(List.of("tidewater/vault"));
        settings.doorSet("Night round", List.of("tidewater/vault", "tidewater/quay"));
        settings.doorSet("Dock", List.of("tidewater/quay"));
        settings.stripSize("SMALL");
        settings.look(false, 125);
        settings.window(1, 2, 1400, 900, false);
        settings.span(1_200);
        Settings read = Settings.load(path);
        assertThat(read.doorSets().keySet()).containsExactly("Dock", "Night round");
        assertThat(read.doorSets().get("Night round")).containsExactly("tidewater/vault", "tidewater/quay");
        assertThat(read.values().stripSize()).isEqualTo("SMALL");
        assertThat(read.values().doors()).containsExactly("tidewater/vault");
        read.doorSet("Dock", List.of());
        assertThat(Settings.load(path).doorSets().keySet()).containsExactly("Night round");
    }
}
