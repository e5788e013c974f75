package org.custodia.practice.timeline;

import java.util.Optional;
import java.util.Random;
import java.util.Set;
import java.util.function.Function;
import org.custodia.practice.place.PracticeDoor;

/** A camera, which can give no picture for a while, and be turned to another door. */
record CameraDevice(String id, Scenes scenes, Function<String, Optional<PracticeDoor>> doors) implements Device {
    @Override
    public String kind() {
        return "camera";
    }

    @Override
    public Set<String> acts() {
        return Set.of("camera-lost", "camera-back", "camera-turned");
    }

    @Override
    public Optional<String> perform(Act act, long now, Random random) {
        if (act.act().equals("camera-lost")) {
            scenes.cameraLost(id, now);
        } else if (act.act().equals("camera-back")) {
            scenes.cameraBack(id, now);
        } else {
            Optional<PracticeDoor> to = doors.apply(String.valueOf(act.command()));
            if (to.isEmpty()) {
                return Optional.of("say as text to which door it is turned; there is no door " + act.command());
            }
            scenes.cameraTurned(id, now, to.get());
        }
        return Optional.empty();
    }
}
