package org.custodia.practice.timeline;

import java.util.Optional;
import java.util.Random;
import java.util.Set;

/** What decides for several doors, and keeps what happens there while nobody can reach it. */
record Controller(String id, AccessSystem system) implements Device {
    @Override
    public String kind() {
        return "controller";
    }

    @Override
    public Set<String> acts() {
        return Set.of("controller-lost", "controller-back", "battery-low");
    }

    @Override
    public Optional<String> perform(Act act, long now, Random random) {
        switch (act.act()) {
            case "controller-lost" -> system.lose(id, now);
            case "battery-low" -> system.says(id, now, "controller.battery-low");
            default -> system.regain(id, now);
        }
        return Optional.empty();
    }
}
