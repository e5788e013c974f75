package org.custodia.practice.timeline;

import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.Set;
import org.custodia.practice.place.Installation.UnitEntry;

/** Somebody presses its button and waits to be heard. */
final class CallStation extends Unit {
    private boolean calling;
    private long number;

    CallStation(UnitEntry entry, AccessSystem system, Agenda agenda) {
        super(entry, system, agenda);
    }

    @Override
    public Set<String> acts() {
        return Set.of("ring", "hang-up");
    }

    @Override
    public Optional<String> perform(Act act, long now, Random random) {
        if (act.act().equals("ring")) {
            ring(now, act.millis());
        } else {
            end(now);
        }
        return Optional.empty();
    }

    /** Rings at a time, for so long. */
    void ring(long at, long forMillis) {
        agenda.at(at, now -> {
            if (!calling) {
                calling = true;
                tell(now, "call.started");
            }
            long mine = ++number;
            agenda.at(now + Math.max(1_000, forMillis), t -> {
                if (mine == number) {
                    end(t);
                }
            });
        });
    }

    private void end(long now) {
        if (calling) {
            calling = false;
            tell(now, "call.ended");
        }
    }

    @Override
    public Map<String, String> report(long now) {
        return Map.of("state", calling ? "calling" : "quiet");
    }
}
