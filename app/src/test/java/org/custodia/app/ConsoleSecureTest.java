package org.custodia.app;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.net.URI;
import java.util.Optional;
import org.custodia.core.link.LinkStatus;
import org.custodia.core.saying.Says;
import org.custodia.core.setup.Connections;
import org.custodia.core.setup.LinkBook;
import org.custodia.core.setup.LinkSetup;
import org.custodia.core.setup.SetupException;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** Systems by https whose certificate nobody vouches for: confirmed once, and refused when it is another. */
class ConsoleSecureTest extends ConsoleFixture {
    private static final String TOKEN = "rig-token";

    @Override
    @BeforeEach
    void open() {
        rig = new Rig(directory, true);
        rig.hub = new Hub(rig.data, Optional.empty(), Optional.empty(), rig.clock, Rig.OPERATOR);
        rig.hub.connect(Optional.empty(), s -> {});
    }

    @Override
    @AfterEach
    void close() {
        if (console != null) {
            console.close();
        }
        rig.close();
    }

    private URI address() {
        return rig.site.secureAddress().orElseThrow().resolve("/access/tidewater/");
    }

    private LinkSetup link(Optional<String> certificate) {
        return new LinkSetup("tidewater", "access", "link-protocol", "Tidewater", address(), false, false)
                .certificate(certificate);
    }

    private LinkBook.Kept kept() {
        return rig.hub.setup().links(Rig.OPERATOR).get(0);
    }

    private Optional<String> problem() {
        return rig.link("tidewater").problem().map(s -> s.code());
    }

    private Connections.Shown shown(URI where) {
        return rig.hub
                .setup()
                .certificate(new LinkSetup("", "access", "link-protocol", "", where, false, false), Rig.OPERATOR);
    }

    @Test
    void one_that_nobody_vouches_for_is_connected_to_once_it_is_confirmed_and_no_more_when_it_is_another() {
        Connections.Shown shown = shown(address());
        assertThat(shown.vouchedFor()).isFalse();
        assertThat(shown.fingerprint()).matches("[0-9a-f]{64}");
        assertThat(shown.subject()).isEqualTo("CN=Sternwick practice site");
        rig.hub.setup().add(link(Optional.empty()), TOKEN, Rig.OPERATOR);
        Rig.await().until(() -> problem().equals(Optional.of("link.certificate-unknown")));
        change(link(Optional.of(shown.fingerprint())));
        Rig.await().until(() -> rig.link("tidewater").state() == LinkStatus.State.UP);
        change(link(Optional.of("0".repeat(64))));
        Rig.await().until(() -> problem().equals(Optional.of("link.certificate-changed")));
        change(link(Optional.of(shown.fingerprint())));
        Rig.await().until(() -> rig.link("tidewater").state() == LinkStatus.State.UP);
        rig.hub.close();
        rig.hub = new Hub(rig.data, Optional.empty(), Optional.empty(), rig.clock, Rig.OPERATOR);
        rig.hub.connect(Optional.empty(), s -> {});
        assertThat(kept().link().certificate()).contains(shown.fingerprint());
        Rig.await().until(() -> rig.link("tidewater").state() == LinkStatus.State.UP);
    }

    private void change(LinkSetup link) {
        // The token is for who has the certificate that it was given for.
        says("setup.token-again", () -> rig.hub.setup().change(link, Optional.empty(), kept().version(), Rig.OPERATOR));
        rig.hub.setup().change(link, Optional.of(TOKEN), kept().version(), Rig.OPERATOR);
    }

    @Test
    void what_is_no_https_or_nobody_has_no_certificate_and_a_fingerprint_is_one_or_is_refused() {
        URI open = URI.create("https://127.0.0.1:" + rig.site.address().getPort() + "/");
        says("link.not-secure", () -> shown(open));
        says("link.nobody-there", () -> shown(URI.create("https://127.0.0.1:1/")));
        says("setup.certificate-odd", () -> rig.hub.setup().add(link(Optional.of("AB:CD")), TOKEN, Rig.OPERATOR));
    }

    private static void says(String code, org.assertj.core.api.ThrowableAssert.ThrowingCallable what) {
        assertThatThrownBy(what).isInstanceOfSatisfying(SetupException.class, e -> assertThat(
                        ((Says) e).saying().code())
                .isEqualTo(code));
    }

    @Test
    void in_the_window_the_fingerprint_is_shown_and_confirmed_before_anything_is_sent() {
        console = new Console(rig.hub, "Sternwick Museum", true, Rig.OPERATOR);
        window = console.window();
        setup("Links");
        press("Connect to a system…");
        type("Address", address().toString());
        type("Token", TOKEN);
        press("Try it");
        String written = Connections.Shown.written(shown(address()).fingerprint());
        Rig.await().until(() -> shows(".link-editor .label", written.substring(0, 47)));
        assertThat(shows(".link-editor .label", "Nothing was sent to it.")).isTrue();
        press("It is the right one");
        Rig.await().until(() -> shows(".link-editor .said", "All well"));
        press("Save");
        Rig.await().until(() -> rig.hub.links().size() == 1);
        Rig.await().until(() -> rig.link("tidewater").state() == LinkStatus.State.UP);
    }
}
