package org.custodia.app;

import java.io.IOException;
import java.net.URI;
import java.nio.file.Files;
import java.nio.file.NoSuchFileException;
import java.nio.file.Path;
import java.time.Duration;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.Crop;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Pairing;
import org.custodia.core.site.Side;
import org.custodia.core.site.SystemId;
import org.custodia.wire.LinksFile;
import org.custodia.wire.Wire;
import org.custodia.wire.WireException;

/** Reads links files, and says in one sentence what is wrong with one. */
final class LinksFiles {
    private static final int LONGEST_LEAD_IN = 600;
    private static final int LONGEST_FACE_AFTER = 60_000;
    private static final String SEE = ". docs/link-protocol.md shows one.";

    private LinksFiles() {}

    /**
     * Reads and checks a file.
     *
     * @throws Main.CannotStartException if it cannot be used; the message says why, and never holds a token
     */
    static LinksFile read(Path file) {
        LinksFile links;
        try {
            links = Wire.read(Files.readString(file), LinksFile.class);
        } catch (NoSuchFileException e) {
            throw new Main.CannotStartException("There is no links file " + file + ". Name one with --links.");
        } catch (IOException e) {
            throw new Main.CannotStartException("The links file " + file + " cannot be read: " + e.getMessage());
        } catch (WireException e) {
            throw new Main.CannotStartException(
                    "The links file " + file + " cannot be understood: " + e.getMessage() + SEE);
        }
        try {
            Set<String> ids = new HashSet<>();
            links.links().forEach(l -> check(l, ids));
            pairings(links);
            watch(links);
        } catch (IllegalArgumentException e) {
            throw new Main.CannotStartException("The links file " + file + " cannot be used: " + e.getMessage() + SEE);
        }
        return links;
    }

    private static void check(LinksFile.Link link, Set<String> ids) {
        String name = "the link \"" + link.id() + "\" ";
        need(link.id() != null && !link.id().isBlank(), "a link has no id");
        new SystemId(link.id());
        need(ids.add(link.id()), name + "is there twice");
        need(
                "access".equals(link.kind()) || "recorder".equals(link.kind()),
                name + "is of kind access or recorder, not " + link.kind());
        need(link.name() != null && !link.name().isBlank(), name + "has no name");
        need(link.token() != null && !link.token().isBlank(), name + "has no token");
        need(
                link.address() != null && web(link.address()),
                name + "has no address that begins with http:// or https://");
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
                .peek(door -> need(door.contains("/"), "the door on watch \"" + door + "\" is not written system/door"))
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
