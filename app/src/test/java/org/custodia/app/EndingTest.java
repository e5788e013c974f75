package org.custodia.app;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.ByteArrayOutputStream;
import java.io.PrintStream;
import java.nio.charset.StandardCharsets;
import org.junit.jupiter.api.Test;

class EndingTest {
    @Test
    void while_everything_ends_the_toolkits_own_traces_are_not_shown_and_ours_are() throws InterruptedException {
        ByteArrayOutputStream shown = new ByteArrayOutputStream();
        PrintStream err = Ending.withoutTheToolkit(new PrintStream(shown, true, StandardCharsets.UTF_8));
        for (String name : new String[] {"JavaFX Application Thread", "QuantumRenderer-0"}) {
            Thread toolkit = new Thread(() -> new IllegalStateException("rejected").printStackTrace(err), name);
            toolkit.start();
            toolkit.join();
        }
        assertThat(shown.toString(StandardCharsets.UTF_8)).isEmpty();
        err.println("The log was put back.");
        assertThat(shown.toString(StandardCharsets.UTF_8).trim()).isEqualTo("The log was put back.");
    }
}
