package org.custodia.desktop.setup;

import static org.assertj.core.api.Assertions.assertThat;
import static org.custodia.desktop.desk.DeskInHand.VAULT;
import static org.custodia.desktop.desk.DeskInHand.onFx;

import java.io.IOException;
import java.net.URI;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.concurrent.atomic.AtomicReference;
import javafx.scene.control.Button;
import javafx.scene.control.ListView;
import org.custodia.core.Patience;
import org.custodia.core.setup.LinkSetup;
import org.custodia.core.setup.WholeSetup;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.Crop;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Pairing;
import org.custodia.core.site.Placing;
import org.custodia.core.site.Side;
import org.custodia.core.site.Thing;
import org.custodia.desktop.desk.DeskInHand;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** A whole setup that somebody looks at before it is taken in. */
class SetupPreviewTest {
    @TempDir
    Path directory;

    private DeskInHand hand;
    private LinksModel links;
    private final AtomicInteger closed = new AtomicInteger();

    @BeforeEach
    void open() {
        hand = new DeskInHand(directory);
        links = onFx(() -> new LinksModel(hand.desk));
    }

    @AfterEach
    void close() {
        onFx(links::close);
        hand.close();
    }

    private SetupPreview preview() throws IOException {
        Path file = Files.writeString(directory.resolve("links.json"), "{}");
        AtomicReference<SetupPreview> made = new AtomicReference<>();
        onFx(() -> links.plan(
                file,
                planned -> made.set(new SetupPreview(
                        links, "links.json", planned.plan(), planned.names(), closed::incrementAndGet))));
        Patience.await().until(() -> made.get() != null);
        return made.get();
    }

    private static WholeSetup whole(String make) {
        return new WholeSetup(
                "Sternwick",
                List.of(new LinkSetup(
                        "tidewater",
                        "access",
                        make,
                        "Tidewater",
                        URI.create("https://sternwick.example/access/"),
                        false,
                        false)),
                List.of(),
                List.of(new Pairing(
                        new DoorId("tidewater/not-there-yet"),
                        new CameraId("quayside/nor-this"),
                        Side.ENTRY,
                        Pairing.View.OUTSIDE,
                        Duration.ofSeconds(7),
                        Crop.WHOLE,
                        Duration.ZERO)),
                List.of(Placing.none(Thing.of(VAULT)).name(Optional.of("Strongroom"))),
                List.of(),
                List.of(),
                Map.of(),
                List.of());
    }

    @SuppressWarnings("unchecked")
    private static List<String> lines(SetupPreview preview) {
        return onFx(() -> List.copyOf(preview.getChildren().stream()
                .filter(ListView.class::isInstance)
                .map(n -> (ListView<String>) n)
                .findFirst()
                .orElseThrow()
                .getItems()));
    }

    private static Button button(SetupPreview preview, String words) {
        return onFx(() -> preview.getChildrenUnmodifiable().stream()
                .filter(javafx.scene.layout.HBox.class::isInstance)
                .flatMap(n -> ((javafx.scene.layout.HBox) n).getChildren().stream())
                .map(Button.class::cast)
                .filter(b -> b.getText().equals(words))
                .findFirst()
                .orElseThrow());
    }

    @Test
    void it_says_what_would_change_and_does_it_when_told_to() throws IOException {
        hand.setup.whole = whole("link-protocol");
        SetupPreview preview = preview();
        assertThat(lines(preview))
                .hasSize(3)
                .anySatisfy(l -> assertThat(l).contains("Tidewater", "token"))
                .anySatisfy(l -> assertThat(l).contains("tidewater/not-there-yet with quayside/nor-this"))
                .anySatisfy(l -> assertThat(l).contains("Strongroom"));
        assertThat(hand.setup.allPairs()).isEmpty();
        onFx(() -> button(preview, "Do it").fire());
        Patience.await().until(() -> closed.get() == 1);
        assertThat(hand.setup.allPairs()).hasSize(1);
        assertThat(hand.setup.all()).hasSize(1);
        // The same again has nothing to do.
        SetupPreview again = preview();
        assertThat(onFx(() -> button(again, "Do it").isDisabled())).isTrue();
    }

    @Test
    void what_cannot_be_taken_stands_first_with_its_reason() throws IOException {
        hand.setup.whole = whole("telepathy");
        SetupPreview preview = preview();
        assertThat(lines(preview).get(0)).contains("Tidewater", "telepathy");
        onFx(() -> button(preview, "Leave it").fire());
        assertThat(closed.get()).isEqualTo(1);
        assertThat(hand.setup.all()).isEmpty();
    }

    @Test
    void what_somebody_changed_meanwhile_is_said_and_it_can_be_tried_again() throws IOException {
        hand.setup.whole = whole("link-protocol");
        SetupPreview preview = preview();
        hand.devices.place(
                List.of(new org.custodia.core.setup.DeviceBook.PlacingEdit(
                        Placing.none(Thing.of(VAULT)).name(Optional.of("Safe")), 0)),
                hand.desk.services().actor(),
                List.of());
        onFx(() -> button(preview, "Do it").fire());
        Patience.await().until(() -> onFx(() -> !button(preview, "Do it").isDisabled()));
        assertThat(closed.get()).isZero();
        assertThat(hand.setup.allPairs()).isEmpty();
    }
}
