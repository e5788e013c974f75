package org.custodia.app;

import java.io.IOException;
import java.net.URI;
import java.nio.charset.CharacterCodingException;
import java.nio.file.Files;
import java.nio.file.NoSuchFileException;
import java.nio.file.Path;
import java.time.Duration;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import org.custodia.core.setup.LinkSetup;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.Crop;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Pairing;
import org.custodia.core.site.Side;
import org.custodia.core.site.SystemId;
import org.custodia.link.LinkFactory;
import org.custodia.wire.Fields;
import org.custodia.wire.LinksFile;
import org.custodia.wire.Wire;
import org.custodia.wire.WireException;

/** Reads links files, and says in one sentence what is wrong with one. */
final class LinksFiles {
    private static final int LONGEST_LEAD_IN = 600;
    private static final int LONGEST_FACE_AFTER = 60_000;
    private static final long LARGEST = 4 * 1024 * 1024;
    private static final String SEE = ". docs/link-protocol.md shows one.";

    private LinksFiles() {}

    /**
     * Reads and checks a file.
     *
     * @throws Main.CannotStartException if it cannot be used; the message says why, and never holds a token
     */
    static LinksFile read(Path file) {
        String text = text(file);
        LinksFile links;
        try {
            onlyKnown(Fields.of(text));
            links = Wire.read(text, LinksFile.class);
        } catch (WireException e) {
            throw new Main.CannotStartException(
                    "The links file " + file + " cannot be understood: " + e.getMessage() + SEE);
        } catch (IllegalArgumentException e) {
            throw new Main.CannotStartException("The links file " + file + " cannot be used: " + e.getMessage() + SEE);
        }
        try {
            need(!links.links().isEmpty(), "its list of links is empty or missing, so there is nothing to connect to");
            Set<String> ids = new HashSet<>();
            links.links().forEach(l -> check(l, ids));
            pairings(links);
            watch(links);
        } catch (IllegalArgumentException e) {
            throw new Main.CannotStartException("The links file " + file + " cannot be used: " + e.getMessage() + SEE);
        }
        return links;
    }

    /**
     * The same, where all links are to be signed in to at once.
     *
     * @throws Main.CannotStartException if it cannot be used, or has no token for one of its links
     */
    static LinksFile readWithTokens(Path file) {
        LinksFile links = read(file);
        links.links().stream().filter(l -> l.token() == null).findFirst().ifPresent(l -> {
            throw new Main.CannotStartException("The links file " + file + " has no token for the link \"" + l.id()
                    + "\", as one that was exported has none" + SEE);
        });
        return links;
    }

    private static String text(Path file) {
        try {
            if (Files.size(file) > LARGEST) {
                throw new Main.CannotStartException("The links file " + file + " is far too large to be one" + SEE);
            }
            return Files.readString(file);
        } catch (NoSuchFileException e) {
            throw new Main.CannotStartException("There is no links file " + file + ". Name one with --links.");
        } catch (CharacterCodingException e) {
            throw new Main.CannotStartException("The links file " + file + " is not a text in UTF-8" + SEE);
        } catch (IOException e) {
            throw new Main.CannotStartException(
                    "The links file " + file + " cannot be read. Is it a file, and may it be read?");
        }
    }

    /** A key that nobody knows is most likely a slip of the pen, and what was meant would be missing in silence. */
    private static void onlyKnown(Fields file) {
        known(file, "the file", Set.of("site", "links", "pairings", "watch"));
        for (Fields link : file.list("links")) {
            known(
                    link,
                    "the link \"" + link.text("id").orElse("") + "\"",
                    Set.of("kind", "make", "id", "name", "address", "token", "certificate"));
        }
        for (Fields pairing : file.list("pairings")) {
            String name = "the pairing of " + pairing.text("door").orElse("nothing") + " with "
                    + pairing.text("camera").orElse("nothing");
            known(pairing, name, Set.of("door", "camera", "side", "view", "leadInSeconds", "face", "faceAfterMillis"));
        }
    }

    private static void known(Fields fields, String where, Set<String> names) {
        fields.names().stream().filter(n -> !names.contains(n)).findFirst().ifPresent(n -> {
            throw new IllegalArgumentException(where + " has a key \"" + n + "\" that nobody knows");
        });
    }

    private static void check(LinksFile.Link link, Set<String> ids) {
        need(link != null, "one of its links is empty");
        need(link.id() != null && !link.id().isBlank(), "a link has no id");
        String name = "the link \"" + link.id() + "\" ";
        need(
                !link.id().equalsIgnoreCase(SystemId.CUSTODIA.value()),
                name + "cannot be called so, since that is Custodia's own name in the log");
        need(
                LinkSetup.fitsAsId(link.id()),
                "a link has an id with a slash or a control character, or of more than " + SystemId.LONGEST
                        + " characters");
        need(ids.add(link.id()), name + "is there twice");
        need(
                LinkFactory.ALL.stream().anyMatch(f -> f.kind().equals(link.kind())),
                name + "is of kind "
                        + LinkFactory.ALL.stream()
                                .map(LinkFactory::kind)
                                .distinct()
                                .collect(Collectors.joining(" or "))
                        + ", not " + link.kind());
        need(
                LinkFactory.of(link.kind(), link.make()).isPresent(),
                name + "is of the make " + link.make() + ", which Custodia cannot connect to");
        need(link.name() != null && !link.name().isBlank(), name + "has no name");
        need(link.token() == null || !link.token().isBlank(), name + "has an empty token");
        need(
                link.token() == null || LinkSetup.fitsAsToken(link.token()),
                name + "has a token with a blank, a control character or a letter that cannot stand in a request");
        need(
                link.certificate() == null || link.certificate().matches("[0-9a-f]{64}"),
                name + "has a certificate that is no SHA-256 fingerprint of 64 hexadecimal digits");
        need(
                link.address() != null && web(link.address()),
                name + "has no address that begins with http:// or https://");
    }

    /** What connects to the system of a link that was {@linkplain #read read}. */
    static LinkFactory factory(LinksFile.Link link) {
        return LinkFactory.of(link.kind(), link.make()).orElseThrow();
    }

    static LinkFactory.Destination destination(LinksFile.Link link) {
        return new LinkFactory.Destination(
                new SystemId(link.id()),
                link.name(),
                link.address(),
                link.token(),
                Optional.ofNullable(link.certificate()));
    }

    /** What a file that was {@linkplain #read read} sets up. Whoever writes http there has allowed that. */
    static List<LinkSetup> setups(LinksFile links) {
        return links.links().stream()
                .map(l -> new LinkSetup(l.id(), l.kind(), l.make(), l.name(), l.address(), false, true)
                        .certificate(Optional.ofNullable(l.certificate())))
                .toList();
    }

    /** With what to sign in, by the systems' ids; not for those of which the file does not say. */
    static Map<String, String> tokens(LinksFile links) {
        return links.links().stream()
                .filter(l -> l.token() != null)
                .collect(Collectors.toMap(LinksFile.Link::id, LinksFile.Link::token));
    }

    private static boolean web(URI address) {
        return address.getHost() != null && Set.of("http", "https").contains(String.valueOf(address.getScheme()));
    }

    private static void need(boolean fine, String otherwise) {
        if (!fine) {
            throw new IllegalArgumentException(otherwise);
        }
    }

    /**
     * Which cameras look at which doors.
     *
     * @throws IllegalArgumentException if that makes no sense; the message says where
     */
    static List<Pairing> pairings(LinksFile links) {
        return links.pairings().stream().map(LinksFiles::pairing).toList();
    }

    private static Pairing pairing(LinksFile.WirePairing p) {
        need(p != null, "one of its pairings is empty");
        String name = "the pairing of " + p.door() + " with " + p.camera() + " ";
        need(p.door() != null && p.door().contains("/"), name + "needs a door as system/door");
        need(p.camera() != null && p.camera().contains("/"), name + "needs a camera as recorder/camera");
        need(
                p.leadInSeconds() >= 0 && p.leadInSeconds() <= LONGEST_LEAD_IN,
                name + "has a lead-in that is not within 0 to " + LONGEST_LEAD_IN + " seconds");
        need(
                p.faceAfterMillis() >= 0 && p.faceAfterMillis() <= LONGEST_FACE_AFTER,
                name + "has a faceAfterMillis that is not within 0 to " + LONGEST_FACE_AFTER);
        return new Pairing(
                new DoorId(p.door()),
                new CameraId(p.camera()),
                word(Side.class, p.side(), name + "has a side that is not entry or exit"),
                word(Pairing.View.class, p.view(), name + "has a view that is not outside, inside or overview"),
                Duration.ofSeconds(p.leadInSeconds()),
                face(p.face(), name),
                Duration.ofMillis(p.faceAfterMillis()));
    }

    /**
     * Doors to have on watch at first.
     *
     * @throws IllegalArgumentException if one is not a door's name; the message says which
     */
    static List<DoorId> watch(LinksFile links) {
        return links.watch().stream()
                .peek(door -> need(
                        door != null && door.contains("/"),
                        "the door on watch \"" + door + "\" is not written system/door"))
                .map(DoorId::new)
                .toList();
    }

    private static Crop face(Map<String, Double> f, String name) {
        if (f == null || f.isEmpty()) {
            return Crop.WHOLE;
        }
        need(
                f.keySet().containsAll(Set.of("x", "y", "width", "height")) && !f.containsValue(null),
                name + "has a face without x, y, width and height");
        try {
            return new Crop(f.get("x"), f.get("y"), f.get("width"), f.get("height"));
        } catch (IllegalArgumentException e) {
            throw new IllegalArgumentException(name + "has a face that does not lie inside the picture", e);
        }
    }

    private static <E extends Enum<E>> E word(Class<E> type, String word, String otherwise) {
        try {
            return Enum.valueOf(type, String.valueOf(word).toUpperCase(Locale.ROOT));
        } catch (IllegalArgumentException e) {
            throw new IllegalArgumentException(otherwise + " but " + word, e);
        }
    }
}
