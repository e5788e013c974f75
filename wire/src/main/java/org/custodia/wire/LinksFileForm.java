package org.custodia.wire;

import com.fasterxml.jackson.core.JsonProcessingException;
import java.net.URI;
import java.nio.ByteBuffer;
import java.nio.charset.CharacterCodingException;
import java.nio.charset.StandardCharsets;
import java.time.DateTimeException;
import java.time.Duration;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.Translation;
import org.custodia.core.saying.Saying;
import org.custodia.core.setup.LinkSetup;
import org.custodia.core.setup.SetupException;
import org.custodia.core.setup.SetupSheets;
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

/** A whole setup as a links file. Tokens are not written into it: they are entered where it is used. */
public final class LinksFileForm implements SetupSheets {
    /** Bytes; more is no links file. */
    public static final int LARGEST = 4 * 1024 * 1024;

    private static final int LONGEST_LEAD_IN = 600;
    private static final int LONGEST_FACE_AFTER = 60_000;

    private static final Map<String, Set<String>> KEYS = Map.of(
            "links",
            Set.of(
                    "kind",
                    "make",
                    "id",
                    "name",
                    "address",
                    "token",
                    "certificate",
                    "openAllowed",
                    "paused",
                    "clockLimitSeconds"),
            "pairings",
            Set.of("door", "camera", "side", "view", "leadInSeconds", "face", "faceAfterMillis"),
            "sites",
            Set.of("id", "name", "timeZone"),
            "placings",
            Set.of("thing", "leftOut", "name", "site", "level", "outside", "inside"),
            "neighbours",
            Set.of("first", "second", "seconds"),
            "lookouts",
            Set.of("camera", "device", "site", "zone", "leadInSeconds"),
            "meanings",
            Set.of("system", "kind", "code", "means", "reason"));

    // ---- Writing

    @Override
    public byte[] write(WholeSetup setup) {
        List<LinksFile.WireMeaning> meanings = new ArrayList<>();
        setup.meanings()
                .forEach((system, rules) -> rules.forEach(r -> meanings.add(new LinksFile.WireMeaning(
                        system.value(),
                        r.sentKind().orElse(null),
                        r.code().orElse(null),
                        r.kind().id(),
                        r.reason().orElse(null)))));
        LinksFile file = new LinksFile(
                setup.name(),
                setup.links().stream().map(LinksFileForm::link).toList(),
                setup.pairs().stream().map(LinksFileForm::pairing).toList(),
                setup.watch().stream().map(DoorId::value).toList(),
                setup.sites().stream()
                        .map(s -> new LinksFile.WireSite(
                                s.id().value(), s.name(), s.timeZone().getId()))
                        .toList(),
                setup.placings().stream().map(LinksFileForm::placing).toList(),
                setup.neighbours().stream()
                        .map(w -> new LinksFile.WireNeighbours(
                                w.first().value(), w.second().value(), seconds(w.takes())))
                        .toList(),
                setup.lookouts().stream().map(LinksFileForm::lookout).toList(),
                meanings);
        try {
            return Wire.mapper().writerWithDefaultPrettyPrinter().writeValueAsBytes(file);
        } catch (JsonProcessingException e) {
            throw new IllegalStateException("a links file of records can be written", e);
        }
    }

    private static double seconds(Duration d) {
        return d.toMillis() / 1_000.0;
    }

    private static LinksFile.Link link(LinkSetup l) {
        return new LinksFile.Link(
                l.kind(),
                l.make(),
                l.id(),
                l.name(),
                l.address(),
                null,
                l.certificate().orElse(null),
                "http".equals(l.address().getScheme()) ? l.openAllowed() : null,
                l.paused() ? true : null,
                l.clockLimit().equals(LinkSetup.CLOCK_LIMIT) ? null : seconds(l.clockLimit()));
    }

    private static LinksFile.WirePairing pairing(Pairing p) {
        Map<String, Double> face = null;
        if (!p.face().equals(Crop.WHOLE)) {
            face = new LinkedHashMap<>();
            face.put("x", p.face().x());
            face.put("y", p.face().y());
            face.put("width", p.face().width());
            face.put("height", p.face().height());
        }
        return new LinksFile.WirePairing(
                p.door().value(),
                p.camera().value(),
                p.side().name().toLowerCase(Locale.ROOT),
                p.view().name().toLowerCase(Locale.ROOT),
                (int) Math.round(p.leadIn().toMillis() / 1_000.0),
                face,
                (int) p.faceAfter().toMillis());
    }

    private static LinksFile.WirePlacing placing(Placing p) {
        return new LinksFile.WirePlacing(
                p.thing().toString(),
                p.leftOut() ? true : null,
                p.name().orElse(null),
                p.site().map(SiteId::value).orElse(null),
                p.level().orElse(null),
                p.outside().orElse(null),
                p.inside().orElse(null));
    }

    private static LinksFile.WireLookout lookout(Lookout l) {
        if (l.of() instanceof Lookout.OfZone zone) {
            return new LinksFile.WireLookout(
                    l.camera().value(), null, zone.site().value(), zone.zone(), seconds(l.leadIn()));
        }
        return new LinksFile.WireLookout(
                l.camera().value(), ((Lookout.OfDevice) l.of()).device().value(), null, null, seconds(l.leadIn()));
    }

    // ---- Reading

    /**
     * A file that was read.
     *
     * @param tokens with what to sign in, by the systems' ids; not for those of which the file does not say
     */
    public record Content(WholeSetup setup, Map<String, String> tokens) {
        @Override
        public String toString() {
            return "links file of " + setup.links().size() + " links";
        }
    }

    @Override
    public WholeSetup read(byte[] sheet) {
        if (sheet.length > LARGEST) {
            throw odd("it is far too large to be one");
        }
        try {
            String text = StandardCharsets.UTF_8
                    .newDecoder()
                    .decode(ByteBuffer.wrap(sheet))
                    .toString();
            return read(text).setup();
        } catch (CharacterCodingException e) {
            throw odd("it is not a text in UTF-8");
        } catch (WireException | IllegalArgumentException e) {
            throw odd(e.getMessage());
        }
    }

    private static SetupException odd(String why) {
        return new SetupException(Saying.of("setup.file-odd", why));
    }

    /**
     * Reads a file and checks that all it says can be. Whether there is anything that speaks with a make is not looked at.
     *
     * @throws WireException if it is no JSON of that shape; the message says where, without the content
     * @throws IllegalArgumentException if it says what cannot be; the message says where, and never holds a token
     */
    public Content read(String text) {
        onlyKnown(Fields.of(text));
        return content(Wire.read(text, LinksFile.class));
    }

    /**
     * What a file says.
     *
     * @throws IllegalArgumentException if that cannot be; the message says where, and never holds a token
     */
    public Content content(LinksFile file) {
        Set<String> ids = new HashSet<>();
        file.links().forEach(l -> check(l, ids));
        Map<String, String> tokens = new LinkedHashMap<>();
        file.links().stream().filter(l -> l.token() != null).forEach(l -> tokens.put(l.id(), l.token()));
        Map<SystemId, List<Translation.Rule>> meanings = new LinkedHashMap<>();
        for (LinksFile.WireMeaning meaning : file.meanings()) {
            Map.Entry<SystemId, Translation.Rule> one = one(meaning, "meanings", LinksFileForm::meaning);
            meanings.computeIfAbsent(one.getKey(), s -> new ArrayList<>()).add(one.getValue());
        }
        meanings.forEach((system, rules) -> need(
                rules.size() <= Translation.MOST_RULES,
                "it says more than " + Translation.MOST_RULES + " meanings for \"" + system + "\""));
        return new Content(
                new WholeSetup(
                        file.site() == null || file.site().isBlank() ? "Custodia" : file.site(),
                        file.links().stream().map(LinksFileForm::setup).toList(),
                        all(file.sites(), "sites", LinksFileForm::site, s -> s.id().value()),
                        file.pairings().stream().map(LinksFileForm::pairing).toList(),
                        all(file.placings(), "placings", LinksFileForm::placing, p -> p.thing()
                                .toString()),
                        all(file.neighbours(), "neighbours", LinksFileForm::neighbours, Walk::key),
                        all(file.lookouts(), "lookouts", LinksFileForm::lookout, Lookout::key),
                        meanings,
                        watch(file)),
                tokens);
    }

    /** A key that nobody knows is most likely a slip of the pen, and what was meant would be missing in silence. */
    private static void onlyKnown(Fields file) {
        Set<String> top = new HashSet<>(KEYS.keySet());
        top.add("site");
        top.add("watch");
        known(file, "the file", top);
        KEYS.forEach((list, names) -> {
            for (Fields one : file.list(list)) {
                known(one, named(list, one), names);
            }
        });
    }

    private static String named(String list, Fields one) {
        return switch (list) {
            case "links" -> "the link \"" + one.text("id").orElse("") + "\"";
            case "pairings" ->
                "the pairing of " + one.text("door").orElse("nothing") + " with "
                        + one.text("camera").orElse("nothing");
            default -> "one of its " + list;
        };
    }

    private static void known(Fields fields, String where, Set<String> names) {
        fields.names().stream().filter(n -> !names.contains(n)).findFirst().ifPresent(n -> {
            throw new IllegalArgumentException(where + " has a key \"" + n + "\" that nobody knows");
        });
    }

    private static void need(boolean fine, String otherwise) {
        if (!fine) {
            throw new IllegalArgumentException(otherwise);
        }
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
        need(
                link.clockLimitSeconds() == null || within(link.clockLimitSeconds(), LinkSetup.MOST_CLOCK_LIMIT),
                name + "has a clockLimitSeconds that is not within 0 to " + LinkSetup.MOST_CLOCK_LIMIT.toSeconds());
    }

    private static boolean within(Double seconds, Duration most) {
        return seconds != null && seconds >= 0 && seconds <= most.toSeconds();
    }

    private static boolean web(URI address) {
        return address.getHost() != null && Set.of("http", "https").contains(String.valueOf(address.getScheme()));
    }

    private static LinkSetup setup(LinksFile.Link l) {
        return new LinkSetup(
                l.id(),
                l.kind(),
                l.make(),
                l.name(),
                l.address(),
                Boolean.TRUE.equals(l.paused()),
                !Boolean.FALSE.equals(l.openAllowed()),
                Optional.ofNullable(l.certificate()),
                Optional.ofNullable(l.clockLimitSeconds())
                        .map(LinksFileForm::duration)
                        .orElse(LinkSetup.CLOCK_LIMIT));
    }

    private static Duration duration(double seconds) {
        return Duration.ofMillis(Math.round(seconds * 1_000));
    }

    /** Reads one; what cannot be says where it stands. */
    private static <W, T> T one(W wire, String list, Function<W, T> read) {
        need(wire != null, "one of its " + list + " is empty");
        try {
            return read.apply(wire);
        } catch (IllegalArgumentException | DateTimeException | NullPointerException e) {
            String why = e instanceof NullPointerException ? "something is missing in it" : e.getMessage();
            throw new IllegalArgumentException("one of its " + list + " cannot be: " + why, e);
        }
    }

    private static <W, T> List<T> all(List<W> wires, String list, Function<W, T> read, Function<T, String> key) {
        List<T> all = new ArrayList<>();
        Set<String> keys = new HashSet<>();
        for (W wire : wires) {
            T it = one(wire, list, read);
            need(keys.add(key.apply(it)), "one of its " + list + " is there twice: " + key.apply(it));
            all.add(it);
        }
        return all;
    }

    private static Site site(LinksFile.WireSite s) {
        need(words(s.name()), "a site needs a name");
        return new Site(new SiteId(s.id()), s.name(), ZoneId.of(s.timeZone()));
    }

    private static boolean words(String text) {
        return text != null
                && !text.isBlank()
                && text.length() <= Placing.LONGEST
                && text.chars().noneMatch(Character::isISOControl);
    }

    private static Placing placing(LinksFile.WirePlacing p) {
        Thing thing = Thing.parse(p.thing())
                .orElseThrow(() -> new IllegalArgumentException(
                        "a thing is written as door, camera or device, a blank, and system/id"));
        return new Placing(
                thing,
                Boolean.TRUE.equals(p.leftOut()),
                Optional.ofNullable(p.name()),
                Optional.ofNullable(p.site()).map(SiteId::new),
                Optional.ofNullable(p.level()),
                Optional.ofNullable(p.outside()),
                Optional.ofNullable(p.inside()));
    }

    private static Walk neighbours(LinksFile.WireNeighbours n) {
        need(within(n.seconds(), Walk.MOST), "a walk takes from nothing to half an hour");
        return new Walk(new DoorId(n.first()), new DoorId(n.second()), duration(n.seconds()));
    }

    private static Lookout lookout(LinksFile.WireLookout l) {
        need(
                l.device() == null != (l.site() == null || l.zone() == null),
                "a camera shows a device, or a zone of a site");
        Lookout.Subject of = l.device() != null
                ? new Lookout.OfDevice(new DeviceId(l.device()))
                : new Lookout.OfZone(new SiteId(l.site()), l.zone());
        need(
                l.leadInSeconds() == null || within(l.leadInSeconds(), Lookout.MOST_LEAD),
                "a lead-in is from nothing to two minutes");
        return new Lookout(
                new CameraId(l.camera()),
                of,
                Optional.ofNullable(l.leadInSeconds())
                        .map(LinksFileForm::duration)
                        .orElse(Pairing.DEFAULT_LEAD_IN));
    }

    private static Map.Entry<SystemId, Translation.Rule> meaning(LinksFile.WireMeaning m) {
        need(m.reason() == null || words(m.reason()), "a reason is not empty and has no control characters");
        return Map.entry(
                new SystemId(m.system()),
                new Translation.Rule(
                        Optional.ofNullable(m.kind()),
                        Optional.ofNullable(m.code()),
                        Kinds.of(m.means()),
                        Optional.ofNullable(m.reason())));
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

    private static List<DoorId> watch(LinksFile file) {
        return file.watch().stream()
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
