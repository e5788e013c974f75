package org.custodia.desktop.message;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.Mockito.RETURNS_DEEP_STUBS;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.when;

import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.custodia.core.alarm.Alarm;
import org.custodia.core.alarm.Subject;
import org.custodia.core.event.Priority;
import org.custodia.core.link.RecorderLink;
import org.custodia.core.message.Message;
import org.custodia.core.message.Occasion;
import org.custodia.core.site.Camera;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.Crop;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorCapability;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Pairing;
import org.custodia.core.site.Side;
import org.custodia.core.site.Site;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.SystemId;
import org.junit.jupiter.api.Test;

/** What a message says of its picture. */
class MessageWordsTest {
    private static final Instant NOW = Instant.parse("2026-11-24T13:00:00Z");
    private static final SiteId HARBOUR = new SiteId("harbour");
    private static final DoorId VAULT = new DoorId("tidewater/vault");
    private static final CameraId CAMERA = new CameraId("lanthorn/vault");
    private static final SiteModel SITES = new SiteModel(
            List.of(new Site(HARBOUR, "Harbour House", ZoneOffset.UTC)),
            List.of(new Door(
                    VAULT,
                    new SystemId("tidewater"),
                    new ControllerId("tidewater/c1"),
                    "Vault",
                    HARBOUR,
                    "0",
                    "",
                    "",
                    Duration.ofSeconds(30),
                    Set.of(DoorCapability.CONTACT))),
            List.of(new Camera(CAMERA, new SystemId("lanthorn"), "Vault outside", HARBOUR)),
            List.of(new Pairing(
                    VAULT, CAMERA, Side.ENTRY, Pairing.View.OUTSIDE, Duration.ZERO, Crop.WHOLE, Duration.ZERO)));

    private static String text(boolean inDoubt) {
        Alarm alarm = mock(Alarm.class, RETURNS_DEEP_STUBS);
        when(alarm.origin().rule()).thenReturn("own");
        when(alarm.origin().name()).thenReturn("Vault forced");
        when(alarm.origin().priority()).thenReturn(Priority.URGENT);
        when(alarm.calling().subject()).thenReturn(new Subject(Subject.Sort.DOOR, VAULT.value()));
        when(alarm.calling().at()).thenReturn(NOW);
        when(alarm.times()).thenReturn(1);
        when(alarm.condition()).thenReturn(Alarm.Condition.ON);
        when(alarm.state(any())).thenReturn(Alarm.State.NEW);
        Message message = new Message(
                "1",
                1,
                false,
                NOW,
                Occasion.RAISED,
                Optional.of(alarm),
                SITES.door(VAULT),
                SITES.sites().stream().findFirst(),
                Optional.empty(),
                Optional.of(new RecorderLink.Still(new byte[0], NOW.plusSeconds(2))));
        return new MessageWords(
                        () -> SITES, List::of, (door, camera) -> inDoubt && door.equals(VAULT) && camera.equals(CAMERA))
                .of(message)
                .text();
    }

    @Test
    void a_picture_of_a_pair_in_doubt_says_so() {
        assertThat(text(false)).contains("The picture shows ").doesNotContain("doubt");
        assertThat(text(true))
                .contains("The picture shows ")
                .contains("perhaps not this door")
                .contains("in doubt");
    }
}
