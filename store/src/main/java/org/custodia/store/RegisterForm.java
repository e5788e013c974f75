package org.custodia.store;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.net.URI;
import java.time.DayOfWeek;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.EnumSet;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.BiConsumer;
import java.util.function.Function;
import org.custodia.core.access.AccessLevel;
import org.custodia.core.access.CardFormat;
import org.custodia.core.access.Credential;
import org.custodia.core.access.Holiday;
import org.custodia.core.access.Person;
import org.custodia.core.access.Timetable;
import org.custodia.core.alarm.Escalation;
import org.custodia.core.alarm.Procedure;
import org.custodia.core.alarm.Rule;
import org.custodia.core.event.Priority;
import org.custodia.core.message.MailServer;
import org.custodia.core.message.Receiver;
import org.custodia.core.operator.Permission;
import org.custodia.core.setup.LinkSetup;
import org.custodia.core.site.Camera;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.Crop;
import org.custodia.core.site.Device;
import org.custodia.core.site.DeviceId;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorAsk;
import org.custodia.core.site.DoorCapability;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Lookout;
import org.custodia.core.site.PairId;
import org.custodia.core.site.Pairing;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.Placing;
import org.custodia.core.site.Reader;
import org.custodia.core.site.ReaderId;
import org.custodia.core.site.Side;
import org.custodia.core.site.Site;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SystemId;
import org.custodia.core.site.Thing;
import org.custodia.core.site.Walk;
import org.custodia.wire.ProceduresFileForm;
import org.custodia.wire.RulesFileForm;

/**
 * How the records of a register are written down. A field more than is known here is passed over, and one that is absent has
 * a default, so that what another version has written can be read; a record without what it cannot do without is not read.
 * In the first form ids were written as objects of their own, which is read still.
 *
 * @param kind names the register
 * @param edited what an operator needs who edits it
 */
record RegisterForm<T>(String kind, Permission edited, BiConsumer<T, ObjectNode> writer, Function<JsonNode, T> reader) {
    /** The form in which records are written today. */
    static final int NOW = 2;

    static final RegisterForm<Site> SITE = new RegisterForm<>(
            "site",
            Permission.SET_UP,
            (s, o) -> o.put("id", s.id().value())
                    .put("name", s.name())
                    .put("timeZone", s.timeZone().getId()),
            o -> new Site(new SiteId(id(o, "id")), text(o, "name", id(o, "id")), ZoneId.of(text(o, "timeZone", "Z"))));

    static final RegisterForm<Door> DOOR =
            new RegisterForm<>("door", Permission.SET_UP, RegisterForm::writeDoor, RegisterForm::door);

    static final RegisterForm<Reader> READER = new RegisterForm<>(
            "reader",
            Permission.SET_UP,
            (r, o) -> o.put("id", r.id().value())
                    .put("door", r.door().value())
                    .put("side", r.side().name())
                    .put("name", r.name()),
            o -> new Reader(
                    new ReaderId(id(o, "id")),
                    new DoorId(id(o, "door")),
                    word(o, "side", Side.class, Side.ENTRY),
                    text(o, "name", id(o, "id"))));

    static final RegisterForm<Camera> CAMERA = new RegisterForm<>(
            "camera",
            Permission.SET_UP,
            (c, o) -> o.put("id", c.id().value())
                    .put("recorder", c.recorder().value())
                    .put("name", c.name())
                    .put("site", c.site().value()),
            o -> new Camera(
                    new CameraId(id(o, "id")),
                    new SystemId(id(o, "recorder")),
                    text(o, "name", id(o, "id")),
                    new SiteId(id(o, "site"))));

    static final RegisterForm<Device> DEVICE = new RegisterForm<>(
            "device",
            Permission.SET_UP,
            (d, o) -> {
                o.put("id", d.id().value())
                        .put("system", d.system().value())
                        .put("kind", d.kind())
                        .put("name", d.name())
                        .put("site", d.site().value());
                d.controller().ifPresent(c -> o.put("controller", c.value()));
                d.door().ifPresent(door -> o.put("door", door.value()));
            },
            o -> new Device(
                    new DeviceId(id(o, "id")),
                    new SystemId(id(o, "system")),
                    words(o, "controller").map(ControllerId::new),
                    text(o, "kind", ""),
                    text(o, "name", id(o, "id")),
                    new SiteId(id(o, "site")),
                    words(o, "door").map(DoorId::new)));

    static final RegisterForm<Placing> PLACING = new RegisterForm<>(
            "placing",
            Permission.SET_UP,
            (p, o) -> {
                o.put("thing", p.thing().toString()).put("leftOut", p.leftOut());
                p.name().ifPresent(n -> o.put("name", n));
                p.site().ifPresent(s -> o.put("site", s.value()));
                p.level().ifPresent(l -> o.put("level", l));
                p.outside().ifPresent(z -> o.put("outside", z));
                p.inside().ifPresent(z -> o.put("inside", z));
            },
            o -> new Placing(
                    Thing.parse(id(o, "thing")).orElseThrow(),
                    o.path("leftOut").asBoolean(),
                    words(o, "name"),
                    words(o, "site").map(SiteId::new),
                    words(o, "level"),
                    words(o, "outside"),
                    words(o, "inside")));

    /** Up to which version of what a system says of a thing somebody has seen it. */
    static final RegisterForm<Seen> SEEN = new RegisterForm<>(
            "seen",
            Permission.SET_UP,
            (s, o) -> o.put("thing", s.thing().toString()).put("version", s.version()),
            o -> new Seen(
                    Thing.parse(id(o, "thing")).orElseThrow(), o.path("version").asLong()));

    static final RegisterForm<Walk> WALK = new RegisterForm<>(
            "walk",
            Permission.SET_UP,
            (w, o) -> o.put("first", w.first().value())
                    .put("second", w.second().value())
                    .put("takes", w.takes().toMillis() / 1000.0),
            o -> new Walk(new DoorId(id(o, "first")), new DoorId(id(o, "second")), seconds(o, "takes", Duration.ZERO)));

    static final RegisterForm<Lookout> LOOKOUT = new RegisterForm<>(
            "lookout",
            Permission.SET_UP,
            (l, o) -> o.put("camera", l.camera().value())
                    .put("of", l.of().key())
                    .put("leadIn", l.leadIn().toMillis() / 1000.0),
            o -> new Lookout(
                    new CameraId(id(o, "camera")),
                    Lookout.Subject.parse(id(o, "of")).orElseThrow(),
                    seconds(o, "leadIn", Pairing.DEFAULT_LEAD_IN)));

    static final RegisterForm<LinkSetup> LINK = new RegisterForm<>(
            "link",
            Permission.SET_UP,
            (l, o) -> {
                l.certificate().ifPresent(c -> o.put("certificate", c));
                o.put("id", l.id())
                        .put("kind", l.kind())
                        .put("make", l.make())
                        .put("name", l.name())
                        .put("address", l.address().toString())
                        .put("paused", l.paused())
                        .put("openAllowed", l.openAllowed())
                        .put("clockLimitMillis", l.clockLimit().toMillis());
            },
            o -> new LinkSetup(
                    id(o, "id"),
                    id(o, "kind"),
                    id(o, "make"),
                    text(o, "name", id(o, "id")),
                    URI.create(id(o, "address")),
                    o.path("paused").asBoolean(),
                    o.path("openAllowed").asBoolean(),
                    Optional.of(o.path("certificate").asText("")).filter(c -> !c.isEmpty()),
                    Duration.ofMillis(o.path("clockLimitMillis").asLong(LinkSetup.CLOCK_LIMIT.toMillis()))));

    static final RegisterForm<Placed> PAIR =
            new RegisterForm<>("pair", Permission.SET_UP, RegisterForm::writePlaced, RegisterForm::pair);

    static final RegisterForm<Person> PERSON =
            new RegisterForm<>("person", Permission.EDIT_PEOPLE, RegisterForm::writePerson, RegisterForm::person);

    static final RegisterForm<Credential> CREDENTIAL = new RegisterForm<>(
            "credential", Permission.EDIT_PEOPLE, RegisterForm::writeCredential, RegisterForm::credential);

    static final RegisterForm<AccessLevel> LEVEL = new RegisterForm<>(
            "level",
            Permission.EDIT_TIMETABLES,
            (l, o) -> {
                o.put("id", l.id()).put("name", l.name());
                ObjectNode doors = o.putObject("doors");
                l.doors().entrySet().stream()
                        .sorted(Map.Entry.comparingByKey(java.util.Comparator.comparing(DoorId::value)))
                        .forEach(d -> doors.put(d.getKey().value(), d.getValue()));
            },
            o -> {
                Map<DoorId, String> doors = new HashMap<>();
                o.path("doors")
                        .properties()
                        .forEach(d ->
                                doors.put(new DoorId(d.getKey()), d.getValue().asText()));
                return new AccessLevel(id(o, "id"), text(o, "name", id(o, "id")), doors);
            });

    static final RegisterForm<Timetable> TIMETABLE = new RegisterForm<>(
            "timetable", Permission.EDIT_TIMETABLES, RegisterForm::writeTimetable, RegisterForm::timetable);

    static final RegisterForm<Holiday> HOLIDAY = new RegisterForm<>(
            "holiday",
            Permission.EDIT_TIMETABLES,
            (h, o) -> o.put("id", h.id())
                    .put("name", h.name())
                    .put("from", h.from().toString())
                    .put("to", h.to().toString()),
            o -> new Holiday(
                    id(o, "id"),
                    text(o, "name", id(o, "id")),
                    LocalDate.parse(text(o, "from", "")),
                    LocalDate.parse(text(o, "to", text(o, "from", "")))));

    static final RegisterForm<CardFormat> FORMAT = new RegisterForm<>(
            "format",
            Permission.SET_UP,
            (f, o) -> o.put("id", f.id()).put("name", f.name()).put("digits", f.digits()),
            o -> new CardFormat(
                    id(o, "id"), text(o, "name", id(o, "id")), o.path("digits").asInt()));

    /** A rule of alarms; its version is the record's. */
    static final RegisterForm<Rule> ALARM_RULE = new RegisterForm<>(
            "alarm-rule", Permission.EDIT_RULES, (r, o) -> o.setAll(RulesFileForm.write(r)), RulesFileForm::read);

    /** What is to be done about some alarms; its version is the record's. */
    static final RegisterForm<Procedure> PROCEDURE = new RegisterForm<>(
            "procedure",
            Permission.EDIT_RULES,
            (p, o) -> o.setAll(ProceduresFileForm.write(p)),
            ProceduresFileForm::read);

    /** Who is told of alarms; its version is the record's. */
    static final RegisterForm<Receiver> RECEIVER =
            new RegisterForm<>("receiver", Permission.EDIT_RULES, RegisterForm::writeReceiver, RegisterForm::receiver);

    /** The server that takes mail; its version is the record's. */
    static final RegisterForm<MailServer> MAIL_SERVER = new RegisterForm<>(
            "mail-server",
            Permission.SET_UP,
            (m, o) -> {
                o.put("host", m.host())
                        .put("port", m.port())
                        .put("security", m.security().name())
                        .put("from", m.from());
                m.user().ifPresent(u -> o.put("user", u));
                m.certificate().ifPresent(c -> o.put("certificate", c));
            },
            o -> new MailServer(
                    0,
                    id(o, "host"),
                    o.path("port").asInt(),
                    word(o, "security", MailServer.Security.class, MailServer.Security.TLS),
                    words(o, "user"),
                    id(o, "from"),
                    words(o, "certificate")));

    /** After how long alarms call louder; its version is the record's. */
    static final RegisterForm<Escalation> ESCALATION = new RegisterForm<>(
            "escalation", Permission.EDIT_RULES, RegisterForm::writeEscalation, RegisterForm::escalation);

    /**
     * A pairing and its place among those of its door.
     *
     * @param order the lower, the more telling
     */
    record Placed(Pairing pairing, int order) {}

    /** Up to which version of what a system says of a thing somebody has seen it. */
    record Seen(Thing thing, long version) {}

    private static Optional<String> words(JsonNode o, String name) {
        return Optional.ofNullable(o.path(name).textValue());
    }

    String write(T value) {
        ObjectNode object = PayloadText.JSON.createObjectNode();
        writer.accept(value, object);
        return object.toString();
    }

    /** The record; nothing where it cannot be read. */
    Optional<T> read(String payload) {
        try {
            return Optional.of(reader.apply(PayloadText.JSON.readTree(payload)));
        } catch (com.fasterxml.jackson.core.JsonProcessingException | RuntimeException e) {
            return Optional.empty();
        }
    }

    private static void writeDoor(Door d, ObjectNode o) {
        o.put("id", d.id().value())
                .put("system", d.system().value())
                .put("controller", d.controller().value())
                .put("name", d.name())
                .put("site", d.site().value())
                .put("level", d.level())
                .put("outside", d.outside())
                .put("inside", d.inside())
                .put("heldLimit", d.heldLimit().toSeconds());
        ArrayNode can = o.putArray("capabilities");
        d.capabilities().stream().map(Enum::name).sorted().forEach(can::add);
        d.asks().ifPresent(asks -> {
            ArrayNode all = o.putArray("asks");
            asks.stream().map(Enum::name).sorted().forEach(all::add);
        });
    }

    private static Door door(JsonNode o) {
        Set<DoorCapability> capabilities = EnumSet.noneOf(DoorCapability.class);
        for (JsonNode one : o.path("capabilities")) {
            of(DoorCapability.class, one.asText()).ifPresent(capabilities::add);
        }
        DoorId id = new DoorId(id(o, "id"));
        return new Door(
                id,
                new SystemId(id(o, "system")),
                new ControllerId(id(o, "controller")),
                text(o, "name", id.value()),
                new SiteId(id(o, "site")),
                text(o, "level", ""),
                text(o, "outside", ""),
                text(o, "inside", ""),
                seconds(o, "heldLimit", Duration.ofSeconds(30)),
                capabilities,
                o.has("asks") ? Optional.of(asks(o.path("asks"))) : Optional.empty());
    }

    private static Set<DoorAsk> asks(JsonNode words) {
        Set<DoorAsk> asks = EnumSet.noneOf(DoorAsk.class);
        words.forEach(w -> of(DoorAsk.class, w.asText()).ifPresent(asks::add));
        return asks;
    }

    private static void writePlaced(Placed placed, ObjectNode o) {
        Pairing p = placed.pairing();
        o.put("id", p.id().value())
                .put("order", placed.order())
                .put("door", p.door().value())
                .put("camera", p.camera().value())
                .put("side", p.side().name())
                .put("view", p.view().name())
                .put("leadIn", p.leadIn().toMillis() / 1000.0)
                .put("faceAfter", p.faceAfter().toMillis() / 1000.0);
        o.putObject("face")
                .put("x", p.face().x())
                .put("y", p.face().y())
                .put("width", p.face().width())
                .put("height", p.face().height());
    }

    private static Placed pair(JsonNode o) {
        DoorId door = new DoorId(id(o, "door"));
        CameraId camera = new CameraId(id(o, "camera"));
        Side side = word(o, "side", Side.class, Side.ENTRY);
        Pairing.View view = word(o, "view", Pairing.View.class, Pairing.View.OVERVIEW);
        JsonNode face = o.path("face");
        Crop crop = face.has("width")
                ? new Crop(
                        face.path("x").asDouble(),
                        face.path("y").asDouble(),
                        face.path("width").asDouble(),
                        face.path("height").asDouble())
                : Crop.WHOLE;
        return new Placed(
                new Pairing(
                        o.hasNonNull("id") ? new PairId(id(o, "id")) : PairId.of(door, camera, side, view),
                        door,
                        camera,
                        side,
                        view,
                        seconds(o, "leadIn", Pairing.DEFAULT_LEAD_IN),
                        crop,
                        seconds(o, "faceAfter", Duration.ZERO)),
                o.path("order").asInt());
    }

    private static void writeReceiver(Receiver r, ObjectNode o) {
        o.put("id", r.id()).put("name", r.name()).put("on", r.on());
        if (r.way() instanceof Receiver.Mail mail) {
            ArrayNode to = o.putArray("mail");
            mail.to().forEach(to::add);
            o.put("picture", mail.picture());
        } else if (r.way() instanceof Receiver.Web web) {
            o.put("web", web.address().toString());
            web.certificate().ifPresent(c -> o.put("certificate", c));
        }
    }

    private static Receiver receiver(JsonNode o) {
        List<String> to = new ArrayList<>();
        o.path("mail").forEach(a -> to.add(a.asText()));
        return new Receiver(
                id(o, "id"),
                0,
                text(o, "name", id(o, "id")),
                o.path("on").asBoolean(true),
                o.has("web")
                        ? new Receiver.Web(URI.create(id(o, "web")), words(o, "certificate"))
                        : new Receiver.Mail(to, o.path("picture").asBoolean(true)));
    }

    private static void writeEscalation(Escalation e, ObjectNode o) {
        e.steps().forEach((priority, steps) -> {
            ArrayNode all = o.putArray(priority.name());
            for (Escalation.Step step : steps) {
                ObjectNode one = all.addObject();
                one.put("after", step.after().toMillis() / 1000.0);
                ArrayNode tells = one.putArray("tells");
                step.tells().forEach(tells::add);
            }
        });
    }

    private static Escalation escalation(JsonNode o) {
        Map<Priority, List<Escalation.Step>> steps = new HashMap<>();
        for (Priority priority : Rule.PRIORITIES) {
            List<Escalation.Step> some = new ArrayList<>();
            for (JsonNode one : o.path(priority.name())) {
                List<String> tells = new ArrayList<>();
                one.path("tells").forEach(t -> tells.add(t.asText()));
                some.add(new Escalation.Step(seconds(one, "after", Duration.ZERO), tells));
            }
            if (!some.isEmpty()) {
                steps.put(priority, some);
            }
        }
        return new Escalation(0, steps);
    }

    private static void writePerson(Person p, ObjectNode o) {
        o.put("id", p.id().value())
                .put("name", p.name())
                .put("company", p.company())
                .put("kind", p.kind())
                .put("stopped", p.stopped());
        p.until().ifPresent(t -> o.put("until", t.toString()));
        p.photo().ifPresent(v -> o.put("photo", v));
        ArrayNode levels = o.putArray("levels");
        p.levels().forEach(levels::add);
    }

    private static Person person(JsonNode o) {
        List<String> levels = new ArrayList<>();
        o.path("levels").forEach(l -> levels.add(l.asText()));
        return new Person(
                new PersonId(id(o, "id")),
                text(o, "name", id(o, "id")),
                text(o, "company", ""),
                text(o, "kind", ""),
                instant(o, "until"),
                o.path("stopped").asBoolean(),
                Optional.ofNullable(o.path("photo").textValue()),
                levels);
    }

    private static void writeCredential(Credential c, ObjectNode o) {
        o.put("number", c.number())
                .put("kind", c.kind().id())
                .put("person", c.person().value())
                .put("status", c.status().name());
        c.from().ifPresent(t -> o.put("from", t.toString()));
        c.until().ifPresent(t -> o.put("until", t.toString()));
    }

    private static Credential credential(JsonNode o) {
        return new Credential(
                id(o, "number"),
                Credential.Kind.of(text(o, "kind", "card")),
                new PersonId(id(o, "person")),
                word(o, "status", Credential.Status.class, Credential.Status.SUSPENDED),
                instant(o, "from"),
                instant(o, "until"),
                Optional.empty());
    }

    private static void writeTimetable(Timetable t, ObjectNode o) {
        o.put("id", t.id()).put("name", t.name());
        ArrayNode spans = o.putArray("spans");
        for (Timetable.Span span : t.spans()) {
            ObjectNode one = spans.addObject();
            ArrayNode days = one.putArray("days");
            span.days().stream().sorted().map(Enum::name).forEach(days::add);
            one.put("holidays", span.holidays())
                    .put("from", span.from().toString())
                    .put(
                            "to",
                            span.to().equals(LocalTime.MAX)
                                    ? "24:00"
                                    : span.to().toString());
        }
    }

    private static Timetable timetable(JsonNode o) {
        List<Timetable.Span> spans = new ArrayList<>();
        for (JsonNode one : o.path("spans")) {
            Set<DayOfWeek> days = EnumSet.noneOf(DayOfWeek.class);
            one.path("days").forEach(d -> of(DayOfWeek.class, d.asText()).ifPresent(days::add));
            String to = text(one, "to", "24:00");
            spans.add(new Timetable.Span(
                    days,
                    one.path("holidays").asBoolean(),
                    LocalTime.parse(text(one, "from", "00:00")),
                    to.equals("24:00") ? LocalTime.MAX : LocalTime.parse(to)));
        }
        return new Timetable(id(o, "id"), text(o, "name", id(o, "id")), spans);
    }

    /** An id, without which a record makes no sense. */
    private static String id(JsonNode o, String field) {
        JsonNode value = o.path(field);
        String text = value.isObject() ? value.path("value").textValue() : value.textValue();
        if (text == null) {
            throw new IllegalArgumentException("a record has no " + field);
        }
        return text;
    }

    private static String text(JsonNode o, String field, String otherwise) {
        String text = o.path(field).textValue();
        return text == null ? otherwise : text;
    }

    private static Duration seconds(JsonNode o, String field, Duration otherwise) {
        JsonNode value = o.path(field);
        if (value.isTextual()) {
            return Duration.parse(value.textValue());
        }
        return value.isNumber() ? Duration.ofMillis(Math.round(value.asDouble() * 1000)) : otherwise;
    }

    private static Optional<Instant> instant(JsonNode o, String field) {
        return Optional.ofNullable(o.path(field).textValue()).map(Instant::parse);
    }

    private static <E extends Enum<E>> E word(JsonNode o, String field, Class<E> type, E otherwise) {
        return of(type, text(o, field, "")).orElse(otherwise);
    }

    private static <E extends Enum<E>> Optional<E> of(Class<E> type, String word) {
        try {
            return Optional.of(Enum.valueOf(type, word.toUpperCase(Locale.ROOT)));
        } catch (IllegalArgumentException e) {
            return Optional.empty();
        }
    }
}
