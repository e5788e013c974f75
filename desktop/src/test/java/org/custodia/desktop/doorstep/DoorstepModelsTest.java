package org.custodia.desktop.doorstep;

import static org.assertj.core.api.Assertions.assertThat;
import static org.custodia.desktop.desk.DeskInHand.NOW;
import static org.custodia.desktop.desk.DeskInHand.STORE;
import static org.custodia.desktop.desk.DeskInHand.VAULT;
import static org.custodia.desktop.desk.DeskInHand.onFx;
import static org.custodia.desktop.desk.DeskInHand.until;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.ArgumentMatchers.anyInt;
import static org.mockito.Mockito.never;
import static org.mockito.Mockito.verify;
import static org.mockito.Mockito.when;

import java.nio.file.Path;
import java.time.Duration;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import org.custodia.core.access.Person;
import org.custodia.core.command.CommandProgress;
import org.custodia.core.command.CommandProgress.Stage;
import org.custodia.core.door.DoorCommand;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventLogException;
import org.custodia.core.event.Kinds;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;
import org.custodia.desktop.desk.DeskInHand;
import org.custodia.video.Picture;
import org.custodia.video.Stills;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** The two faces and the note, in what comes late, twice, better, or not at all. */
class DoorstepModelsTest {
    private static final ZoneId LONDON = ZoneId.of("Europe/London");
    private static final PersonId TOVE = new PersonId("tidewater/tove");

    @TempDir
    Path directory;

    private final List<CompletableFuture<Stills.Still>> stills = new ArrayList<>();
    private DeskInHand hand;
    private DoorFace door;
    private EnrolledFace enrolled;
    private NoteModel note;

    @BeforeEach
    void open() {
        hand = new DeskInHand(directory);
        when(hand.pictures.still(any(), any(), any(), any(), anyInt())).thenAnswer(i -> {
            CompletableFuture<Stills.Still> still = new CompletableFuture<>();
            stills.add(still);
            return still;
        });
        when(hand.pictures.footage(any(), any(), any())).thenReturn(Optional.empty());
        door = new DoorFace(hand.desk);
        enrolled = new EnrolledFace(hand.desk);
        note = new NoteModel(hand.desk);
    }

    @AfterEach
    void close() {
        hand.close();
    }

    private static Event granted(long sequence, DoorId door) {
        return DeskInHand.event(sequence, Kinds.GRANTED, door, NOW);
    }

    private static Picture picture(int width) {
        return new Picture(width, 2, new int[width * 2], NOW);
    }

    private int width(FaceModel face) {
        return onFx(() -> face.shown().get().picture().map(Picture::width).orElse(0));
    }

    private String said(FaceModel face) {
        return onFx(() -> face.shown().get().words());
    }

    @Test
    void the_picture_of_somebody_who_left_the_doorstep_does_not_stand_under_the_next() {
        onFx(() -> door.of(granted(1, VAULT), LONDON));
        onFx(() -> door.of(granted(2, VAULT), LONDON));
        stills.get(1).complete(new Stills.Still(picture(20), Optional.empty()));
        until(() -> door.hasPicture());
        stills.get(0).complete(new Stills.Still(picture(10), Optional.empty()));
        assertThat(width(door)).isEqualTo(20);
        assertThat(onFx(() -> door.shown().get().below())).contains("14:20:00");
    }

    @Test
    void what_a_recorder_is_still_writing_is_asked_for_when_it_is_ready_and_a_better_one_takes_its_place() {
        onFx(() -> door.of(granted(1, VAULT), LONDON));
        stills.get(0).completeExceptionally(new Stills.PendingException(NOW.plusSeconds(20)));
        until(() -> said(door).contains("14:20:20"));
        hand.pass(Duration.ofSeconds(10));
        onFx(door::tick);
        assertThat(stills).hasSize(1);
        hand.pass(Duration.ofSeconds(11));
        onFx(() -> {
            door.tick();
            door.tick();
        });
        assertThat(stills).hasSize(2);
        stills.get(1)
                .complete(new Stills.Still(picture(10), Optional.of(hand.now().plusSeconds(5))));
        until(() -> door.hasPicture());
        hand.pass(Duration.ofSeconds(6));
        onFx(door::tick);
        stills.get(2).complete(new Stills.Still(picture(30), Optional.empty()));
        until(() -> width(door) == 30);
        hand.pass(Duration.ofSeconds(600));
        onFx(door::tick);
        assertThat(stills).hasSize(3);
    }

    @Test
    void a_door_without_a_camera_says_so_and_looks_again_whether_one_was_named() {
        onFx(() -> door.of(granted(1, STORE), LONDON));
        assertThat(said(door)).contains("none is paired with this door");
        hand.pass(Duration.ofSeconds(4));
        onFx(door::tick);
        assertThat(stills).isEmpty();
        assertThat(said(door)).contains("none is paired with this door");
    }

    private void tove() {
        Person person = new Person(
                TOVE, "Tove Ingleholm", "Conservation", "staff", Optional.empty(), false, Optional.empty(), List.of());
        onFx(() -> enrolled.of(Optional.of(person)));
    }

    @Test
    void a_photo_that_has_not_been_fetched_yet_is_asked_for_again() {
        when(hand.people.photo(TOVE)).thenReturn(Optional.empty());
        tove();
        until(() -> said(enrolled).contains("no photo"));
        assertThat(onFx(() -> enrolled.shown().get().below())).contains("enrolled");
        when(hand.people.photo(TOVE)).thenReturn(Optional.of(new byte[] {1, 2, 3}));
        hand.pass(Duration.ofSeconds(4));
        onFx(enrolled::tick);
        // What is no picture is said to be none.
        until(() -> !said(enrolled).contains("no photo"));
        assertThat(said(enrolled)).isNotBlank();
        onFx(() -> enrolled.of(Optional.empty()));
        assertThat(onFx(() -> enrolled.shown().get().below())).isBlank();
    }

    private static CommandProgress done(String key, Stage stage) {
        return new CommandProgress(key, VAULT, new DoorCommand.LetThrough(), stage, NOW, Optional.empty());
    }

    private Optional<String> asked() {
        return onFx(() -> note.asked().get());
    }

    @Test
    void a_note_is_asked_for_once_somebody_was_let_through_and_goes_if_nobody_writes() {
        onFx(() -> note.progressed(done("a", Stage.SENT), false));
        assertThat(asked()).isEmpty();
        onFx(() -> note.progressed(done("a", Stage.CONFIRMED), false));
        assertThat(asked().orElseThrow()).contains("Vault");
        hand.pass(Duration.ofSeconds(61));
        onFx(() -> note.tick(false));
        assertThat(asked()).isPresent();
        onFx(() -> note.tick(true));
        assertThat(asked()).isEmpty();
        onFx(() -> note.keep("somebody", "parcel"));
        verify(hand.doorDesk, never()).note(any(), any(), any(), any());
    }

    @Test
    void a_note_that_is_being_written_stays_about_what_it_was_begun_for() {
        when(hand.doorDesk.note(any(), any(), any(), any())).thenReturn(CompletableFuture.completedFuture(null));
        onFx(() -> note.progressed(done("first", Stage.CONFIRMED), false));
        onFx(() -> note.progressed(done("second", Stage.CONFIRMED), true));
        onFx(() -> note.keep(" Iben ", " parcel "));
        until(() -> note.asked().get().isEmpty());
        verify(hand.doorDesk)
                .note(any(), org.mockito.ArgumentMatchers.eq(done("first", Stage.CONFIRMED)), any(), any());
    }

    @Test
    void a_note_that_could_not_be_kept_stays_and_says_why() {
        when(hand.doorDesk.note(any(), any(), any(), any()))
                .thenReturn(CompletableFuture.failedFuture(
                        new EventLogException(Saying.of("store.not-stored.full", "custodia.db"), null)));
        onFx(() -> note.progressed(done("a", Stage.CONFIRMED), false));
        onFx(() -> note.keep("Iben", ""));
        until(() -> note.asked().get().filter(w -> w.contains("is full")).isPresent());
        onFx(() -> note.keep(" ", ""));
        assertThat(asked()).isEmpty();
    }

    @Test
    void a_moment_later_nothing_of_an_earlier_note_comes_back() {
        CompletableFuture<Event> kept = new CompletableFuture<>();
        when(hand.doorDesk.note(any(), any(), any(), any())).thenReturn(kept);
        onFx(() -> note.progressed(done("a", Stage.CONFIRMED), false));
        onFx(() -> note.keep("Iben", ""));
        onFx(note::dismiss);
        onFx(() -> note.progressed(done("b", Stage.CONFIRMED), false));
        kept.complete(null);
        assertThat(asked()).isPresent();
    }

    @Test
    void faces_ask_for_nothing_before_their_time() {
        onFx(() -> {
            door.tick();
            enrolled.tick();
        });
        assertThat(stills).isEmpty();
    }
}
