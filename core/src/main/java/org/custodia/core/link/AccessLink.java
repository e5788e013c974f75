package org.custodia.core.link;

import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import org.custodia.core.door.CommandAnswer;
import org.custodia.core.door.DoorCommand;
import org.custodia.core.site.DoorId;

/** A connection to one access system. Its events go to the intake it was made with. */
public non-sealed interface AccessLink extends SystemLink {
    /** Whether the log holds all that the system has told, so that what is known of its doors is how they stand now. */
    boolean current();

    /**
     * Whether the system keeps account of alarms itself, and takes word of what was done about them; nothing while it has not
     * said.
     */
    Optional<Boolean> keepsAlarms();

    /**
     * Tells it what was done here. The same key told again has no second effect. Waits for the answer.
     *
     * @return what the system answered; never fails, an unreachable system is an answer too
     */
    CommandAnswer tell(Handled handled);

    /**
     * Sends a command once. The same key sent again has no second effect.
     *
     * @return what the system answered; never fails, an unreachable system is an answer too
     */
    CompletableFuture<CommandAnswer> command(DoorId door, DoorCommand command, String key);
}
