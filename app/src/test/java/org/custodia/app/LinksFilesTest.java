package org.custodia.app;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.net.URI;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.time.ZoneId;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.Translation;
import org.custodia.core.setup.LinkSetup;
import org.custodia.core.setup.SetupException;
import org.custodia.core.setup.WholeSetup;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.Crop;
import org.custodia.core.site.DeviceId;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Lookout;
import org.custodia.core.site.Pairing;
import org.custodia.core.site.Placing;
import org.custodia.core.site.Side;
import org.custodia.core.site.Site;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SystemId;
import org.custodia.core.site.Thing;
import org.custodia.core.site.Walk;
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

    private LinksFileForm.Content read(String links, String pairings) throws IOException {
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
        LinksFileForm.Content links = read(LINK, PAIRING);
        assertThat(links.setup().name()).isEqualTo("Sternwick Museum");
        assertThat(links.setup().links()).hasSize(1);
        Pairing pairing = links.setup().pairs().get(0);
        assertThat(pairing.side()).isEqualTo(Side.ENTRY);
        assertThat(pairing.view()).isEqualTo(Pairing.View.OUTSIDE);
        assertThat(pairing.leadIn()).isEqualTo(Pairing.DEFAULT_LEAD_IN);
        assertThat(pairing.face()).isEqualTo(Crop.WHOLE);
        assertThat(pairing.faceAfter()).isZero();
        Pairing coming = read(LINK, PAIRING.replace(",'leadInSeconds':10", ",'faceAfterMillis':2900"))
                .setup()
                .pairs()
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
                        true)
                .certificate(Optional.of("ab".repeat(32)));
        LinkSetup other = new LinkSetup(
                "quayside",
                "recorder",
                "link-protocol",
                "Quayside",
                URI.create("http://sternwick.example/recorder/"),
                true,
                false,
                Optional.empty(),
                Duration.ofMillis(700));
        Pairing pair = new Pairing(
                new DoorId("tidewater/vault"),
                new CameraId("quayside/vault-outside"),
                Side.EXIT,
                Pairing.View.INSIDE,
                Duration.ofSeconds(7),
                new Crop(0.25, 0.1, 0.5, 0.5),
                Duration.ofMillis(2_900));
        WholeSetup whole = new WholeSetup(
                "Sternwick Museum",
                List.of(link, other),
                List.of(new Site(new SiteId("here Boathouse"), "Boathouse", ZoneId.of("Europe/London"))),
                List.of(pair),
                List.of(
                        Placing.none(new Thing(Thing.Sort.DOOR, "tidewater/vault"))
                                .name(Optional.of("Strongroom \"1\""))
                                .site(Optional.of(new SiteId("here Boathouse")))
                                .level(Optional.of("-1"))
                                .outside(Optional.of("Ante room"))
                                .inside(Optional.of("Vault")),
                        Placing.none(new Thing(Thing.Sort.DEVICE, "tidewater/panic-1"))
                                .leftOut(true)),
                List.of(new Walk(
                        new DoorId("tidewater/vault"), new DoorId("tidewater/ante"), Duration.ofMillis(12_500))),
                List.of(
                        new Lookout(
                                new CameraId("quayside/k1"),
                                new Lookout.OfDevice(new DeviceId("tidewater/panic-1")),
                                Duration.ofSeconds(8)),
                        new Lookout(
                                new CameraId("quayside/k2"),
                                new Lookout.OfZone(new SiteId("main"), "North stair"),
                                Duration.ZERO)),
                Map.of(
                        new SystemId("tidewater"),
                        List.of(
                                new Translation.Rule(
                                        Optional.of("odd.knock"),
                                        Optional.of("17"),
                                        Kinds.of("door.forced"),
                                        Optional.of("wind")),
                                new Translation.Rule(
                                        Optional.of("odd.knock"),
                                        Optional.empty(),
                                        Kinds.of("odd.tap"),
                                        Optional.empty()))),
                List.of(new DoorId("tidewater/vault")));
        Path file = directory.resolve("exported.json");
        Files.write(file, new LinksFileForm().write(whole));
        assertThat(Files.readString(file)).doesNotContain("token");
        LinksFileForm.Content read = LinksFiles.read(file);
        assertThat(read.setup()).isEqualTo(whole);
        assertThat(new LinksFileForm().read(Files.readAllBytes(file))).isEqualTo(whole);
        assertThat(read.tokens()).isEmpty();
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
        assertThat(read(LINK, PAIRING + more).setup().watch()).containsExactly(new DoorId("tidewater/vault"));
        assertThat(read(LINK, PAIRING).setup().watch()).isEmpty();
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
    void what_else_was_set_up_and_makes_no_sense_is_said() throws IOException {
        String more = "],'%s':[%s";
        refused(
                LINK,
                more.formatted("placings", "{'thing':'vault'}"),
                "placings cannot be: a thing is written as door");
        refused(LINK, more.formatted("placings", "{'name':'Vault'}"), "placings cannot be");
        refused(
                LINK,
                more.formatted("placings", "{'thing':'door tidewater/a'},{'thing':'door tidewater/a'}"),
                "there twice: door tidewater/a");
        refused(LINK, more.formatted("placings", "{'thing':'door tidewater/a','rooms':1}"), "a key \"rooms\"");
        refused(
                LINK,
                more.formatted("neighbours", "{'first':'tidewater/a','second':'tidewater/a','seconds':3}"),
                "a door is not its own neighbour");
        refused(
                LINK,
                more.formatted("neighbours", "{'first':'tidewater/a','second':'tidewater/b','seconds':1e300}"),
                "half an hour");
        refused(LINK, more.formatted("neighbours", "{'first':'tidewater/a','seconds':3}"), "neighbours cannot be");
        refused(
                LINK,
                more.formatted("sites", "{'id':'here x','name':'X','timeZone':'Sternwick/Time'}"),
                "sites cannot be");
        refused(LINK, more.formatted("sites", "null"), "one of its sites is empty");
        refused(
                LINK,
                more.formatted("lookouts", "{'camera':'quayside/k','device':'tidewater/d','site':'m','zone':'z'}"),
                "a camera shows a device, or a zone");
        refused(LINK, more.formatted("lookouts", "{'camera':'quayside/k'}"), "a camera shows a device, or a zone");
        refused(
                LINK,
                more.formatted("lookouts", "{'camera':'quayside/k','device':'tidewater/d','leadInSeconds':-1}"),
                "lead-in");
        refused(LINK, more.formatted("meanings", "{'system':'tidewater','kind':'x'}"), "meanings cannot be");
        refused(LINK, more.formatted("meanings", "{'system':'tidewater','kind':'x','means':''}"), "meanings cannot be");
        refused(
                LINK,
                more.formatted("meanings", "{'system':'tidewater','kind':'x','means':'operator.set-up'}"),
                "Custodia's own");
        refused(LINK.replace("'hush-hush'", "'hush-hush','clockLimitSeconds':-3"), "", "clockLimitSeconds");
        // In the window the same is said as words for people, and without what was to be kept.
        assertThatThrownBy(() -> new LinksFileForm().read("{\"links\":[{}]}".getBytes(StandardCharsets.UTF_8)))
                .isInstanceOf(SetupException.class);
        assertThatThrownBy(() -> new LinksFileForm().read(new byte[] {(byte) 0xff, (byte) 0xfe}))
                .isInstanceOf(SetupException.class);
        assertThatThrownBy(() -> new LinksFileForm().read(new byte[LinksFileForm.LARGEST + 1]))
                .isInstanceOf(SetupException.class);
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
