package org.custodia.video;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.when;

import java.lang.reflect.Method;
import java.lang.reflect.Modifier;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.EnumSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.concurrent.CompletionException;
import org.custodia.core.footage.ClockBook;
import org.custodia.core.footage.Footage;
import org.custodia.core.link.RecorderLink;
import org.custodia.core.operator.Actor.Level;
import org.custodia.core.operator.NotPermittedException;
import org.custodia.core.operator.Permission;
import org.custodia.core.operator.Roles;
import org.custodia.core.operator.Roles.Role;
import org.custodia.core.site.Camera;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.Crop;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.SystemId;
import org.custodia.core.workplace.Permit;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;

/** Every way to a picture, with every role, at every site: whether a recorder is asked at all. */
class PicturesTest {
    private static final Instant NOW = Instant.parse("2026-11-24T14:00:00Z");
    private static final Instant JUST_NOW = NOW.minusSeconds(60);
    private static final Instant EARLIER = NOW.minusSeconds(3_600);
    private static final Clock CLOCK = Clock.fixed(NOW, ZoneOffset.UTC);
    private static final SystemId RECORDER = new SystemId("quayside");
    private static final List<SiteId> SITES = List.of(new SiteId("harbour"), new SiteId("yard"));
    private static final SiteModel MODEL = new SiteModel(
            List.of(), List.of(), SITES.stream().map(PicturesTest::camera).toList(), List.of());
    private static final Set<Permission> LIVE = EnumSet.of(Permission.SEE_LIVE);
    private static final Set<Permission> PAST = EnumSet.of(Permission.LOOK_BACK);
    private static final Set<Permission> EITHER = EnumSet.of(Permission.SEE_LIVE, Permission.LOOK_BACK);

    /** What a recorder was asked of which camera. */
    private final List<CameraId> asked = new ArrayList<>();

    private final VideoDesk desk = new VideoDesk(r -> Optional.empty(), new ClockBook(), CLOCK);

    @AfterEach
    void close() {
        desk.close();
    }

    private static Camera camera(SiteId site) {
        return new Camera(new CameraId("quayside/" + site.value()), RECORDER, site.value(), site);
    }

    private interface Way {
        boolean leads(Pictures pictures, CameraId camera);
    }

    private record Entry(Set<Permission> opens, Way way) {}

    private static final PlaybackListener NOBODY = new PlaybackListener();

    private static final class PlaybackListener implements Playback.Listener {
        @Override
        public void frame(Picture picture) {
            // Nobody looks.
        }

        @Override
        public void status(Playback.Status status) {
            // Nobody looks.
        }
    }

    /** A desk without recorders says so; whoever may not is told something else. */
    private static boolean looked(Pictures pictures, CameraId camera) {
        List<PictureState> states = new ArrayList<>();
        pictures.live(camera, RECORDER, () -> 0, f -> {}, states::add).close();
        String why = ((PictureState.None) states.get(0)).why().code();
        assertThat(why).isIn("picture.recorder-not-connected", "permit.not-here");
        return why.startsWith("picture.");
    }

    private static boolean played(Pictures pictures, CameraId camera, Instant from) {
        try {
            pictures.play(camera, RECORDER, from, from.plusSeconds(9), true, () -> 0, NOBODY);
            throw new AssertionError("there is no recorder");
        } catch (NotPermittedException e) {
            return false;
        } catch (RecorderNotConnectedException e) {
            return true;
        }
    }

    private static boolean fetched(Pictures pictures, CameraId camera, Instant at) {
        try {
            pictures.still(camera, RECORDER, at, Crop.WHOLE, 100).join();
            throw new AssertionError("there is no recorder");
        } catch (CompletionException e) {
            return !e.getCause().getMessage().startsWith("permit.");
        }
    }

    private static Map<String, List<Entry>> ways() {
        Map<String, List<Entry>> ways = new TreeMap<>();
        ways.put("live", List.of(new Entry(LIVE, PicturesTest::looked)));
        ways.put(
                "play",
                List.of(
                        new Entry(PAST, (p, c) -> played(p, c, EARLIER)),
                        new Entry(EITHER, (p, c) -> played(p, c, JUST_NOW))));
        ways.put(
                "still",
                List.of(
                        new Entry(PAST, (p, c) -> fetched(p, c, EARLIER)),
                        new Entry(EITHER, (p, c) -> fetched(p, c, JUST_NOW))));
        return ways;
    }

    @Test
    void every_picture_is_seen_by_those_who_may_and_by_nobody_else() {
        for (List<Entry> entries : ways().values()) {
            for (Entry entry : entries) {
                for (Role role : Roles.all(SITES)) {
                    Pictures pictures = new Pictures(desk, new Permit(role.actor(), () -> MODEL, CLOCK));
                    for (SiteId site : SITES) {
                        assertThat(entry.way().leads(pictures, camera(site).id()))
                                .as("%s at %s", role, site)
                                .isEqualTo(role.has(entry.opens(), Level.LOOK, site));
                    }
                    // Nobody knows where it is: it takes the permission for everywhere.
                    assertThat(entry.way().leads(pictures, new CameraId("quayside/unknown")))
                            .isEqualTo(role.has(entry.opens(), Level.LOOK, null));
                }
            }
        }
    }

    @Test
    void what_is_known_of_footage_is_told_to_those_who_may_see_it() {
        RecorderLink link = mock(RecorderLink.class);
        Footage footage = new Footage(EARLIER, Duration.ofSeconds(10), Optional.of(EARLIER));
        when(link.footage(any())).thenAnswer(i -> {
            asked.add(i.getArgument(0));
            return Optional.of(footage);
        });
        try (VideoDesk connected = new VideoDesk(r -> Optional.of(link), new ClockBook(), CLOCK)) {
            SITES.forEach(s -> connected.stills().readyTimes().asked(camera(s).id(), Duration.ofSeconds(3), true));
            for (Role role : Roles.all(SITES)) {
                Pictures pictures = new Pictures(connected, new Permit(role.actor(), () -> MODEL, CLOCK));
                for (SiteId site : SITES) {
                    CameraId camera = camera(site).id();
                    asked.clear();
                    boolean past = role.has(PAST, Level.LOOK, site);
                    assertThat(pictures.footage(camera, RECORDER).isPresent()).isEqualTo(past);
                    assertThat(pictures.footage(camera, RECORDER, EARLIER).isPresent())
                            .isEqualTo(past);
                    assertThat(pictures.readySeen(camera).isPresent()).isEqualTo(role.has(EITHER, Level.LOOK, site));
                    boolean live = role.has(LIVE, Level.LOOK, site);
                    assertThat(pictures.lostSince(camera, RECORDER).isPresent()).isEqualTo(live);
                    assertThat(asked).hasSize((past ? 2 : 0) + (live ? 1 : 0));
                }
            }
            assertThat(new Pictures(
                                    connected,
                                    new Permit(Roles.all(SITES).get(0).actor(), () -> MODEL, CLOCK))
                            .now())
                    .isEqualTo(NOW);
        }
    }

    @Test
    void no_way_to_a_picture_is_left_out() {
        Set<String> there = new TreeSet<>();
        for (Method method : Pictures.class.getDeclaredMethods()) {
            if (Modifier.isPublic(method.getModifiers())) {
                there.add(method.getName());
            }
        }
        Set<String> tried = new TreeSet<>(ways().keySet());
        tried.addAll(List.of("footage", "lostSince", "now", "readySeen"));
        // How sure a recorder's clock is shows nothing of what it sees.
        tried.add("unsure");
        assertThat(there).isEqualTo(tried);
    }
}
