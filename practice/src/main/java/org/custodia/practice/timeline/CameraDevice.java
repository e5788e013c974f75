package org.custodia.practice.timeline;

import java.util.Optional;
import java.util.Random;
import java.util.Set;

/** A camera, which can give no picture for a while. */
record CameraDevice(String id, Scenes scenes) implements Device {
    @Override
    public String kind() {
        return "camera";
    }

    @Override
    public Set<String> acts() {
        return Set.of("camera-lost", "camera-back");
    }

    @Override
    public Optional<String> perform(Act act, long now, Random random) {
        if (act.act().equals("camera-lost")) {
            scenes.cameraLost(id, now);
        } else {
            scenes.cameraBack(id, now);
        }
        return Optional.empty();
    }
}
