package org.custodia.app;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.net.URI;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.List;
import java.util.Optional;
import org.custodia.core.setup.LinkSetup;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.Crop;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Pairing;
import org.custodia.core.site.Side;
import org.custodia.wire.LinksFile;
import org.custodia.wire.LinksFileForm;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

class LinksFilesTest {
    private static final String LINK =
            "{'kind':'access','id':'tidewater','name':'Tidewater','address':'http://127.0.0.1:9/access/tidewater/','token':'hush-hush'}";
    private static final String PAIRING =
            "{'door':'tidewater/vault','camera':'quayside/vault-outside','side':'entry','view':'outside','leadInSeconds':10}";

    @TempDir
    Path directory;

    private LinksFile read(String links, String pairings) throws IOException {
        Path file = directory.resolve("links.json");
        Files.writeString(
                file,
                ("{'site':'Sternwick Museum','links':[" + links + "],'pairings':[" + pairings + "]}")
                        .replace('\'', '"'));
        return LinksFiles.read(file);
    }

    private void refused(String links, String pairings, String words) {
        assertThatThrownBy(() -> read(links, pairings))
                .isInstanceOf(Main.CannotStartException.class)
                .hasMessageContaining("links.json")
                .hasMessageContaining(words)
                .satisfies(e -> assertThat(e.getMessage()).doesNotContain("hush-hush"));
    }

    @Test
    void a_good_file_is_read() throws IOException {
        LinksFile links = read(LINK, PAIRING);
        assertThat(links.site()).isEqualTo("Sternwick Museum");
        assertThat(links.links()).hasSize(1);
        Pairing pairing = LinksFiles.pairings(links).get(0);
        assertThat(pairing.side()).isEqualTo(Side.ENTRY);
        assertThat(pairing.view()).isEqualTo(Pairing.View.OUTSIDE);
        assertThat(pairing.leadIn()).isEqualTo(Pairing.DEFAULT_LEAD_IN);
        assertThat(pairing.face()).isEqualTo(Crop.WHOLE);
        assertThat(pairing.faceAfter()).isZero();
        Pairing coming = LinksFiles.pairings(
                        read(LINK, PAIRING.replace(",'leadInSeconds':10", ",'faceAfterMillis':2900")))
                .get(0);
        assertThat(coming.leadIn()).isEqualTo(Pairing.DEFAULT_LEAD_IN);
        assertThat(coming.faceAfter()).hasMillis(2_900);
    }

    @Test
    void what_was_exported_is_read_again_and_has_no_tokens() throws IOException {
        LinkSetup link = new LinkSetup(
                        "tidewater",
                        "access",
                        "link-protocol",
                        "Tidewater \"A\"",
                        URI.create("https://sternwick.example/access/"),
                        false,
                        false)
                .certificate(Optional.of("ab".repeat(32)));
        Pairing pair = new Pairing(
                new DoorId("tidewater/vault"),
                new CameraId("quayside/vault-outside"),
                Side.EXIT,
                Pairing.View.INSIDE,
                Duration.ofSeconds(7),
                new Crop(0.25, 0.1, 0.5, 0.5),
                Duration.ofMillis(2_900));
        byte[] written = new LinksFileForm()
                .write("Sternwick Museum", List.of(link), List.of(pair), List.of(new DoorId("tidewater/vault")));
        Path file = directory.resolve("exported.json");
        Files.write(file, written);
        assertThat(Files.readString(file)).doesNotContain("token");
        LinksFile read = LinksFiles.read(file);
        assertThat(LinksFiles.pairings(read)).containsExactly(pair);
        assertThat(LinksFiles.watch(read)).containsExactly(new DoorId("tidewater/vault"));
        LinkSetup again = LinksFiles.setups(read).get(0);
        assertThat(again.certificate()).isEqualTo(link.certificate());
        assertThat(again.address()).isEqualTo(link.address());
        assertThat(again.name()).isEqualTo(link.name());
        assertThat(LinksFiles.tokens(read)).isEmpty();
        assertThatThrownBy(() -> LinksFiles.readWithTokens(file))
                .isInstanceOf(Main.CannotStartException.class)
                .hasMessageContaining("no token for the link \"tidewater\"");
    }

    @Test
    void a_link_that_cannot_be_made_is_named() {
        refused(LINK + "," + LINK, "", "\"tidewater\" is there twice");
        refused(LINK.replace("'access',", "'telepathy',"), "", "access or recorder, not telepathy");
        refused(LINK.replace("'tidewater',", "'',"), "", "a link has no id");
        refused(LINK.replace("'hush-hush'", "''"), "", "has an empty token");
        refused(LINK.replace("'hush-hush'", "'hush-hush','certificate':'AB:CD'"), "", "no SHA-256 fingerprint");
        refused(LINK.replace("http://127.0.0.1:9/", "file:///etc/"), "", "begins with http://");
        refused(LINK.replace("'Tidewater'", "null"), "", "has no name");
        refused("", "", "its list of links is empty");
        refused(LINK.replace("'tidewater'", "'custodia'"), "", "Custodia's own name");
        refused(LINK.replace("'tidewater'", "'a/b'"), "", "a slash");
        refused(LINK.replace("hush-hush", "hush\\u0007hush"), "", "a control character");
        refused(LINK.replace("hush-hush", "hush hush"), "", "a blank");
        refused(LINK.replace("'token'", "'pasword':'x','token'"), "", "a key \"pasword\" that nobody knows");
        refused(LINK, PAIRING.replace("'side'", "'sides':1,'side'"), "a key \"sides\" that nobody knows");
        refused(LINK, PAIRING + "],'link':[", "the file has a key \"link\" that nobody knows");
        refused("null", "", "one of its links is empty");
    }

    @Test
    void doors_to_watch_are_named_by_system_and_door() throws IOException {
        String more = "],'watch':['tidewater/vault'";
        assertThat(LinksFiles.watch(read(LINK, PAIRING + more))).containsExactly(new DoorId("tidewater/vault"));
        assertThat(LinksFiles.watch(read(LINK, PAIRING))).isEmpty();
        refused(LINK, "],'watch':['vault'", "the door on watch \"vault\" is not written system/door");
        refused(LINK, "],'watch':[null", "links.json");
    }

    @Test
    void a_pairing_that_makes_no_sense_is_named() {
        refused(LINK, PAIRING.replace("'entry'", "'sideways'"), "tidewater/vault with quayside/vault-outside");
        refused(LINK, PAIRING.replace("'entry'", "'sideways'"), "but sideways");
        refused(LINK, PAIRING.replace("'outside'", "'above'"), "outside, inside or overview but above");
        refused(LINK, PAIRING.replace("tidewater/vault", "vault"), "a door as system/door");
        refused(LINK, PAIRING.replace("quayside/", ""), "a camera as recorder/camera");
        refused(LINK, PAIRING.replace(":10", ":-1"), "lead-in");
        refused(LINK, PAIRING.replace(":10", ":10,'faceAfterMillis':-1"), "faceAfterMillis");
        refused(LINK, PAIRING.replace(":10", ":10,'face':{'x':0.5}"), "without x, y, width and height");
        refused(
                LINK,
                PAIRING.replace(":10", ":10,'face':{'x':0.9,'y':0,'width':0.5,'height':1}"),
                "does not lie inside the picture");
    }

    @Test
    void what_is_no_links_file_at_all_is_said() throws IOException {
        refused("{'kind':", "", "cannot be understood");
        refused(LINK, PAIRING.replace(":10", ":'ten'"), "cannot be understood");
        Path binary = directory.resolve("binary");
        Files.write(binary, new byte[] {(byte) 0xff, (byte) 0xfe, 0, 1, (byte) 0x80});
        assertThatThrownBy(() -> LinksFiles.read(binary)).isInstanceOf(Main.CannotStartException.class);
        assertThatThrownBy(() -> LinksFiles.read(directory)).isInstanceOf(Main.CannotStartException.class);
    }
}
