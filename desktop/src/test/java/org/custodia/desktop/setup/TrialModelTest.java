package org.custodia.desktop.setup;

import static org.assertj.core.api.Assertions.assertThat;
import static org.custodia.desktop.desk.DeskInHand.STORE;
import static org.custodia.desktop.desk.DeskInHand.VAULT;
import static org.custodia.desktop.desk.DeskInHand.event;
import static org.custodia.desktop.desk.DeskInHand.onFx;
import static org.custodia.desktop.desk.DeskInHand.until;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.ArgumentMatchers.anyInt;
import static org.mockito.Mockito.when;

import java.nio.file.Path;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.OnRecord;
import org.custodia.core.footage.JpegSize;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Pairing;
import org.custodia.desktop.desk.DeskInHand;
import org.custodia.desktop.trial.TrialModel;
import org.custodia.desktop.trial.TrialModel.State;
import org.custodia.video.Picture;
import org.custodia.video.Stills;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** A trial that passes, that fails, that nothing comes of, that is abandoned. */
class TrialModelTest {
    @TempDir
    Path directory;

    private DeskInHand hand;
    private PairsModel pairs;
    private TrialModel trial;
    private final List<String> said = new ArrayList<>();
    private long number = 100;

    @BeforeEach
    void open() {
        hand = new DeskInHand(directory);
        pairs = onFx(() -> new PairsModel(hand.desk));
        trial = onFx(() -> new TrialModel(new TriedDoor(pairs, door(VAULT)), hand.desk));
        onFx(trial::begin);
    }

    @AfterEach
    void close() {
        onFx(trial::close);
        hand.close();
    }

    private Door door(DoorId id) {
        return hand.desk.services().sites().get().door(id).orElseThrow();
    }

    private Event happens(EventKind kind, DoorId door, Duration ago) {
        Event event = event(++number, kind, door, hand.now().minus(ago));
        hand.log.store(event);
        onFx(() -> {});
        return hand.log.events.get(hand.log.events.size() - 1);
    }

    private State state() {
        return onFx(() -> trial.state().get());
    }

    private Pairing pair() {
        return pairs.pairings(door(VAULT)).get(0);
    }

    @ParameterizedTest
    @ValueSource(strings = {"access.granted", "access.refused", "exit.requested"})
    void what_is_presented_at_the_door_is_to_be_judged(String kind) {
        Event presented = happens(Kinds.of(kind), VAULT, Duration.ZERO);
        assertThat(state()).isEqualTo(new State.Judging(presented));
        // What comes after it is not another trial.
        happens(Kinds.GRANTED, VAULT, Duration.ZERO);
        assertThat(state()).isEqualTo(new State.Judging(presented));
    }

    @Test
    void a_trial_that_passed_holds_until_the_pair_is_changed_and_one_that_failed_does_not() {
        assertThat(pairs.standing(pair())).isEqualTo(PairsModel.Standing.NEVER);
        happens(Kinds.GRANTED, VAULT, Duration.ZERO);
        hand.setup.keep(
                pair(),
                0,
                hand.desk.services().actor(),
                OnRecord.setUp("pair", "added", hand.desk.services().actor(), DeskInHand.NOW));
        onFx(() -> trial.keep(pair(), true, false, true, () -> said.add("kept"), said::add));
        until(() -> said.size() == 1);
        assertThat(pairs.standing(pair())).isEqualTo(PairsModel.Standing.WRONG);
        assertThat(pairs.trial(pair()).orElseThrow().picture()).isEmpty();
        when(hand.pictures.still(any(), any(), any(), any(), anyInt()))
                .thenReturn(CompletableFuture.completedFuture(
                        new Stills.Still(new Picture(8, 4, new int[32], hand.now()), Optional.empty())));
        onFx(() -> trial.keep(pair(), true, true, true, () -> said.add("kept"), said::add));
        until(() -> said.size() == 2);
        // What was judged is kept with the answer, as it looked.
        byte[] jpeg = pairs.trial(pair()).orElseThrow().picture().orElseThrow();
        assertThat(JpegSize.of(jpeg)).contains(new JpegSize(8, 4));
        assertThat(said).containsExactly("kept", "kept");
        assertThat(pairs.standing(pair())).isEqualTo(PairsModel.Standing.RIGHT);
        Pairing p = pair();
        Pairing changed = new Pairing(
                p.id(), p.door(), p.camera(), p.side(), p.view(), Duration.ofSeconds(31), p.face(), p.faceAfter());
        assertThat(pairs.standing(changed)).isEqualTo(PairsModel.Standing.CHANGED);
        assertThat(pairs.count(PairsModel.Show.UNTRIED)).isZero();
    }

    @Test
    void a_pair_that_was_taken_off_meanwhile_is_not_judged() {
        happens(Kinds.GRANTED, VAULT, Duration.ZERO);
        Pairing gone = pair();
        onFx(() -> trial.keep(gone, true, true, true, () -> said.add("kept"), said::add));
        until(() -> said.size() == 1);
        assertThat(said).containsExactly("This pair is not there any more.");
    }

    @Test
    void what_comes_from_other_doors_is_told_when_nothing_came_from_this_one() {
        Event elsewhere = happens(Kinds.REFUSED, STORE, Duration.ZERO);
        happens(Kinds.OPENED, STORE, Duration.ZERO);
        assertThat(state()).isInstanceOf(State.Waiting.class);
        onFx(trial::tick);
        assertThat(state()).isInstanceOf(State.Waiting.class);
        hand.pass(TrialModel.PATIENCE.plusSeconds(1));
        onFx(trial::tick);
        assertThat(state()).isEqualTo(new State.NothingCame(List.of(elsewhere)));
        // Too late is too late; it is tried again.
        happens(Kinds.GRANTED, VAULT, Duration.ZERO);
        assertThat(state()).isInstanceOf(State.NothingCame.class);
        onFx(trial::begin);
        assertThat(happens(Kinds.GRANTED, VAULT, Duration.ZERO)).isEqualTo(((State.Judging) state()).event());
    }

    @Test
    void what_happened_before_and_only_arrives_now_is_not_what_was_presented() {
        happens(Kinds.GRANTED, VAULT, Duration.ofSeconds(30));
        assertThat(state()).isInstanceOf(State.Waiting.class);
    }

    @Test
    void a_door_that_only_opens_is_judged_once_nothing_else_follows() {
        Event opened = happens(Kinds.OPENED, VAULT, Duration.ZERO);
        onFx(trial::tick);
        assertThat(state()).isInstanceOf(State.Waiting.class);
        hand.pass(Duration.ofSeconds(3));
        onFx(trial::tick);
        assertThat(state()).isEqualTo(new State.Judging(opened));
    }

    @Test
    void one_that_is_abandoned_keeps_nothing_and_listens_no_more() {
        onFx(trial::abandon);
        happens(Kinds.GRANTED, VAULT, Duration.ZERO);
        assertThat(state()).isEqualTo(new State.Idle());
        onFx(() -> trial.keep(pair(), true, true, true, () -> said.add("kept"), said::add));
        assertThat(hand.log.events).noneMatch(e -> e.kind().equals(Kinds.TRIED));
        assertThat(onFx(() -> trial.left())).isEmpty();
    }
}
