package org.custodia.practice.timeline;

import java.util.Optional;
import java.util.Random;
import java.util.Set;

/** The clock of an access system or recorder, which somebody can set wrong. */
record ClockDevice(String id, SystemClock clock) implements Device {
    @Override
    public String kind() {
        return "clock";
    }

    @Override
    public Set<String> acts() {
        return Set.of("clock");
    }

    @Override
    public Optional<String> perform(Act act, long now, Random random) {
        clock.set(now, act.millis());
        return Optional.empty();
    }
}
