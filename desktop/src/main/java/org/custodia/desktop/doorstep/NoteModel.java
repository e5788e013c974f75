package org.custodia.desktop.doorstep;

import java.time.Duration;
import java.time.Instant;
import java.util.Optional;
import javafx.application.Platform;
import javafx.beans.property.ReadOnlyObjectProperty;
import javafx.beans.property.ReadOnlyObjectWrapper;
import org.custodia.core.command.CommandProgress;
import org.custodia.core.door.DoorCommand;
import org.custodia.core.site.Door;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.saying.SayingWords;
import org.custodia.desktop.text.Texts;

/** The note that is asked for after somebody was let through: who it was, and why. It may be left out. */
final class NoteModel {
    private static final Texts TEXTS = Texts.of(NoteModel.class);
    private static final Duration ASKED_FOR = Duration.ofSeconds(60);

    private final Desk desk;
    /** What is said over the note; nothing while none is asked for. */
    private final ReadOnlyObjectWrapper<Optional<String>> asked = new ReadOnlyObjectWrapper<>(Optional.empty());

    private CommandProgress about;
    private Instant since = Instant.MIN;

    NoteModel(Desk desk) {
        this.desk = desk;
    }

    /** What is asked, or why it could not be kept; nothing while no note is asked for. */
    ReadOnlyObjectProperty<Optional<String>> asked() {
        return asked.getReadOnlyProperty();
    }

    /**
     * Takes notice of how a command goes.
     *
     * @param writing whether somebody is writing; a note that is being written is about what it was begun for
     */
    void progressed(CommandProgress progress, boolean writing) {
        boolean letThrough = progress.stage() == CommandProgress.Stage.CONFIRMED
                && progress.command() instanceof DoorCommand.LetThrough;
        if (letThrough && !(writing && about != null)) {
            about = progress;
            since = desk.now();
            String door = desk.services()
                    .sites()
                    .get()
                    .door(progress.door())
                    .map(Door::name)
                    .orElse("");
            asked.set(Optional.of(TEXTS.say("let-through-at", door)));
        }
    }

    /** Nobody needs it. */
    void dismiss() {
        about = null;
        asked.set(Optional.empty());
    }

    /** Keeps what was written; nothing written is no note. */
    void keep(String who, String why) {
        if (about == null || who.isBlank() && why.isBlank()) {
            dismiss();
            return;
        }
        CommandProgress mine = about;
        desk.work()
                .load(
                        () -> desk.services().doors().note(mine, who.trim(), why.trim()),
                        kept -> kept.whenComplete((stored, failure) -> Platform.runLater(() -> {
                            if (mine != about) {
                                return;
                            }
                            if (failure == null) {
                                dismiss();
                            } else {
                                lost(SayingWords.of(failure));
                            }
                        })),
                        this::lost);
    }

    private void lost(String why) {
        asked.set(Optional.of(TEXTS.say("note-lost", why)));
    }

    /**
     * @param untouched nobody has begun to write
     */
    void tick(boolean untouched) {
        if (about != null && untouched && Duration.between(since, desk.now()).compareTo(ASKED_FOR) > 0) {
            dismiss();
        }
    }
}
