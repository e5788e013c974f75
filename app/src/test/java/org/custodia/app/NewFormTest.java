package org.custodia.app;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.ByteArrayOutputStream;
import java.io.PrintStream;
import java.nio.charset.StandardCharsets;
import org.junit.jupiter.api.Test;

class NewFormTest {
    @Test
    void it_says_how_far_it_is_and_not_too_often() {
        ByteArrayOutputStream bytes = new ByteArrayOutputStream();
        NewForm form = new NewForm(new PrintStream(bytes, true, StandardCharsets.UTF_8));
        for (int i = 0; i <= 2_000; i++) {
            form.at(i, 2_000);
        }
        assertThat(bytes.toString(StandardCharsets.UTF_8).lines())
                .hasSize(11)
                .first()
                .isEqualTo("The log is brought into a new form: 0 % of 2,000 events are done.");
        bytes.reset();
        new NewForm(new PrintStream(bytes, true, StandardCharsets.UTF_8)).at(0, 0);
        assertThat(bytes.toString(StandardCharsets.UTF_8)).contains("100 % of 0 events");
    }
}
