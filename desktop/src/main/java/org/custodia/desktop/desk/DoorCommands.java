package org.custodia.desktop.desk;

import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import javafx.application.Platform;
import javafx.beans.property.ReadOnlyObjectProperty;
import javafx.beans.property.ReadOnlyObjectWrapper;
import org.custodia.core.command.CommandProgress;
import org.custodia.core.command.NoSuchCommandException;
import org.custodia.core.door.DoorCommand;
import org.custodia.core.event.EventIntake;
import org.custodia.core.operator.NotPermittedException;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.desktop.Services;

/** Acting on doors from any view, and how that goes. */
public final class DoorCommands implements AutoCloseable {
    private final Services services;
    private final Map<DoorId, CommandProgress> latest = new HashMap<>();
    private final ReadOnlyObjectWrapper<Optional<CommandProgress>> newest =
            new ReadOnlyObjectWrapper<>(Optional.empty());
    private final EventIntake.Subscription subscription;

    DoorCommands(Services services) {
        this.services = services;
        this.subscription = services.doors().onProgress(p -> Platform.runLater(() -> progressed(p)));
    }

    /** The commands offered at a door. */
    public List<DoorCommand> offered(Door door) {
        return services.doors().offered(door);
    }

    /** Gives a command; how it goes, and why it may not be given, is among what {@link #newest} tells. */
    public void act(Door door, DoorCommand command) {
        try {
            services.doors().act(door.id(), command, Optional.empty());
        } catch (NotPermittedException | NoSuchCommandException e) {
            progressed(new CommandProgress(
                    "",
                    door.id(),
                    command,
                    CommandProgress.Stage.FAILED,
                    services.clock().instant(),
                    Optional.of(e.saying())));
        }
    }

    /** The latest stage of the latest command, whoever gave it. */
    public ReadOnlyObjectProperty<Optional<CommandProgress>> newest() {
        return newest.getReadOnlyProperty();
    }

    /** The latest stage of the latest command at a door. */
    public Optional<CommandProgress> latest(DoorId door) {
        return Optional.ofNullable(latest.get(door));
    }

    private void progressed(CommandProgress progress) {
        latest.put(progress.door(), progress);
        newest.set(Optional.of(progress));
    }

    @Override
    public void close() {
        subscription.close();
    }
}
