package org.custodia.core.workplace;

import java.time.Clock;
import java.time.Instant;
import java.util.Collection;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.CompletableFuture;
import java.util.function.Consumer;
import java.util.stream.Collectors;
import org.custodia.core.command.CommandProgress;
import org.custodia.core.command.DoorDesk;
import org.custodia.core.door.DoorBoard;
import org.custodia.core.door.DoorCommand;
import org.custodia.core.door.DoorState;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventIntake;
import org.custodia.core.operator.NotPermittedException;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;

/** Doors: how they stand and stood, and acting on them, as far as one operator may. */
public final class PermittedDoors {
    private final Permit permit;
    private final DoorBoard board;
    private final DoorDesk desk;
    private final Clock clock;

    PermittedDoors(Permit permit, DoorBoard board, DoorDesk desk, Clock clock) {
        this.permit = permit;
        this.board = board;
        this.desk = desk;
        this.clock = clock;
    }

    /** How these doors stand now; those whose state cannot be seen are left out. */
    public Map<DoorId, DoorState> now(Collection<DoorId> doors) {
        Map<DoorId, DoorState> states = new HashMap<>();
        for (DoorId door : doors) {
            if (permit.sees(Sight.STATES, door)) {
                states.put(door, board.now(door));
            }
        }
        return states;
    }

    /**
     * How a door stood at an instant.
     *
     * @throws NotPermittedException if its state then cannot be seen
     */
    public DoorState at(DoorId door, Instant instant) {
        permit.require(instant.isBefore(clock.instant()) ? Sight.PAST : Sight.STATES, door);
        return board.at(door, instant);
    }

    /**
     * How all doors stood at an instant that can be looked back at.
     *
     * @throws NotPermittedException if that is none
     */
    public Map<DoorId, DoorState> all(Instant instant) {
        permit.requireSomewhere(Sight.PAST);
        Map<DoorId, DoorState> states = new HashMap<>(board.all(instant));
        states.keySet().removeIf(d -> !permit.sees(Sight.PAST, d));
        return states;
    }

    /**
     * What a door looked like over a span, if it is known.
     *
     * @throws NotPermittedException if it cannot be looked back at
     */
    public Optional<DoorBoard.Stretch> stretch(DoorId door, Instant from, Instant to) {
        permit.require(Sight.PAST, door);
        return board.stretch(door, from, to);
    }

    /** Asks to be told which doors changed, as {@link DoorBoard#listen} does. */
    public EventIntake.Subscription onChange(Consumer<Set<DoorId>> changed) {
        return board.listen(doors -> {
            Set<DoorId> seen =
                    doors.stream().filter(d -> permit.sees(Sight.STATES, d)).collect(Collectors.toSet());
            if (!seen.isEmpty()) {
                changed.accept(seen);
            }
        });
    }

    /** The commands that a door can do and this operator may give. */
    public List<DoorCommand> offered(Door door) {
        return desk.offered(permit.actor(), door);
    }

    /**
     * Gives a command, as {@link DoorDesk#act} does.
     *
     * @throws NotPermittedException if this operator may not act on doors there; that attempt is in the log
     * @throws IllegalArgumentException if the door is not known or cannot do it
     */
    public CompletableFuture<CommandProgress> act(DoorId door, DoorCommand command, Optional<String> reason) {
        return desk.act(permit.actor(), door, command, reason);
    }

    /**
     * Notes for whom a command was given, and why. Reads the log.
     *
     * @throws NotPermittedException if this operator may not act on doors there
     */
    public CompletableFuture<Event> note(CommandProgress about, String who, String why) {
        return desk.note(permit.actor(), about, who, why);
    }

    /** Asks to be told how commands go, whoever gave them, on any thread. */
    public EventIntake.Subscription onProgress(Consumer<CommandProgress> progressed) {
        return desk.listen(p -> {
            if (permit.sees(Sight.STATES, p.door())) {
                progressed.accept(p);
            }
        });
    }
}
