package org.custodia.desktop.call;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatCode;
import static org.junit.jupiter.api.Assumptions.assumeTrue;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import org.custodia.core.Patience;
import org.custodia.core.event.Priority;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** The sounds of alarms. */
class TonesTest {
    private static int loudest(byte[] sound) {
        int most = 0;
        for (int i = 0; i + 1 < sound.length; i += 2) {
            most = Math.max(most, Math.abs((short) (sound[i] & 0xff | sound[i + 1] << 8)));
        }
        return most;
    }

    @Test
    void the_more_urgent_the_longer_and_no_sound_begins_or_ends_with_a_crack() {
        byte[] urgent = Tones.of(Priority.URGENT, 1);
        byte[] caution = Tones.of(Priority.CAUTION, 1);
        byte[] low = Tones.of(Priority.LOW, 1);
        assertThat(urgent.length).isGreaterThan(caution.length);
        assertThat(caution.length).isGreaterThan(low.length);
        for (byte[] sound : new byte[][] {urgent, caution, low}) {
            assertThat(sound.length % 2).isZero();
            assertThat(sound[0]).isZero();
            assertThat(sound[1]).isZero();
            assertThat(Math.abs(sound[sound.length - 1])).isLessThan((byte) 2);
            assertThat(loudest(sound)).isBetween(25_000, 32_767);
        }
        assertThat(loudest(Tones.of(Priority.URGENT, 0.5))).isBetween(12_000, 17_000);
        assertThat(loudest(Tones.of(Priority.URGENT, 0))).isZero();
        // Louder than loud is as loud as it gets.
        assertThat(Tones.of(Priority.LOW, 7)).isEqualTo(low);
    }

    @Test
    void without_a_desktop_or_the_command_nobody_is_told_and_nothing_breaks() {
        List<Map<String, String>> environments =
                List.of(Map.of(), Map.of("DISPLAY", ":0"), Map.of("DISPLAY", ":0", "PATH", "/nowhere::/none"));
        assertThat(environments).allSatisfy(e -> assertThatCode(() -> new CommandHerald(e).tell("Forced open", "Vault"))
                .doesNotThrowAnyException());
    }

    @Test
    void what_is_told_is_given_to_the_command_as_it_is(@TempDir Path directory) throws IOException {
        Path told = directory.resolve("told");
        Path command = directory.resolve("notify-send");
        Files.writeString(
                command,
                "#!/bin/sh\nprintf '%s\\n' \"$@\" > '" + told + ".new'\nmv '" + told + ".new' '" + told + "'\n");
        assumeTrue(command.toFile().setExecutable(true));
        assumeTrue(System.getProperty("os.name").contains("Linux"));
        new CommandHerald(Map.of("DISPLAY", ":0", "PATH", "/nowhere:" + directory)).tell("--Forced; rm", "$(Vault)");
        Patience.await().until(() -> Files.exists(told));
        assertThat(Files.readAllLines(told)).endsWith("--", "--Forced; rm", "$(Vault)");
    }
}
