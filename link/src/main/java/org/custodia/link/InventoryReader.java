package org.custodia.link;

import java.io.IOException;
import java.time.Clock;
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
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.custodia.core.access.AccessLevel;
import org.custodia.core.access.CardFormat;
import org.custodia.core.access.Credential;
import org.custodia.core.access.Holiday;
import org.custodia.core.access.Person;
import org.custodia.core.access.RuleBook;
import org.custodia.core.access.Timetable;
import org.custodia.core.event.EventIntake.Unread;
import org.custodia.core.event.EventLogException;
import org.custodia.core.footage.JpegSize;
import org.custodia.core.mishap.Threads;
import org.custodia.core.saying.Saying;
import org.custodia.core.saying.Says;
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
 * Reads what an access system has (places, people, photos) on a thread of its own, so that its events never wait for it. A
 * record that cannot be read is kept as it came, counted and named; the others are used. What fails is tried again.
 */
final class InventoryReader implements AutoCloseable {
    private static final Logger LOG = LoggerFactory.getLogger(InventoryReader.class);
    private static final int PAGE = 500;
    private static final int MOST_PEOPLE = 200_000;
    private static final int LARGEST_PHOTO = 2 * 1024 * 1024;
    private static final int DEFAULT_HELD_LIMIT_SECONDS = 60;
    private static final int PHOTO_ROUNDS = 20;
    /** Characters of what people read. */
    private static final int LONGEST_NAME = 500;

    /** Among the days of a timetable: when a holiday is. */
    private static final String HOLIDAY = "HOLIDAY";

    /** From when a badge is valid whose beginning cannot be read. */
    private static final Instant NOT_YET = Instant.parse("9000-01-01T00:00:00Z");

    private static final String END_OF_DAY = "24:00";
    private static final Duration AGAIN_FIRST = Duration.ofSeconds(3);
    private static final Duration AGAIN_MOST = Duration.ofMinutes(2);

    private final SystemId system;
    private final Requests requests;
    private final Surroundings around;
    private final Inventory target;
    private final Clock clock;
    private final StatusBox status;
    private final Thread thread;
    private final Object lock = new Object();
    private Optional<String> wanted = Optional.empty();
    private volatile boolean closed;
    private int odd;
    private Saying firstOdd;

    /** A person whose photo may be wanted. */
    private record WithPhoto(PersonId id, String local, String version) {}

    InventoryReader(SystemId system, Requests requests, Surroundings around, StatusBox status) {
        this.system = system;
        this.requests = requests;
        this.around = around;
        this.target = around.inventory();
        this.clock = around.clock();
        this.status = status;
        this.thread = Threads.daemon("link " + system + " inventory", this::run);
        thread.start();
    }

    /** Asks for the inventory in this version to be read, unless it was the last that was read whole. */
    void wanted(String version) {
        synchronized (lock) {
            wanted = Optional.of(version);
            lock.notifyAll();
        }
    }

    private void run() {
        Optional<String> read = Optional.empty();
        Duration again = AGAIN_FIRST;
        while (!closed) {
            try {
                String version = next(read);
                if (readAll()) {
                    read = Optional.of(version);
                    // A version that changes with each heartbeat is not read without a pause.
                    again = quickly(version) ? longer(again) : AGAIN_FIRST;
                    Thread.sleep(around.pace().of(again).toMillis());
                    continue;
                }
            } catch (InterruptedException e) {
                return;
            } catch (RuntimeException | Error e) {
                Threads.stumbled(e);
            }
            try {
                Thread.sleep(around.pace().of(again).toMillis());
            } catch (InterruptedException e) {
                return;
            }
            again = longer(again);
        }
    }

    private static Duration longer(Duration rest) {
        Duration twice = rest.multipliedBy(2);
        return twice.compareTo(AGAIN_MOST) > 0 ? AGAIN_MOST : twice;
    }

    /** Whether another version is wanted already than the one that was just read. */
    private boolean quickly(String read) {
        synchronized (lock) {
            return wanted.filter(w -> !w.equals(read)).isPresent();
        }
    }

    /** Waits until another version is wanted than the one that was read. */
    private String next(Optional<String> read) throws InterruptedException {
        synchronized (lock) {
            while (wanted.isEmpty() || wanted.equals(read)) {
                lock.wait();
            }
            return wanted.get();
        }
    }

    /** Reads all there is; whether all of it came. */
    private boolean readAll() throws InterruptedException {
        odd = 0;
        boolean places = part("places", "link.its-doors", this::places);
        List<WithPhoto> photos = new ArrayList<>();
        boolean rules = part("rules", "link.its-rules", this::rules);
        boolean people = part("people", "link.its-people", () -> photos.addAll(people()));
        if (odd > 0) {
            status.notice("odd records", Saying.of("link.records-left-out", odd, firstOdd));
        } else {
            status.settled("odd records");
        }
        photos(photos);
        return places && rules && people;
    }

    private interface Part {
        void read() throws IOException, InterruptedException;
    }

    private boolean part(String matter, String what, Part part) throws InterruptedException {
        try {
            part.read();
            status.settled(matter);
            return true;
        } catch (IOException | EventLogException e) {
            if (!closed) {
                status.notice(
                        matter,
                        Saying.of("link.part-unreadable", Saying.of(what), Says.of(e, Saying.of("link.broke"))));
            }
            return false;
        }
    }

    private void places() throws IOException {
        Fields places = requests.fields("inventory/places");
        List<Site> sites = new ArrayList<>();
        Set<Object> once = new HashSet<>();
        places.list("sites")
                .forEach(s -> site(s).filter(x -> once(x.id(), once, s)).ifPresent(sites::add));
        List<Door> doors = new ArrayList<>();
        List<Reader> readers = new ArrayList<>();
        places.list("doors")
                .forEach(d -> door(d).filter(x -> once(x.id(), once, d)).ifPresent(door -> {
                    doors.add(door);
                    d.list("readers").forEach(r -> reader(r, door)
                            .filter(x -> once(x.id(), once, r))
                            .ifPresent(readers::add));
                }));
        List<Device> devices = new ArrayList<>();
        places.list("units")
                .forEach(u -> device(u).filter(x -> once(x.id(), once, u)).ifPresent(devices::add));
        if (!places.hasList("doors")) {
            throw LinkException.unreadable("link.answer-odd", "inventory/places", "doors");
        }
        target.places(system, sites, doors, readers, devices);
    }

    /** Keeps a record of which some field cannot be read, and the rest is used. */
    private void odd(Fields record, Saying why) {
        leftOut(record, why);
    }

    /** Keeps a record that cannot be read. */
    private <T> Optional<T> leftOut(Fields record, Saying why) {
        odd++;
        if (odd == 1) {
            firstOdd = why;
        }
        around.intake().keepUnread(Unread.of(system, clock.instant(), record.json(), why));
        return Optional.empty();
    }

    /** Whether something of this name has not come before; the first one counts, and the others are kept as they came. */
    private boolean once(Object id, Set<Object> seen, Fields record) {
        if (seen.add(id)) {
            return true;
        }
        leftOut(record, Saying.of("inventory.twice", id.toString()));
        return false;
    }

    private Optional<Device> device(Fields u) {
        Optional<String> id = u.word("id");
        if (id.isEmpty()) {
            return leftOut(u, Saying.of("inventory.unit-id"));
        }
        try {
            return Optional.of(new Device(
                    new DeviceId(own(id.get())),
                    system,
                    u.word("controller").map(c -> new ControllerId(own(c))),
                    u.word("kind").map(InventoryReader::cut).orElse(""),
                    u.word("name").map(InventoryReader::cut).orElse(id.get()),
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

    private Optional<Site> site(Fields s) {
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

    private Optional<Door> door(Fields d) {
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

    private Optional<Reader> reader(Fields r, Door door) {
        Optional<String> id = r.word("id");
        Optional<Side> side = r.word("side").flatMap(InventoryReader::side);
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

    private void rules() throws IOException {
        Fields rules = requests.fields("inventory/rules");
        if (!rules.hasList("levels") || !rules.hasList("timetables")) {
            throw LinkException.unreadable("link.answer-odd", "inventory/rules", "levels, timetables");
        }
        List<AccessLevel> levels = new ArrayList<>();
        rules.list("levels").forEach(l -> level(l).ifPresent(levels::add));
        List<Timetable> timetables = new ArrayList<>();
        rules.list("timetables").forEach(t -> timetable(t).ifPresent(timetables::add));
        List<Holiday> holidays = new ArrayList<>();
        rules.list("holidays").forEach(h -> holiday(h).ifPresent(holidays::add));
        List<CardFormat> formats = new ArrayList<>();
        rules.list("formats").forEach(f -> format(f).ifPresent(formats::add));
        target.rules(system, new RuleBook(levels, timetables, holidays, formats));
    }

    private Optional<AccessLevel> level(Fields l) {
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

    private Optional<Timetable> timetable(Fields t) {
        Optional<String> id = t.word("id");
        if (id.isEmpty()) {
            return leftOut(t, Saying.of("inventory.timetable-id"));
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

    private Optional<CardFormat> format(Fields f) {
        Optional<String> id = f.word("id");
        Optional<Long> digits = f.number("digits").filter(d -> d >= 1 && d <= 64);
        if (id.isEmpty() || digits.isEmpty()) {
            return leftOut(f, Saying.of("inventory.format"));
        }
        return Optional.of(new CardFormat(
                own(id.get()), f.word("name").orElse(id.get()), digits.get().intValue()));
    }

    private Optional<Holiday> holiday(Fields h) {
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

    private List<WithPhoto> people() throws IOException {
        List<Person> people = new ArrayList<>();
        List<Credential> credentials = new ArrayList<>();
        List<WithPhoto> photos = new ArrayList<>();
        Set<String> seen = new HashSet<>();
        String after = "";
        boolean more = true;
        while (more && !closed) {
            Fields page = requests.fields("inventory/people?limit=" + PAGE + "&after=" + Requests.segment(after));
            if (!page.hasList("people")) {
                throw LinkException.unreadable("link.answer-odd", "inventory/people", "people");
            }
            boolean fresh = false;
            for (Fields p : page.list("people")) {
                Optional<String> id = p.word("id");
                if (id.isEmpty() || id.get().length() > 200) {
                    leftOut(p, Saying.of("inventory.person-id"));
                } else if (seen.add(id.get())) {
                    fresh = true;
                    after = id.get();
                    person(p, id.get(), people, credentials, photos);
                }
            }
            more = page.flag("more").orElse(false);
            if (more && (!fresh || seen.size() > MOST_PEOPLE)) {
                status.notice("endless people", Saying.of("link.people-without-end", seen.size()));
                more = false;
            }
        }
        if (!closed) {
            target.people(system, people, credentials);
        }
        return photos;
    }

    private void person(
            Fields p, String id, List<Person> people, List<Credential> credentials, List<WithPhoto> photos) {
        PersonId person = new PersonId(system.value() + "/" + id);
        Optional<String> photo = p.word("photo");
        // Access data that cannot be read allows nothing.
        boolean stopped = p.flag("stopped").orElse(p.has("stopped"));
        Optional<Instant> until = end(p, "until");
        people.add(new Person(
                person,
                p.word("name").orElse(id),
                p.text("company").orElse(""),
                p.text("kind").orElse(""),
                until,
                stopped,
                photo,
                p.texts("levels").stream().map(this::own).toList()));
        if (!p.odd().isEmpty()) {
            odd(p, Saying.of("inventory.person-odd", id, String.join(", ", p.odd())));
        }
        p.list("credentials").forEach(c -> credential(c, person, id).ifPresent(credentials::add));
        photo.ifPresent(version -> photos.add(new WithPhoto(person, id, version)));
    }

    private Optional<Credential> credential(Fields c, PersonId person, String id) {
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
            odd(c, Saying.of("inventory.badge-odd", id, String.join(", ", c.odd())));
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

    private void photos(List<WithPhoto> people) throws InterruptedException {
        List<WithPhoto> left = people;
        int refused = 0;
        Saying why = Saying.of("link.broke");
        for (int round = 0; round < PHOTO_ROUNDS && !left.isEmpty() && !closed; round++) {
            if (round > 0) {
                Thread.sleep(around.pace().of(AGAIN_FIRST).toMillis());
            }
            List<WithPhoto> again = new ArrayList<>();
            for (WithPhoto p : left) {
                if (closed || Thread.interrupted()) {
                    throw new InterruptedException();
                }
                try {
                    if (target.wantsPhoto(p.id(), p.version())) {
                        photo(p);
                    }
                } catch (LinkException e) {
                    why = e.saying();
                    if (e.lasting()) {
                        refused++;
                    } else {
                        again.add(p);
                    }
                } catch (IOException | EventLogException e) {
                    again.add(p);
                }
            }
            left = again;
        }
        int failed = refused + left.size();
        if (failed > 0) {
            status.notice("photos", Saying.of("link.photos-missing", failed, why));
        } else {
            status.settled("photos");
        }
    }

    private void photo(WithPhoto p) throws IOException {
        String path = "people/" + Requests.segment(p.local()) + "/photo";
        byte[] jpeg = requests.whole(requests.open(path, null, null), LARGEST_PHOTO);
        Optional<JpegSize> size = JpegSize.of(jpeg);
        if (size.isEmpty()) {
            throw LinkException.unreadable("picture.no-jpeg");
        }
        if (!size.get().reasonable()) {
            throw LinkException.unreadable(
                    "picture.photo-too-large", size.get().width(), size.get().height());
        }
        target.photo(p.id(), p.version(), jpeg);
    }

    /** Ends what goes on, without waiting. */
    void stop() {
        closed = true;
        thread.interrupt();
    }

    @Override
    public void close() {
        stop();
        try {
            thread.join(3_000);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }
}
