package org.custodia.core.command;

import java.time.Instant;
import java.util.Optional;
import org.custodia.core.door.DoorCommand;
import org.custodia.core.door.DoorState;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.DoorId;

/**
 * How far an operator's command has come.
 *
 * @param key of the command
 * @param since when it got to this stage
 * @param why it is so, where something else than the stage says it
 * @param now how the door stands, where the command was not confirmed and that is known
 */
public record CommandProgress(
        String key,
        DoorId door,
        DoorCommand command,
        Stage stage,
        Instant since,
        Optional<Saying> why,
        Optional<DoorState> now) {
    /** One that says nothing of how the door stands. */
    public CommandProgress(
            String key, DoorId door, DoorCommand command, Stage stage, Instant since, Optional<Saying> why) {
        this(key, door, command, stage, since, why, Optional.empty());
    }

    /** The stages a command goes through. */
    public enum Stage {
        /** Given by the operator; being recorded, not yet sent. */
        ACCEPTED,
        /** On its way to the access system. */
        SENT,
        CONFIRMED,
        FAILED,
        NOT_KNOWN
    }
}
