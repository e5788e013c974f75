package org.custodia.practice.timeline;

import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.Set;
import java.util.stream.Stream;
import org.custodia.wire.WireEvent;

/**
 * Where an access system keeps which of its alarms somebody has seen or is done with, whoever says so: somebody at its own
 * desk, or a console.
 */
public final class AlarmList implements Device {
    /** What the id of a system's list ends with. */
    public static final String SUFFIX = "/alarms";

    private static final Set<String> KINDS =
            Set.of("door.forced", "door.held", "access.duress", "panel.alarm", "input.on", "controller.lost");

    private final AccessSystem system;
    /** How far each has been dealt with; what is not there has not. */
    private final Map<Long, String> dealtWith = new HashMap<>();

    AlarmList(AccessSystem system) {
        this.system = system;
    }

    @Override
    public String id() {
        return system.id() + SUFFIX;
    }

    @Override
    public String kind() {
        return "list of alarms";
    }

    @Override
    public Set<String> acts() {
        return Set.of("acknowledged", "finished");
    }

    @Override
    public Optional<String> perform(Act act, long now, Random random) {
        List<Long> numbers = act.command() == null || act.command().isEmpty()
                ? newest(act.act()).stream().toList()
                : Stream.of(act.command().split(",")).map(Long::parseLong).toList();
        if (numbers.isEmpty()) {
            return Optional.of("there is no alarm to be " + act.act());
        }
        boolean any = false;
        for (long number : numbers) {
            Optional<WireEvent> event = system.event(number).filter(e -> KINDS.contains(e.kind()));
            any |= event.isPresent();
            event.filter(e -> further(number, act.act())).ifPresent(e -> {
                dealtWith.put(number, act.act());
                system.emit(new AccessSystem.Draft(
                        now,
                        act.act().equals("finished") ? "event.finished" : "event.acknowledged",
                        e.door(),
                        null,
                        null,
                        null,
                        null,
                        null,
                        null,
                        null,
                        act.key(),
                        Map.of(
                                "of",
                                AccessSystem.EPOCH + ":" + number,
                                "by",
                                act.who() == null ? "the desk of " + system.name() : act.who()),
                        null));
            });
        }
        return any ? Optional.empty() : Optional.of("these events are no alarms here");
    }

    private boolean further(long number, String act) {
        String before = dealtWith.get(number);
        return before == null || before.equals("acknowledged") && act.equals("finished");
    }

    /** The newest alarm that has not been dealt with so far. */
    private Optional<Long> newest(String act) {
        for (long n = system.lastSeq(); n > 0 && n > system.lastSeq() - 2_000; n--) {
            long number = n;
            if (system.event(n).filter(e -> KINDS.contains(e.kind())).isPresent() && further(number, act)) {
                return Optional.of(number);
            }
        }
        return Optional.empty();
    }
}
