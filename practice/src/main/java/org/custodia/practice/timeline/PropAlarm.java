package org.custodia.practice.timeline;

import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.Set;
import org.custodia.practice.place.Installation.UnitEntry;

/** Hangs at a door and sounds there when it stands open for half as long as it may, until it is shut or somebody stops it. */
final class PropAlarm extends Unit {
    private boolean sounds;

    PropAlarm(UnitEntry entry, AccessSystem system, Agenda agenda) {
        super(entry, system, agenda);
    }

    @Override
    public Set<String> acts() {
        return Set.of("hush");
    }

    @Override
    public Optional<String> perform(Act act, long now, Random random) {
        if (!sounds) {
            return Optional.of("the prop alarm does not sound");
        }
        sound(now, false);
        return Optional.empty();
    }

    /** Begins to sound, or ends. */
    void sound(long now, boolean on) {
        if (sounds != on) {
            sounds = on;
            tell(now, on ? "door.prop-on" : "door.prop-off");
        }
    }

    @Override
    public Map<String, String> report(long now) {
        return Map.of("state", sounds ? "sounds" : "quiet");
    }
}
