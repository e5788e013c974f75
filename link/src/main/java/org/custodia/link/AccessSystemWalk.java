package org.custodia.link;

import java.io.IOException;
import java.io.InputStream;
import java.time.Clock;
import java.time.DateTimeException;
import java.time.Duration;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.UUID;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.function.Consumer;
import org.custodia.core.event.Event;
import org.custodia.core.event.Kinds;
import org.custodia.core.footage.JpegSize;
import org.custodia.core.link.Finding;
import org.custodia.core.link.Finding.Step;
import org.custodia.core.mishap.Threads;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.DoorCapability;
import org.custodia.wire.AccessMessages.Command;
import org.custodia.wire.AccessMessages.CommandReply;
import org.custodia.wire.Fields;
import org.custodia.wire.WireException;

/** A walk through an access system. Nothing is changed there unless a door is named to be opened once. */
public final class AccessSystemWalk extends SystemWalk {
    private static final Duration HEARTBEAT_WITHIN = Duration.ofSeconds(6);
    private static final Duration CONFIRM_WITHIN = Duration.ofSeconds(8);
    private static final int MOST_NAMED = 6;
    /** So many records of the inventory that cannot be read are named. */
    private static final int MOST_RECORDS = 40;

    private static final int LOOK_AT = 400;
    private static final Set<String> MODES = Set.of("locked", "unlocked", "blocked");

    private final Optional<String> actOn;
    private final Set<String> doors = new HashSet<>();
    private final Set<String> withContact = new HashSet<>();
    private final EventTranslation translation;
    /** Why records of the inventory are left out, or are odd. */
    private final Set<Saying> oddRecords = new LinkedHashSet<>();

    private final InventoryRecords records;
    private long epoch;
    private long lastSeq;
    private long firstSeq = 1;

    /**
     * @param actOn the system's own id of a door that may be opened once, to see that commands work
     * @param told of each finding, in order
     */
    public AccessSystemWalk(LinkFactory.Destination to, Optional<String> actOn, Clock clock, Consumer<Finding> told) {
        super(to, clock, told);
        this.actOn = actOn;
        this.translation = new EventTranslation(system, clocks);
        this.records = new InventoryRecords(system, (record, why) -> oddRecords.add(why));
    }

    /** Walks through it to the end, or as far as it lets one in. */
    @Override
    public void walk() throws InterruptedException {
        Optional<Fields> hello = greeting();
        if (hello.isEmpty()) {
            return;
        }
        counting(hello.get());
        wrongToken();
        unknownPath();
        part(Step.CLOCK, "GET time tells the system's time", this::clock);
        part(Step.HAS, "GET inventory/places lists sites and doors", this::places);
        part(Step.HAS, "GET inventory/people lists people page by page", this::people);
        part(Step.HAS, "GET inventory/rules lists levels and timetables", this::rules);
        oddRecords();
        part(Step.TELLS, "GET snapshot tells how the doors stand", this::snapshot);
        part(Step.TELLS, "GET events gives events by their numbers", this::events);
        part(Step.TELLS, "GET stream goes on from a number", this::stream);
        part(Step.DOES, "POST commands refuses what cannot be done", this::unknownDoor);
        if (actOn.isPresent()) {
            part(Step.DOES, "a door confirms a command", () -> act(actOn.get()));
        } else {
            notTried(
                    "a door confirms a command with an event that carries the command's key",
                    "no door was named that may be opened once");
        }
    }

    private void counting(Fields hello) {
        Optional<Long> saysEpoch = hello.number("epoch");
        Optional<Long> saysLast = hello.number("lastSeq");
        boolean counts = saysEpoch.filter(e -> e >= 0 && e < 1L << 52).isPresent()
                && saysLast.filter(s -> s >= 0).isPresent();
        either(
                counts,
                "hello says in which epoch it counts and how far it has come",
                "epoch " + saysEpoch.orElse(0L) + ", event " + saysLast.orElse(0L),
                "\"epoch\" (0 to 2^52 - 1) or \"lastSeq\" (0 or more) is missing or odd");
        epoch = saysEpoch.orElse(0L);
        lastSeq = saysLast.orElse(0L);
        firstSeq = hello.number("firstSeq").orElse(1L);
        if (hello.text("inventory").isEmpty()) {
            advice(
                    "hello says which version its inventory has",
                    "it does not, so a console reads it once and never notices a change");
        } else {
            met(
                    "hello says which version its inventory has",
                    "\"" + hello.text("inventory").get() + "\"");
        }
    }

    private void places() throws IOException {
        Fields places = requests.fields(InventoryReader.placesPath(""));
        Set<String> sites = new HashSet<>();
        List<String> problems = new ArrayList<>();
        List<String> better = new ArrayList<>();
        for (Fields site : places.list("sites")) {
            Optional<String> id = site.word("id");
            if (id.isEmpty() || !sites.add(id.get())) {
                problems.add("a site without an id, or one that is there twice");
            }
            Optional<String> zone = site.word("timeZone");
            zone.ifPresent(z -> zone(z, problems));
            if (zone.isEmpty()) {
                better.add("the site " + id.orElse("") + " says no time zone, so its times are shown in UTC");
            }
        }
        Set<String> unknown = new TreeSet<>();
        Fields page = places;
        for (boolean more = true; more; ) {
            int before = doors.size();
            String last = "";
            for (Fields door : page.list("doors")) {
                door(door, sites, problems, better, unknown);
                records.door(door).ifPresent(d -> door.list("readers").forEach(r -> records.reader(r, d)));
                last = door.word("id").orElse(last);
            }
            page.list("sites").forEach(records::site);
            page.list("units").forEach(records::device);
            more = page.flag("more").orElse(false);
            if (more && doors.size() == before) {
                problems.add("\"more\" is true after a page with no new door in it, so the list never ends");
                more = false;
            }
            if (more) {
                page = requests.fields(InventoryReader.placesPath(last));
            }
        }
        either(
                places.hasList("doors") && problems.isEmpty(),
                "GET inventory/places lists sites and doors",
                sites.size() + " sites, " + doors.size() + " doors",
                places.hasList("doors") ? some(problems) : "there is no list of doors");
        if (!better.isEmpty()) {
            advice("sites and doors say more than their id", some(better));
        }
        if (!unknown.isEmpty()) {
            advice("capabilities are words of the protocol", "passed over: " + String.join(", ", unknown));
        }
    }

    /** What a console would leave out, or take as not allowed: read as it reads it. */
    private void oddRecords() {
        String requirement = "each record of the inventory can be read";
        if (oddRecords.isEmpty()) {
            met(requirement, "nothing is left out");
        }
        oddRecords.stream()
                .limit(MOST_RECORDS)
                .forEach(why -> tell(requirement, Finding.Verdict.NOT_MET, Saying.of("check.record-odd", why)));
    }

    private static void zone(String zone, List<String> problems) {
        try {
            ZoneId.of(zone);
        } catch (DateTimeException e) {
            problems.add("\"" + zone + "\" is no time zone of the IANA database");
        }
    }

    private void door(Fields door, Set<String> sites, List<String> problems, List<String> better, Set<String> unknown) {
        Optional<String> id = door.word("id");
        if (id.isEmpty() || id.get().length() > 200 || !doors.add(id.get())) {
            problems.add("a door without an id, with one of more than 200 characters, or one that is there twice");
            return;
        }
        String name = "the door " + id.get() + " ";
        if (door.word("controller").isEmpty()) {
            better.add(name + "names no controller, so it counts as its own");
        }
        if (door.word("site").filter(sites::contains).isEmpty()) {
            better.add(name + "lies at a site that is not listed, so its times are shown in UTC");
        }
        if (door.number("heldLimitSeconds").filter(s -> s > 0).isEmpty()) {
            better.add(name + "says no heldLimitSeconds, so 60 is used");
        }
        for (String word : door.texts("capabilities")) {
            try {
                DoorCapability.valueOf(word.toUpperCase(Locale.ROOT).replace('-', '_'));
            } catch (IllegalArgumentException e) {
                unknown.add(word);
            }
            if (word.equals("contact")) {
                withContact.add(id.get());
            }
        }
        door.odd().forEach(f -> problems.add(name + "has an odd field \"" + f + "\""));
    }

    private static String some(List<String> problems) {
        List<String> each = problems.stream().distinct().toList();
        String more = each.size() > MOST_NAMED ? "; and " + (each.size() - MOST_NAMED) + " more" : "";
        return String.join("; ", each.subList(0, Math.min(MOST_NAMED, each.size()))) + more;
    }

    private void people() throws IOException {
        List<String> problems = new ArrayList<>();
        Set<String> seen = new HashSet<>();
        Optional<Fields> photographed = Optional.empty();
        String after = "";
        boolean more = true;
        int badges = 0;
        int limit = 50;
        for (int page = 0; more && page < 100; page++) {
            Fields answer = requests.fields("inventory/people?limit=" + limit + "&after=" + Requests.segment(after));
            List<Fields> people = answer.list("people");
            if (people.size() > limit) {
                problems.add("a page has " + people.size() + " people where " + limit + " were asked for");
            }
            int fresh = 0;
            for (Fields person : people) {
                Optional<String> id = person.word("id");
                if (id.isEmpty()) {
                    problems.add("a person without an id");
                } else if (seen.add(id.get())) {
                    fresh++;
                    after = id.get();
                } else {
                    problems.add("the person " + id.get() + " comes twice");
                }
                badges += badges(person, problems);
                id.ifPresent(i -> records.person(person, i, new ArrayList<>()));
                if (photographed.isEmpty() && person.word("photo").isPresent()) {
                    photographed = Optional.of(person);
                }
            }
            more = answer.flag("more").orElse(false);
            if (more && fresh == 0) {
                problems.add("\"more\" is true after a page with nobody new in it, so the list never ends");
                more = false;
            }
        }
        either(
                problems.isEmpty(),
                "GET inventory/people lists people page by page",
                seen.size() + " people with " + badges + " badges" + (more ? "; only the first were looked at" : ""),
                some(problems));
        if (photographed.isPresent()) {
            photo(photographed.get());
        }
    }

    private static int badges(Fields person, List<String> problems) {
        List<Fields> credentials = person.list("credentials");
        for (Fields c : credentials) {
            boolean status = Set.of("active", "suspended", "lost", "returned")
                    .contains(c.word("status").orElse("active").toLowerCase(Locale.ROOT));
            if (c.word("number").isEmpty() || !status) {
                problems.add("a badge of " + person.text("id").orElse("somebody")
                        + " without a number, or with a status other than active, suspended, lost or returned");
            }
        }
        return credentials.size();
    }

    private void photo(Fields person) throws IOException {
        String requirement = "GET people/ID/photo gives a JPEG of at most 2 MB and 16 million points";
        byte[] jpeg = requests.whole(
                requests.open("people/" + Requests.segment(person.word("id").orElseThrow()) + "/photo", null, null),
                2 * 1024 * 1024);
        Optional<JpegSize> size = JpegSize.of(jpeg);
        either(
                size.filter(JpegSize::reasonable).isPresent(),
                requirement,
                size.map(s -> s.width() + " by " + s.height()).orElse("") + ", " + jpeg.length + " bytes",
                size.map(s -> "it is " + s.width() + " by " + s.height()).orElse("it is no JPEG"));
    }

    private void rules() throws IOException {
        Fields rules = requests.fields("inventory/rules");
        rules.list("levels").forEach(records::level);
        rules.list("timetables").forEach(records::timetable);
        rules.list("holidays").forEach(records::holiday);
        rules.list("formats").forEach(records::format);
        either(
                rules.hasList("levels") && rules.hasList("timetables"),
                "GET inventory/rules lists levels and timetables",
                rules.list("levels").size() + " levels, "
                        + rules.list("timetables").size() + " timetables",
                "\"levels\" or \"timetables\" is missing");
    }

    private void snapshot() throws IOException {
        Fields snapshot = requests.fields("snapshot");
        List<String> problems = new ArrayList<>();
        if (!snapshot.number("epoch").equals(Optional.of(epoch))) {
            problems.add("it is of another epoch than hello says");
        }
        if (snapshot.number("seq").filter(s -> s >= lastSeq - 1).isEmpty()) {
            problems.add("its \"seq\" is missing, or lower than what hello said before it");
        }
        if (snapshot.instant("time").isEmpty()) {
            problems.add("it has no \"time\"");
        }
        Set<String> told = new HashSet<>();
        for (Fields door : snapshot.list("doors")) {
            String id = door.word("door").orElse("");
            told.add(id);
            Map<String, String> details = door.map("details");
            if (!doors.isEmpty() && !doors.contains(id)) {
                problems.add("it tells of a door \"" + id + "\" that is not in the inventory");
            }
            if (details.containsKey("mode") && !MODES.contains(details.get("mode"))) {
                problems.add("of " + id + " it does not say \"mode\" as locked, unlocked or blocked");
            }
            if (withContact.contains(id)
                    && !Set.of("open", "closed").contains(details.getOrDefault("position", ""))
                    && !"lost".equals(details.get("reach"))) {
                problems.add("of " + id + ", which has a contact, it does not say \"position\" as open or closed");
            }
        }
        doors.stream()
                .filter(d -> !told.contains(d))
                .findFirst()
                .ifPresent(d -> problems.add("it does not tell of " + d));
        either(
                problems.isEmpty(),
                "GET snapshot tells how the doors stand, as of an event",
                told.size() + " doors as of event " + snapshot.number("seq").orElse(0L),
                some(problems));
    }

    /** What a page of events says. */
    private static final class Page {
        private final List<Event> events = new ArrayList<>();
        private final List<String> problems = new ArrayList<>();
        /** Why lines cannot be understood. */
        private final List<Saying> unread = new ArrayList<>();

        private int lines;
    }

    private Page page(long after, int limit) throws IOException, InterruptedException {
        Page page = new Page();
        requests.lines("events?after=" + after + "&limit=" + limit, line -> {
            page.lines++;
            if (!line.whole()) {
                page.problems.add("the last line does not end with a line feed");
            }
            EventTranslation.Understood u = translation.read(line.text(), clock.instant(), Optional.empty());
            u.unread().ifPresent(x -> page.unread.add(x.why()));
            u.event().ifPresent(page.events::add);
        });
        return page;
    }

    private void events() throws IOException, InterruptedException {
        long after = Math.max(firstSeq - 1, lastSeq - LOOK_AT);
        Page page = page(after, LOOK_AT);
        List<String> problems = page.problems;
        if (page.lines > LOOK_AT) {
            problems.add(page.lines + " lines came where " + LOOK_AT + " were asked for");
        }
        long before = after;
        int holes = 0;
        for (Event e : page.events) {
            if (e.key().epoch() != epoch) {
                problems.add("event " + e.key().sequence() + " is of epoch "
                        + e.key().epoch());
            } else if (e.key().sequence() <= before) {
                problems.add("event " + e.key().sequence() + " comes after event " + before);
            } else {
                holes += e.key().sequence() == before + 1 ? 0 : 1;
                before = e.key().sequence();
            }
        }
        if (holes > 0 && page.events.get(0).key().sequence() == after + 1) {
            problems.add("there are " + holes + " holes in the numbers");
        } else if (holes > 0) {
            problems.add("the first event after " + after + " is "
                    + page.events.get(0).key().sequence());
        }
        if (lastSeq > 0 && before < lastSeq) {
            problems.add("hello says that it has reached event " + lastSeq + ", and none comes after " + before);
        }
        either(
                problems.isEmpty(),
                "GET events gives events after a number, in order and without holes, a line each",
                page.events.size() + " events looked at" + (lastSeq == 0 ? "; it has none yet" : ""),
                some(problems));
        page.unread.stream()
                .distinct()
                .limit(3)
                .forEach(why ->
                        tell("each line can be understood", Finding.Verdict.NOT_MET, Saying.of("check.line-odd", why)));
        fields(page.events);
        Page none = page(Math.max(lastSeq, before) + 1_000_000, 10);
        either(
                none.lines == 0,
                "GET events after the newest number gives nothing",
                "it does",
                none.lines + " lines came");
        kept();
    }

    private void fields(List<Event> events) {
        List<String> problems = new ArrayList<>();
        Set<String> unknown = new TreeSet<>();
        Map<String, Integer> odd = new HashMap<>();
        for (Event e : events) {
            String name = "event " + e.key().sequence() + " ";
            e.detail(Event.UNREAL).ifPresent(t -> problems.add(name + "has no time that can be (" + t + ")"));
            e.detail("~odd").ifPresent(f -> odd.merge(f, 1, Integer::sum));
            e.door()
                    .map(d -> d.value().substring(system.value().length() + 1))
                    .filter(d -> !doors.isEmpty() && !doors.contains(d))
                    .ifPresent(d -> problems.add(name + "is at a door \"" + d + "\" that is not in the inventory"));
            boolean doors = e.kind().id().startsWith("door.") || e.kind().id().startsWith("access.");
            if (doors && e.door().isEmpty()) {
                problems.add(name + "of the kind " + e.kind() + " names no door, so it moves none");
            }
            if (doors && e.controller().isEmpty()) {
                problems.add(name + "names no controller, so nothing keeps its order");
            }
            if (Kinds.entry(e.kind()).name().equals(e.kind().id())) {
                unknown.add(e.kind().id());
            }
        }
        odd.forEach((f, n) -> problems.add(n + " events have odd fields: " + f));
        either(
                problems.isEmpty(),
                "each event has a time, a kind, a controller and, at a door, the door",
                events.isEmpty() ? "there is none to look at" : "they have",
                some(problems));
        if (!unknown.isEmpty()) {
            advice("kinds are those of the protocol", "shown under their own names: " + String.join(", ", unknown));
        }
    }

    private void kept() throws IOException, InterruptedException {
        if (lastSeq == 0) {
            return;
        }
        Page first = page(0, 1);
        long oldest = first.events.isEmpty() ? 0 : first.events.get(0).key().sequence();
        either(
                oldest == firstSeq || oldest == 1,
                "hello says in \"firstSeq\" which events it still keeps, if not all",
                "the oldest is " + oldest,
                "the oldest is " + oldest + ", and hello says " + firstSeq);
    }

    private void stream() throws IOException {
        long from = Math.max(0, lastSeq - 1);
        Requests.Answer answer = requests.open("stream", "Last-Event-ID", epoch + ":" + from);
        String type = answer.headers().firstValue("Content-Type").orElse("");
        either(
                type.startsWith("text/event-stream"),
                "GET stream is of the type text/event-stream",
                "it is",
                "it says \"" + type + "\"");
        AtomicBoolean over = new AtomicBoolean();
        Thread end = ending(answer.body(), HEARTBEAT_WITHIN, over);
        boolean beat = false;
        boolean resumed = lastSeq == 0;
        try (InputStream body = answer.body()) {
            EventStream stream = new EventStream(body);
            EventStream.Message message;
            while (!(beat && resumed) && (message = stream.next()) != null) {
                if (message.event().equals("heartbeat")) {
                    beat = heartbeat(message.data());
                } else if (message.event().equals("event") && !resumed) {
                    resumed = true;
                    first(message);
                }
            }
        } catch (IOException e) {
            if (!over.get()) {
                throw LinkException.of("link.stream-broke-off");
            }
        } finally {
            end.interrupt();
        }
        if (!beat) {
            notMet(
                    "a heartbeat comes every 3 s",
                    "none that can be understood came within " + HEARTBEAT_WITHIN.toSeconds() + " s");
        }
        if (!resumed) {
            notMet(
                    "the stream goes on after the number in Last-Event-ID",
                    "event " + lastSeq + " did not come after asking from " + from);
        }
    }

    private static Thread ending(InputStream body, Duration within, AtomicBoolean over) {
        Thread end = Threads.daemon("check ends", () -> {
            try {
                Thread.sleep(within.toMillis());
                over.set(true);
                body.close();
            } catch (InterruptedException | IOException e) {
                // It ended by itself.
            }
        });
        end.start();
        return end;
    }

    private boolean heartbeat(String data) {
        Fields beat;
        try {
            beat = Fields.of(data);
        } catch (WireException e) {
            return false;
        }
        boolean whole = beat.instant("time").isPresent()
                && beat.number("epoch").equals(Optional.of(epoch))
                && beat.number("lastSeq").filter(s -> s >= lastSeq).isPresent();
        if (whole) {
            met("a heartbeat comes every 3 s, with time, epoch and lastSeq", "it did");
        }
        return whole;
    }

    private void first(EventStream.Message message) {
        Optional<Event> event = translation
                .read(message.data(), clock.instant(), Optional.empty())
                .event();
        either(
                event.filter(e -> e.key().sequence() == lastSeq).isPresent(),
                "the stream goes on after the number in Last-Event-ID",
                "event " + lastSeq + " came first",
                "the first event that came is "
                        + event.map(e -> Long.toString(e.key().sequence())).orElse("none that can be understood")
                        + ", not "
                        + lastSeq);
        either(
                event.filter(e -> message.id()
                                .equals(e.key().epoch() + ":" + e.key().sequence()))
                        .isPresent(),
                "each event in the stream has its epoch and number as id",
                "\"" + message.id() + "\"",
                "the id is \"" + message.id() + "\"");
    }

    private void unknownDoor() throws IOException {
        String requirement = "POST commands refuses a door that is not there";
        try {
            CommandReply reply = requests.post(
                    "commands",
                    new Command(
                            UUID.randomUUID().toString(),
                            "no-such-door-" + UUID.randomUUID(),
                            "let-through",
                            null,
                            null),
                    CommandReply.class,
                    Duration.ofSeconds(5));
            either(
                    "refused".equals(reply.result()) || "not-reached".equals(reply.result()),
                    requirement,
                    "it says: " + reply.words(),
                    "it answers \"" + reply.result() + "\"");
        } catch (LinkException e) {
            either(
                    e.status() >= 400 && e.status() < 500,
                    requirement,
                    Saying.of("check.it-says", e.saying()),
                    e.saying());
        }
    }

    /** Opens a door once and waits for what it says. */
    private void act(String door) throws IOException {
        String requirement = "a door confirms a command with an event that carries the command's key";
        Fields hello = requests.fields("hello");
        long from = hello.number("lastSeq").orElse(lastSeq);
        String key = UUID.randomUUID().toString();
        Command command = new Command(key, door, "let-through", null, null);
        CommandReply reply = requests.post("commands", command, CommandReply.class, Duration.ofSeconds(5));
        if (!"done".equals(reply.result())) {
            notMet("let-through at " + door + " is done", "it answers \"" + reply.result() + "\": " + reply.words());
            return;
        }
        met("let-through at " + door + " is done", "it answers \"done\"");
        requests.post("commands", command, CommandReply.class, Duration.ofSeconds(5));
        Requests.Answer answer = requests.open("stream", "Last-Event-ID", epoch + ":" + from);
        AtomicBoolean over = new AtomicBoolean();
        Thread end = ending(answer.body(), CONFIRM_WITHIN, over);
        int confirmed = 0;
        try (InputStream body = answer.body()) {
            EventStream stream = new EventStream(body);
            EventStream.Message message;
            while ((message = stream.next()) != null) {
                Optional<Event> event = translation
                        .read(message.data(), clock.instant(), Optional.empty())
                        .event();
                boolean fits = event.filter(e -> e.kind().equals(Kinds.RELEASED)
                                && e.cause().equals(Optional.of(key))
                                && e.door()
                                        .filter(d -> d.value().equals(system.value() + "/" + door))
                                        .isPresent())
                        .isPresent();
                confirmed += fits ? 1 : 0;
            }
        } catch (IOException e) {
            if (!over.get()) {
                throw LinkException.of("link.stream-broke-off");
            }
        } finally {
            end.interrupt();
        }
        either(
                confirmed > 0,
                requirement,
                "door.released came with it",
                "no door.released of that door with \"cause\" came within " + CONFIRM_WITHIN.toSeconds() + " s");
        either(
                confirmed < 2,
                "the same key again has no second effect",
                "the command was sent twice and done once",
                "the door was released " + confirmed + " times");
    }
}
