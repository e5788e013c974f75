package org.custodia.desktop.play;

import static org.assertj.core.api.Assertions.assertThat;
import static org.custodia.desktop.desk.DeskInHand.NOW;
import static org.custodia.desktop.desk.DeskInHand.STORE;
import static org.custodia.desktop.desk.DeskInHand.VAULT;
import static org.custodia.desktop.desk.DeskInHand.onFx;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.ArgumentMatchers.anyBoolean;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.never;
import static org.mockito.Mockito.times;
import static org.mockito.Mockito.verify;
import static org.mockito.Mockito.when;

import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.custodia.core.event.Event;
import org.custodia.core.event.Kinds;
import org.custodia.core.footage.Footage;
import org.custodia.core.operator.NotPermittedException;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.Camera;
import org.custodia.core.site.Pairing;
import org.custodia.desktop.desk.DeskInHand;
import org.custodia.desktop.desk.Playing;
import org.custodia.desktop.play.PlayerModel.State;
import org.custodia.video.Picture;
import org.custodia.video.Playback;
import org.custodia.video.Playback.Mode;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** What a player asks its recorder for, and what it makes of what comes, early, late or not at all. */
class PlayerModelTest {
    /** A playback that was asked for. */
    private record Asked(Instant from, Instant to, boolean paused, Playback playback, Playback.Listener listener) {}

    @TempDir
    Path directory;

    private final List<Asked> asked = new ArrayList<>();
    private final List<String> screen = new ArrayList<>();
    private DeskInHand hand;
    private PlayerModel player;

    @BeforeEach
    void open() {
        hand = new DeskInHand(directory);
        when(hand.pictures.play(any(), any(), any(), any(), anyBoolean(), any(), any()))
                .thenAnswer(i -> {
                    Playback playback = mock(Playback.class);
                    when(playback.playing()).thenReturn(true);
                    asked.add(new Asked(
                            i.getArgument(2), i.getArgument(3), i.getArgument(4), playback, i.getArgument(6)));
                    return playback;
                });
        when(hand.pictures.footage(any(), any(), any())).thenReturn(Optional.empty());
    }

    @AfterEach
    void close() {
        onFx(player::close);
        hand.close();
    }

    private void player(Playing playing) {
        player = new PlayerModel(hand.desk.services(), playing, new Screen() {
            @Override
            public Reel turnTo(Camera camera, Pairing pairing) {
                screen.add("to " + camera.name());
                return new Reel() {
                    @Override
                    public void frame(Picture picture) {
                        screen.add("frame");
                    }

                    @Override
                    public void none(Optional<Footage.At> footage, String otherwise) {
                        screen.add(otherwise);
                    }
                };
            }

            @Override
            public void live() {
                screen.add("live");
            }
        });
        onFx(player::start);
    }

    private static Playing event(Instant at) {
        Event event = DeskInHand.event(1, Kinds.GRANTED, VAULT, at);
        return new Playing(1, VAULT, Optional.of(event), at);
    }

    private void says(int which, Mode mode, Instant position) {
        Asked a = asked.get(which);
        a.listener().status(new Playback.Status(mode, a.from(), a.to(), position, 1, false, Optional.empty()));
        onFx(() -> {});
    }

    private State state() {
        return onFx(() -> player.state().get());
    }

    @Test
    void an_event_is_played_from_its_lead_in_and_a_moment_stands_still() {
        player(event(NOW.minusSeconds(60)));
        assertThat(asked.get(0).from()).isEqualTo(NOW.minusSeconds(64));
        assertThat(asked.get(0).to()).isEqualTo(NOW.minusSeconds(45));
        assertThat(asked.get(0).paused()).isFalse();
        onFx(player::close);
        verify(asked.get(0).playback()).close();
        player(new Playing(2, VAULT, Optional.empty(), NOW.minusSeconds(60)));
        assertThat(asked.get(1).from()).isEqualTo(NOW.minusSeconds(60));
        assertThat(asked.get(1).paused()).isTrue();
    }

    @Test
    void a_door_without_a_camera_plays_nothing_whatever_is_pressed() {
        player(new Playing(1, STORE, Optional.empty(), NOW.minusSeconds(60)));
        assertThat(state()).isInstanceOf(State.NoCamera.class);
        onFx(() -> {
            player.togglePlay();
            player.step(1);
            player.jump(Duration.ofMinutes(1));
            player.seek(0.5);
            assertThat(player.nextSpeed()).isEmpty();
        });
        assertThat(asked).isEmpty();
        assertThat(player.ways()).isEmpty();
    }

    @Test
    void what_runs_into_now_goes_on_live_and_can_be_gone_back_from() {
        player(event(NOW.minusSeconds(5)));
        says(0, Mode.PLAYING, NOW.minusSeconds(9));
        assertThat(state()).isInstanceOf(State.Recorded.class);
        says(0, Mode.REACHED_NOW, NOW);
        assertThat(state()).isInstanceOf(State.Live.class);
        assertThat(screen).containsExactly("to Vault outside", "live");
        verify(asked.get(0).playback()).close();
        // Nothing that is for a recording does anything to what is live.
        onFx(() -> {
            player.togglePlay();
            player.step(-1);
            player.seek(0);
            player.jump(Duration.ofMinutes(1));
        });
        assertThat(screen).hasSize(2);
        onFx(() -> player.jump(Duration.ofMinutes(-1)));
        assertThat(asked.get(1).from()).isEqualTo(NOW.minusSeconds(60));
        assertThat(state()).isInstanceOf(State.Beginning.class);
    }

    @Test
    void what_an_earlier_playback_still_says_is_passed_over() {
        player(event(NOW.minusSeconds(60)));
        says(0, Mode.REACHED_NOW, NOW);
        onFx(() -> player.jump(Duration.ofMinutes(-1)));
        says(0, Mode.REACHED_NOW, NOW);
        says(0, Mode.FAILED, NOW);
        assertThat(state()).isInstanceOf(State.Beginning.class);
        assertThat(screen).containsExactly("to Vault outside", "live", "to Vault outside");
        onFx(player::close);
        says(1, Mode.PLAYING, NOW);
        assertThat(onFx(() -> player.status())).isEmpty();
    }

    @Test
    void a_jump_beyond_now_is_live_and_one_before_the_first_picture_counts_from_what_was_asked() {
        player(event(NOW.minusSeconds(600)));
        onFx(() -> player.jump(Duration.ofMinutes(-1)));
        verify(asked.get(0).playback()).seek(NOW.minusSeconds(664));
        says(0, Mode.PLAYING, NOW.minusSeconds(590));
        onFx(() -> player.jump(Duration.ofMinutes(1)));
        verify(asked.get(0).playback()).seek(NOW.minusSeconds(530));
        says(0, Mode.PLAYING, NOW.minusSeconds(59));
        onFx(() -> player.jump(Duration.ofMinutes(1)));
        assertThat(state()).isInstanceOf(State.Live.class);
    }

    @Test
    void a_place_beyond_the_ends_is_an_end() {
        player(event(NOW.minusSeconds(60)));
        onFx(() -> player.seek(0.5));
        verify(asked.get(0).playback(), never()).seek(any());
        says(0, Mode.PAUSED, NOW.minusSeconds(60));
        onFx(() -> {
            player.seek(-3);
            player.seek(7);
        });
        verify(asked.get(0).playback()).seek(asked.get(0).from());
        verify(asked.get(0).playback()).seek(asked.get(0).to());
    }

    @Test
    void speeds_go_round() {
        player(event(NOW.minusSeconds(60)));
        double speed = 1;
        List<Double> taken = new ArrayList<>();
        for (int i = 0; i < Playback.SPEEDS.size(); i++) {
            Asked a = asked.get(0);
            a.listener()
                    .status(new Playback.Status(
                            Mode.PLAYING, a.from(), a.to(), a.from(), speed, false, Optional.empty()));
            speed = onFx(() -> player.nextSpeed()).orElseThrow();
            taken.add(speed);
        }
        assertThat(taken).containsExactlyInAnyOrderElementsOf(Playback.SPEEDS);
    }

    @Test
    void pausing_follows_what_it_says_of_itself() {
        player(event(NOW.minusSeconds(60)));
        says(0, Mode.PLAYING, NOW.minusSeconds(60));
        onFx(player::togglePlay);
        says(0, Mode.PAUSED, NOW.minusSeconds(60));
        onFx(player::togglePlay);
        verify(asked.get(0).playback(), times(1)).pause();
        verify(asked.get(0).playback(), times(1)).resume();
    }

    @Test
    void why_it_cannot_be_played_is_said_on_the_screen() {
        player(event(NOW.minusSeconds(60)));
        Asked a = asked.get(0);
        a.listener()
                .status(new Playback.Status(
                        Mode.FAILED,
                        a.from(),
                        a.to(),
                        a.from(),
                        1,
                        false,
                        Optional.of(Saying.of("picture.nothing-comes"))));
        onFx(() -> {});
        assertThat(screen).contains("the recorder sends no picture");
    }

    @Test
    void whoever_may_not_look_back_is_told_so_and_can_try_again() {
        when(hand.pictures.play(any(), any(), any(), any(), anyBoolean(), any(), any()))
                .thenThrow(NotPermittedException.here("A. Guard", Saying.of("sight.past")));
        player(event(NOW.minusSeconds(60)));
        assertThat(screen).containsExactly("to Vault outside", "A. Guard may not look back at this site.");
        onFx(() -> {
            player.togglePlay();
            player.jump(Duration.ofMinutes(-1));
        });
        assertThat(screen).hasSize(4);
    }
}
