package org.custodia.core.command;

import java.time.Instant;
import org.custodia.core.door.DoorCommand;
import org.custodia.core.site.DoorId;

/**
 * How far an operator's command has come.
 *
 * @param key of the command
 * @param since when it got to this stage
 * @param words what to tell the operator
 */
public record CommandProgress(String key, DoorId door, DoorCommand command, Stage stage, Instant since, String words) {
    /** The stages a command goes through. */
    public enum Stage {
        SENT,
        CONFIRMED,
        FAILED,
        NOT_KNOWN
    }
}
