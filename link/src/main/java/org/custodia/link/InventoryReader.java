package org.custodia.link;

import java.io.IOException;
import java.time.Clock;
import java.time.Duration;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
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
import org.custodia.core.site.Device;
import org.custodia.core.site.Door;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.Reader;
import org.custodia.core.site.Site;
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
    private static final int PHOTO_ROUNDS = 20;

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
    private final InventoryRecords records;
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
        this.records = new InventoryRecords(system, this::keep);
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

    /** Keeps a record that cannot be read, or some field of it. */
    private void keep(Fields record, Saying why) {
        odd++;
        if (odd == 1) {
            firstOdd = why;
        }
        around.intake().keepUnread(Unread.of(system, clock.instant(), record.json(), why));
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
        List<Site> sites = new ArrayList<>();
        List<Door> doors = new ArrayList<>();
        List<Reader> readers = new ArrayList<>();
        List<Device> devices = new ArrayList<>();
        Set<Object> once = new HashSet<>();
        Set<String> seen = new HashSet<>();
        String after = "";
        boolean more = true;
        while (more && !closed) {
            Fields page = requests.fields(placesPath(after));
            if (!page.hasList("doors")) {
                throw LinkException.unreadable("link.answer-odd", "inventory/places", "doors");
            }
            page.list("sites").forEach(s -> records.site(s)
                    .filter(x -> records.once(x.id(), once, s))
                    .ifPresent(sites::add));
            page.list("units").forEach(u -> records.device(u)
                    .filter(x -> records.once(x.id(), once, u))
                    .ifPresent(devices::add));
            boolean fresh = false;
            for (Fields d : page.list("doors")) {
                Optional<String> id = d.word("id");
                if (id.filter(seen::add).isPresent()) {
                    fresh = true;
                    after = id.get();
                }
                records.door(d).filter(x -> records.once(x.id(), once, d)).ifPresent(door -> {
                    doors.add(door);
                    d.list("readers").forEach(r -> records.reader(r, door)
                            .filter(x -> records.once(x.id(), once, r))
                            .ifPresent(readers::add));
                });
            }
            more = page.flag("more").orElse(false) && fresh;
        }
        if (!closed) {
            target.places(system, sites, doors, readers, devices);
        }
    }

    /** The page of doors after one. */
    static String placesPath(String after) {
        return "inventory/places?limit=" + PAGE + "&after=" + Requests.segment(after);
    }

    private void rules() throws IOException {
        Fields rules = requests.fields("inventory/rules");
        if (!rules.hasList("levels") || !rules.hasList("timetables")) {
            throw LinkException.unreadable("link.answer-odd", "inventory/rules", "levels, timetables");
        }
        List<AccessLevel> levels = new ArrayList<>();
        rules.list("levels").forEach(l -> records.level(l).ifPresent(levels::add));
        List<Timetable> timetables = new ArrayList<>();
        rules.list("timetables").forEach(t -> records.timetable(t).ifPresent(timetables::add));
        List<Holiday> holidays = new ArrayList<>();
        rules.list("holidays").forEach(h -> records.holiday(h).ifPresent(holidays::add));
        List<CardFormat> formats = new ArrayList<>();
        rules.list("formats").forEach(f -> records.format(f).ifPresent(formats::add));
        target.rules(system, new RuleBook(levels, timetables, holidays, formats));
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
                    keep(p, Saying.of("inventory.person-id"));
                } else if (seen.add(id.get())) {
                    fresh = true;
                    after = id.get();
                    Person person = records.person(p, id.get(), credentials);
                    people.add(person);
                    person.photo().ifPresent(version -> photos.add(new WithPhoto(person.id(), id.get(), version)));
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
