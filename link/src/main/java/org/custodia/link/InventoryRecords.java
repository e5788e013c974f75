package org.custodia.link;

import java.time.DateTimeException;
import java.time.DayOfWeek;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.EnumSet;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.BiConsumer;
import org.custodia.core.access.AccessLevel;
import org.custodia.core.access.CardFormat;
import org.custodia.core.access.Credential;
import org.custodia.core.access.Holiday;
import org.custodia.core.access.Person;
import org.custodia.core.access.Timetable;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.Device;
import org.custodia.core.site.DeviceId;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorAsk;
import org.custodia.core.site.DoorCapability;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.Reader;
import org.custodia.core.site.ReaderId;
import org.custodia.core.site.Side;
import org.custodia.core.site.Site;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SystemId;
import org.custodia.wire.Fields;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Reads what a system has record by record, strictly where access follows from it: what cannot be read allows nothing. A record
 * that is left out, or of which some field is odd, is told with the reason.
 */
final class InventoryRecords {
    private static final Logger LOG = LoggerFactory.getLogger(InventoryRecords.class);
    private static final int DEFAULT_HELD_LIMIT_SECONDS = 60;
    /** Characters of what people read. */
    private static final int LONGEST_NAME = 500;
    /** Among the days of a timetable: when a holiday is. */
    private static final String HOLIDAY = "HOLIDAY";
    /** From when a badge is valid whose beginning cannot be read. */
    private static final Instant NOT_YET = Instant.parse("9000-01-01T00:00:00Z");

    private static final String END_OF_DAY = "24:00";

    private final SystemId system;
    private final BiConsumer<Fields, Saying> told;

    /**
     * @param told of each record that is left out or odd, with the reason
     */
    InventoryRecords(SystemId system, BiConsumer<Fields, Saying> told) {
        this.system = system;
        this.told = told;
    }

    private <T> Optional<T> leftOut(Fields record, Saying why) {
        told.accept(record, why);
        return Optional.empty();
    }

    /** Whether something of this name has not come before; the first one counts. */
    boolean once(Object id, Set<Object> seen, Fields record) {
        if (seen.add(id)) {
            return true;
        }
        leftOut(record, Saying.of("inventory.twice", id.toString()));
        return false;
    }

    Optional<Device> device(Fields u) {
        Optional<String> id = u.word("id");
        if (id.isEmpty()) {
            return leftOut(u, Saying.of("inventory.unit-id"));
        }
        try {
            return Optional.of(new Device(
                    new DeviceId(own(id.get())),
                    system,
                    u.word("controller").map(c -> new ControllerId(own(c))),
                    u.word("kind").map(InventoryRecords::cut).orElse(""),
                    u.word("name").map(InventoryRecords::cut).orElse(id.get()),
                    new SiteId(u.word("site").orElse(system.value())),
                    u.word("door").map(d -> new DoorId(own(d)))));
        } catch (IllegalArgumentException e) {
            return leftOut(u, Saying.of("inventory.unit-id-odd"));
        }
    }

    /** What people read is not longer than they read. */
    private static String cut(String words) {
        return words.length() <= LONGEST_NAME ? words : words.substring(0, LONGEST_NAME);
    }

    Optional<Site> site(Fields s) {
        Optional<String> id = s.word("id");
        if (id.isEmpty()) {
            return leftOut(s, Saying.of("inventory.site-id"));
        }
        ZoneId zone = ZoneOffset.UTC;
        Optional<String> named = s.word("timeZone");
        try {
            zone = named.map(ZoneId::of).orElse(ZoneOffset.UTC);
        } catch (DateTimeException e) {
            leftOut(s, Saying.of("inventory.site-zone", id.get()));
        }
        try {
            return Optional.of(new Site(new SiteId(id.get()), s.word("name").orElse(id.get()), zone));
        } catch (IllegalArgumentException e) {
            return leftOut(s, Saying.of("inventory.site-id-odd"));
        }
    }

    Optional<Door> door(Fields d) {
        Optional<String> id = d.word("id");
        if (id.isEmpty()) {
            return leftOut(d, Saying.of("inventory.door-id"));
        }
        Set<DoorCapability> capabilities = EnumSet.noneOf(DoorCapability.class);
        for (String word : d.texts("capabilities")) {
            try {
                capabilities.add(
                        DoorCapability.valueOf(word.toUpperCase(Locale.ROOT).replace('-', '_')));
            } catch (IllegalArgumentException e) {
                LOG.info("A door can do something that is not known here");
            }
        }
        long limit = d.number("heldLimitSeconds").orElse((long) DEFAULT_HELD_LIMIT_SECONDS);
        try {
            return Optional.of(new Door(
                    new DoorId(system.value() + "/" + id.get()),
                    system,
                    new ControllerId(system.value() + "/" + d.word("controller").orElse(id.get())),
                    d.word("name").orElse(id.get()),
                    new SiteId(d.word("site").orElse(system.value())),
                    d.text("level").orElse(""),
                    d.text("outside").orElse(""),
                    d.text("inside").orElse(""),
                    Duration.ofSeconds(Math.max(1, Math.min(86_400, limit))),
                    capabilities,
                    d.hasList("asks") ? Optional.of(asks(d)) : Optional.empty()));
        } catch (IllegalArgumentException e) {
            return leftOut(d, Saying.of("inventory.door-id-odd"));
        }
    }

    private static Set<DoorAsk> asks(Fields d) {
        Set<DoorAsk> asks = EnumSet.noneOf(DoorAsk.class);
        for (String word : d.texts("asks")) {
            try {
                asks.add(DoorAsk.valueOf(word.toUpperCase(Locale.ROOT).replace('-', '_')));
            } catch (IllegalArgumentException e) {
                LOG.info("A door asks for something that is not known here");
            }
        }
        return asks;
    }

    Optional<Reader> reader(Fields r, Door door) {
        Optional<String> id = r.word("id");
        Optional<Side> side = r.word("side").flatMap(InventoryRecords::side);
        if (id.isEmpty() || side.isEmpty()) {
            return leftOut(r, Saying.of("inventory.reader-id", door.id().value()));
        }
        try {
            return Optional.of(new Reader(
                    new ReaderId(system.value() + "/" + id.get()),
                    door.id(),
                    side.get(),
                    r.word("name").orElse(id.get())));
        } catch (IllegalArgumentException e) {
            return leftOut(r, Saying.of("inventory.reader-id-odd"));
        }
    }

    private static Optional<Side> side(String word) {
        return switch (word) {
            case "entry" -> Optional.of(Side.ENTRY);
            case "exit" -> Optional.of(Side.EXIT);
            default -> Optional.empty();
        };
    }

    /** An id of this system's own in the registers. */
    private String own(String id) {
        return system.value() + "/" + id;
    }

    Optional<AccessLevel> level(Fields l) {
        Optional<String> id = l.word("id");
        if (id.isEmpty()) {
            return leftOut(l, Saying.of("inventory.level-id"));
        }
        if (!l.hasMap("doors")) {
            return leftOut(l, Saying.of("inventory.level-doors", id.get()));
        }
        Map<DoorId, String> doors = new HashMap<>();
        try {
            l.map("doors").forEach((door, table) -> doors.put(new DoorId(own(door)), own(table)));
        } catch (IllegalArgumentException e) {
            return leftOut(l, Saying.of("inventory.level-door", id.get()));
        }
        return Optional.of(new AccessLevel(own(id.get()), l.word("name").orElse(id.get()), doors));
    }

    Optional<Timetable> timetable(Fields t) {
        Optional<String> id = t.word("id");
        if (id.isEmpty()) {
            return leftOut(t, Saying.of("inventory.timetable-id"));
        }
        if (!t.hasList("spans")) {
            return leftOut(t, Saying.of("inventory.timetable-times", id.get()));
        }
        List<Timetable.Span> spans = new ArrayList<>();
        for (Fields s : t.list("spans")) {
            Set<DayOfWeek> days = EnumSet.noneOf(DayOfWeek.class);
            List<String> words = s.texts("days");
            try {
                words.stream()
                        .filter(d -> !d.equals(HOLIDAY))
                        .map(DayOfWeek::valueOf)
                        .forEach(days::add);
                String to = s.text("to").orElse(END_OF_DAY);
                spans.add(new Timetable.Span(
                        days,
                        words.contains(HOLIDAY),
                        LocalTime.parse(s.text("from").orElse("00:00")),
                        to.equals(END_OF_DAY) ? LocalTime.MAX : LocalTime.parse(to)));
            } catch (IllegalArgumentException | DateTimeException e) {
                return leftOut(t, Saying.of("inventory.timetable-times", id.get()));
            }
        }
        return Optional.of(new Timetable(own(id.get()), t.word("name").orElse(id.get()), spans));
    }

    Optional<CardFormat> format(Fields f) {
        Optional<String> id = f.word("id");
        Optional<Long> digits = f.number("digits").filter(d -> d >= 1 && d <= 64);
        if (id.isEmpty() || digits.isEmpty()) {
            return leftOut(f, Saying.of("inventory.format"));
        }
        return Optional.of(new CardFormat(
                own(id.get()), f.word("name").orElse(id.get()), digits.get().intValue()));
    }

    Optional<Holiday> holiday(Fields h) {
        Optional<String> id = h.word("id");
        try {
            LocalDate from = LocalDate.parse(h.text("from").orElse(""));
            LocalDate to = h.text("to").map(LocalDate::parse).orElse(from);
            return id.isEmpty()
                    ? leftOut(h, Saying.of("inventory.holiday-id"))
                    : Optional.of(new Holiday(own(id.get()), h.word("name").orElse(id.get()), from, to));
        } catch (IllegalArgumentException | DateTimeException e) {
            return leftOut(h, Saying.of("inventory.holiday-days"));
        }
    }

    Optional<Credential> credential(Fields c, PersonId person, String id) {
        Optional<String> number = c.word("number");
        if (number.isEmpty()) {
            return leftOut(c, Saying.of("inventory.badge-number", id));
        }
        Optional<Credential.Status> known = status(c.word("status").orElse("active"));
        if (known.isEmpty()) {
            return leftOut(c, Saying.of("inventory.badge-status", id));
        }
        Optional<Instant> from = c.instant("from").or(() -> c.has("from") ? Optional.of(NOT_YET) : Optional.empty());
        Credential credential = new Credential(
                number.get(),
                Credential.Kind.of(c.word("kind").orElse("card")),
                person,
                known.get(),
                from,
                end(c, "until"),
                Optional.empty());
        if (!c.odd().isEmpty()) {
            leftOut(c, Saying.of("inventory.badge-odd", id, String.join(", ", c.odd())));
        }
        return Optional.of(credential);
    }

    /** Until when something is valid; one that cannot be read is over. */
    private static Optional<Instant> end(Fields of, String name) {
        return of.instant(name).or(() -> of.has(name) ? Optional.of(Instant.EPOCH) : Optional.empty());
    }

    private static Optional<Credential.Status> status(String word) {
        try {
            return Optional.of(Credential.Status.valueOf(word.toUpperCase(Locale.ROOT)));
        } catch (IllegalArgumentException e) {
            return Optional.empty();
        }
    }

    /**
     * A person and their badges. What of their access cannot be read allows nothing.
     *
     * @param id as the system has it
     * @param credentials takes the badges
     */
    Person person(Fields p, String id, List<Credential> credentials) {
        PersonId person = new PersonId(own(id));
        boolean stopped = p.flag("stopped").orElse(p.has("stopped"));
        Person read = new Person(
                person,
                p.word("name").orElse(id),
                p.text("company").orElse(""),
                p.text("kind").orElse(""),
                end(p, "until"),
                stopped,
                p.word("photo"),
                p.texts("levels").stream().map(this::own).toList());
        List<Fields> badges = p.list("credentials");
        if (!p.odd().isEmpty()) {
            leftOut(p, Saying.of("inventory.person-odd", id, String.join(", ", p.odd())));
        }
        badges.forEach(c -> credential(c, person, id).ifPresent(credentials::add));
        return read;
    }
}
