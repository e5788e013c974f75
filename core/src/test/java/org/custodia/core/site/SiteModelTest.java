package org.custodia.core.site;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.time.Duration;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.List;
import java.util.Set;
import org.junit.jupiter.api.Test;

class SiteModelTest {
    private static final SystemId SYSTEM = new SystemId("tidewater");
    private static final SiteId HARBOUR = new SiteId("harbour");
    private static final DoorId VAULT = new DoorId("tidewater/vault");
    private static final CameraId OUTSIDE = new CameraId("quayside/vault-outside");
    private static final CameraId INSIDE = new CameraId("quayside/vault-inside");

    private static final Door DOOR = new Door(
            VAULT,
            SYSTEM,
            new ControllerId("tidewater/c5"),
            "Vault",
            HARBOUR,
            "0",
            "Ante-room",
            "Vault",
            Duration.ofSeconds(60),
            Set.of());

    private static Camera camera(CameraId id) {
        return new Camera(id, new SystemId("quayside"), id.value(), HARBOUR);
    }

    private static Pairing pairing(CameraId camera, Side side) {
        return new Pairing(
                VAULT, camera, side, Pairing.View.OUTSIDE, Pairing.DEFAULT_LEAD_IN, Crop.WHOLE, Duration.ZERO);
    }

    private final SiteModel model = new SiteModel(
            List.of(new Site(HARBOUR, "Harbour House", ZoneId.of("Europe/London"))),
            List.of(DOOR),
            List.of(camera(OUTSIDE), camera(INSIDE)),
            List.of(
                    pairing(OUTSIDE, Side.ENTRY),
                    pairing(INSIDE, Side.EXIT),
                    pairing(new CameraId("quayside/gone"), Side.ENTRY)));

    @Test
    void the_camera_of_a_side_is_found_or_else_any_camera_of_the_door() {
        assertThat(model.pairing(VAULT, Side.EXIT).orElseThrow().camera()).isEqualTo(INSIDE);
        assertThat(model.pairings(VAULT)).hasSize(2);
        SiteModel one = new SiteModel(
                List.of(), List.of(DOOR), List.of(camera(OUTSIDE)), List.of(pairing(OUTSIDE, Side.ENTRY)));
        assertThat(one.pairing(VAULT, Side.EXIT).orElseThrow().camera()).isEqualTo(OUTSIDE);
        assertThat(one.pairing(new DoorId("x/y"), Side.ENTRY)).isEmpty();
    }

    @Test
    void a_door_whose_cameras_are_all_unknown_names_the_one_it_waits_for() {
        assertThat(model.unheardCamera(VAULT)).isEmpty();
        SiteModel none = new SiteModel(
                List.of(), List.of(DOOR), List.of(), List.of(pairing(OUTSIDE, Side.ENTRY), pairing(INSIDE, Side.EXIT)));
        assertThat(none.pairings(VAULT)).isEmpty();
        assertThat(none.unheardCamera(VAULT)).contains(OUTSIDE);
        assertThat(none.unheardCamera(new DoorId("x/y"))).isEmpty();
    }

    @Test
    void a_door_is_found_by_controller_and_system_and_shown_in_its_own_zone() {
        assertThat(model.doorsOf(new ControllerId("tidewater/c5"))).containsExactly(DOOR);
        assertThat(model.doorsOf(SYSTEM)).containsExactly(DOOR);
        assertThat(model.doorsOf(new SystemId("none"))).isEmpty();
        assertThat(model.zoneOf(VAULT)).isEqualTo(ZoneId.of("Europe/London"));
        assertThat(model.zoneOf(new DoorId("x/y"))).isEqualTo(ZoneOffset.UTC);
        assertThat(model.siteOf(VAULT).orElseThrow().name()).isEqualTo("Harbour House");
    }

    @Test
    void ids_are_neither_blank_nor_endless() {
        assertThatThrownBy(() -> new DoorId(" ")).isInstanceOf(IllegalArgumentException.class);
        assertThatThrownBy(() -> new CameraId("x".repeat(262))).hasMessageContaining("262");
    }

    @Test
    void a_system_has_a_name_that_cannot_be_taken_for_another_ones_door() {
        assertThatThrownBy(() -> new SystemId("a/b")).isInstanceOf(IllegalArgumentException.class);
        assertThatThrownBy(() -> new SystemId("a\nb")).isInstanceOf(IllegalArgumentException.class);
        assertThatThrownBy(() -> new SystemId("x".repeat(61))).isInstanceOf(IllegalArgumentException.class);
        assertThat(new SystemId("x".repeat(60)).value()).hasSize(60);
        assertThat(new DoorId("x".repeat(261)).value()).hasSize(261);
        assertThat(SystemId.CUSTODIA).hasToString("custodia");
    }
}
