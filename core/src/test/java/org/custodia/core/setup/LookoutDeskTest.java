package org.custodia.core.setup;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.when;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.MemoryLog;
import org.custodia.core.operator.Actor;
import org.custodia.core.operator.NotPermittedException;
import org.custodia.core.operator.Permission;
import org.custodia.core.operator.Roles;
import org.custodia.core.site.Camera;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.Device;
import org.custodia.core.site.DeviceId;
import org.custodia.core.site.Lookout;
import org.custodia.core.site.Site;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.SystemId;
import org.junit.jupiter.api.Test;

/** Which cameras show devices and zones, said by every kind of operator, and tried. */
class LookoutDeskTest {
    private static final Instant NOW = Instant.parse("2026-11-20T08:00:00Z");
    private static final SiteId HARBOUR = new SiteId("harbour");
    private static final SiteId YARD = new SiteId("yard");
    private static final SystemId SYSTEM = new SystemId("tidewater");
    private static final SystemId RECORDER = new SystemId("quayside");
    private static final CameraId CAMERA = new CameraId("quayside/a");
    private static final Device BUTTON = new Device(
            new DeviceId("tidewater/panic"),
            SYSTEM,
            Optional.empty(),
            "panic-button",
            "Panic button",
            YARD,
            Optional.empty());
    private static final Lookout SHOWS = new Lookout(CAMERA, new Lookout.OfDevice(BUTTON.id()), Duration.ofSeconds(10));
    private static final Actor ANA = Actor.withAll("ana", "Ana", "desk");

    private final MemoryLog log = new MemoryLog();
    private final DevicesInHand book = new DevicesInHand(log);
    private final PairDesk pairs = mock(PairDesk.class);
    private final LookoutDesk desk = new LookoutDesk(book, this::model, pairs, log, Clock.fixed(NOW, ZoneOffset.UTC));

    private SiteModel model() {
        return new SiteModel(
                List.of(new Site(HARBOUR, "Harbour", ZoneOffset.UTC), new Site(YARD, "Yard", ZoneOffset.UTC)),
                List.of(),
                List.of(new Camera(CAMERA, RECORDER, "A", HARBOUR)),
                List.of(),
                List.of(),
                List.of(BUTTON),
                List.of(),
                List.copyOf(book.lookouts.values()),
                Set.of());
    }

    private static Trial trial() {
        return new Trial(
                SHOWS.pairId(),
                Trial.as(SHOWS.asPair()),
                new EventKey(SYSTEM, 1, 7),
                NOW,
                Optional.empty(),
                true,
                true,
                true,
                "Ana",
                NOW);
    }

    @Test
    void it_is_said_tried_and_said_no_more() {
        desk.shows(SHOWS, ANA);
        desk.shows(SHOWS, ANA);
        assertThat(model().lookouts(SHOWS.of())).containsExactly(SHOWS);
        desk.tried(SHOWS, trial(), ANA).join();
        assertThat(log.find(EventQuery.all().kinds(Kinds.TRIED)))
                .singleElement()
                .satisfies(e -> assertThat(Trial.of(e)).contains(trial()));
        when(pairs.trialOf(SHOWS.pairId())).thenReturn(Optional.of(trial()));
        assertThat(desk.trial(SHOWS, ANA).orElseThrow().holds(SHOWS.asPair())).isTrue();
        Lookout longer = new Lookout(CAMERA, SHOWS.of(), Duration.ofSeconds(20));
        assertThat(trial().holds(longer.asPair())).isFalse();
        desk.shows(longer, ANA);
        assertThat(model().lookouts()).containsExactly(longer);
        assertThatThrownBy(() -> desk.tried(SHOWS, trial(), ANA)).isInstanceOf(SetupException.class);
        desk.showsNoMore(longer, ANA);
        assertThat(model().lookouts()).isEmpty();
        assertThatThrownBy(() -> desk.showsNoMore(longer, ANA)).isInstanceOf(SetupException.class);
        assertThat(log.find(EventQuery.all().kinds(Kinds.SET_UP)))
                .extracting(e -> e.detail("change").orElseThrow())
                .containsExactly("shows", "shows", "shows-no-more");
    }

    @Test
    void what_is_not_there_is_not_shown() {
        for (Lookout odd : List.of(
                new Lookout(new CameraId("quayside/b"), SHOWS.of(), Duration.ZERO),
                new Lookout(CAMERA, new Lookout.OfDevice(new DeviceId("tidewater/x")), Duration.ZERO),
                new Lookout(CAMERA, new Lookout.OfZone(new SiteId("moon"), "Crater"), Duration.ZERO))) {
            assertThatThrownBy(() -> desk.shows(odd, ANA)).isInstanceOf(SetupException.class);
        }
        assertThatThrownBy(() -> new Lookout(CAMERA, SHOWS.of(), Duration.ofHours(1)))
                .isInstanceOf(IllegalArgumentException.class);
        for (String key : List.of("", "device", "zone x", "zone x\n", "door tidewater/a", "zone x\na\nb")) {
            assertThat(Lookout.Subject.parse(key)).as(key).isEmpty();
        }
        for (Lookout.Subject of : List.of(SHOWS.of(), new Lookout.OfZone(YARD, "North stair"))) {
            assertThat(Lookout.Subject.parse(of.key())).contains(of);
        }
    }

    @Test
    void it_takes_the_permission_where_camera_and_device_are() {
        for (Roles.Role role : Roles.all(Set.of(HARBOUR, YARD))) {
            book.lookouts.clear();
            Actor actor = role.actor();
            boolean both = role.has(Set.of(Permission.SET_UP), Actor.Level.CHANGE, HARBOUR)
                    && role.has(Set.of(Permission.SET_UP), Actor.Level.CHANGE, YARD);
            assertThat(leads(() -> desk.shows(SHOWS, actor))).as("%s", role).isEqualTo(both);
            book.lookouts.put(SHOWS.key(), SHOWS);
            assertThat(leads(() -> desk.tried(SHOWS, trial(), actor)))
                    .as("%s", role)
                    .isEqualTo(both);
            assertThat(leads(() -> desk.trial(SHOWS, actor)))
                    .as("%s", role)
                    .isEqualTo(role.has(Set.of(Permission.SET_UP), Actor.Level.LOOK, YARD));
            assertThat(leads(() -> desk.showsNoMore(SHOWS, actor)))
                    .as("%s", role)
                    .isEqualTo(both);
        }
    }

    private static boolean leads(Runnable way) {
        try {
            way.run();
            return true;
        } catch (NotPermittedException e) {
            return false;
        }
    }
}
