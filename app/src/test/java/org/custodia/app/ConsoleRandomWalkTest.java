package org.custodia.app;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.file.Files;
import java.time.Duration;
import java.util.List;
import java.util.Random;
import org.custodia.core.link.LinkStatus;
import org.junit.jupiter.api.Test;

/**
 * Two minutes of pressing whatever there is, by the same decisions each time; {@code ./custodia bench walk} does it for an hour by
 * others.
 */
class ConsoleRandomWalkTest extends ConsoleFixture {
    private static final Duration TIME = Duration.ofSeconds(Integer.getInteger("walk.seconds", 120));

    @Test
    void whatever_is_pressed_nothing_stumbles_and_nothing_hangs() {
        long seed = Long.getLong("walk.seed", 1);
        System.out.println("walks with seed " + seed);
        RandomWalk walk =
                new RandomWalk(fx(() -> (javafx.stage.Stage) window.scene().getWindow()), seed, this::happen);
        try {
            walk.walk(TIME, rig.hub::mishaps);
        } catch (RandomWalk.FoundException e) {
            throw new AssertionError(e.getMessage() + "\n" + noted(), e);
        }
        System.out.println(walk.steps() + " steps");
        assertThat(walk.steps()).isGreaterThan(TIME.toSeconds());
        assertThat(rig.hub.intake().trouble()).isEmpty();
        // What was set up may be gone by now, but what is there works.
        Rig.await().until(() -> rig.hub.links().stream().allMatch(s -> s.state() != LinkStatus.State.READING_BACKLOG));
    }

    /** What stands at the end of the diagnostic log. */
    private String noted() {
        try {
            List<String> lines = Files.readAllLines(directory.resolve("console/diagnostics/custodia.log"));
            return String.join("\n", lines.subList(Math.max(0, lines.size() - 60), lines.size()));
        } catch (IOException e) {
            return "There is no diagnostic log.";
        }
    }

    private void happen(Random random) {
        switch (random.nextInt(4)) {
            case 0 -> rig.happen("{'act':'link-drop','target':'tidewater','seconds':3}");
            case 1 -> rig.happen("{'act':'present','door':'vault-ante','badge':'20266'}");
            case 2 -> rig.happen("{'act':'force','door':'vault-ante'}");
            default -> rig.happen("{'act':'shut','door':'vault-ante'}");
        }
    }
}
