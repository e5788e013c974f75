package org.custodia.practice.serve;

import io.javalin.Javalin;
import io.javalin.http.Context;
import java.io.IOException;
import java.io.OutputStream;
import java.nio.charset.StandardCharsets;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.Semaphore;
import java.util.concurrent.TimeUnit;
import java.util.stream.Collectors;
import org.custodia.core.access.Timetable;
import org.custodia.core.site.DoorCapability;
import org.custodia.practice.picture.Portraits;
import org.custodia.practice.place.Building;
import org.custodia.practice.place.Installation;
import org.custodia.practice.place.PracticeDoor;
import org.custodia.practice.place.PracticePerson;
import org.custodia.practice.place.SiteRules;
import org.custodia.practice.timeline.AccessSystem;
import org.custodia.practice.timeline.Act;
import org.custodia.practice.timeline.AlarmList;
import org.custodia.practice.timeline.Timeline;
import org.custodia.wire.AccessMessages.Command;
import org.custodia.wire.AccessMessages.CommandReply;
import org.custodia.wire.AccessMessages.DoorReport;
import org.custodia.wire.AccessMessages.Handling;
import org.custodia.wire.AccessMessages.Heartbeat;
import org.custodia.wire.AccessMessages.Hello;
import org.custodia.wire.AccessMessages.Places;
import org.custodia.wire.AccessMessages.Rules;
import org.custodia.wire.AccessMessages.Snapshot;
import org.custodia.wire.AccessMessages.Taken;
import org.custodia.wire.AccessMessages.UnitReport;
import org.custodia.wire.AccessMessages.WireCredential;
import org.custodia.wire.AccessMessages.WireDoor;
import org.custodia.wire.AccessMessages.WireFormat;
import org.custodia.wire.AccessMessages.WireLevel;
import org.custodia.wire.AccessMessages.WirePerson;
import org.custodia.wire.AccessMessages.WireReader;
import org.custodia.wire.AccessMessages.WireSite;
import org.custodia.wire.AccessMessages.WireSpan;
import org.custodia.wire.AccessMessages.WireTimetable;
import org.custodia.wire.AccessMessages.WireUnit;
import org.custodia.wire.Wire;
import org.custodia.wire.WireEvent;

/** An access system's side of the link protocol. */
final class AccessApi {
    /** Nothing changes in what there is. */
    private static final String INVENTORY = "1";

    private static final Duration HEARTBEAT = Duration.ofSeconds(3);
    private static final int MOST = 5_000;

    private final AccessSystem system;
    private final Timeline timeline;
    private final SiteRules rules;
    private final Clock clock;
    private final Links links;

    AccessApi(AccessSystem system, Timeline timeline, Clock clock, Links links) {
        this.system = system;
        this.timeline = timeline;
        this.rules = timeline.rules();
        this.clock = clock;
        this.links = links;
    }

    void register(Javalin app) {
        String base = "/access/" + system.id() + "/";
        app.get(base + "hello", ctx -> Answers.json(ctx, hello()));
        new ClockApi(system.id(), system.clock(), timeline, clock).register(app, base);
        app.get(base + "inventory/places", ctx -> Answers.json(ctx, places(ctx)));
        app.get(base + "inventory/people", ctx -> Answers.json(ctx, people(ctx)));
        app.get(base + "inventory/rules", ctx -> Answers.json(ctx, rules()));
        app.get(base + "people/{id}/photo", this::photo);
        app.get(base + "snapshot", ctx -> Answers.json(ctx, snapshot()));
        app.get(base + "events", this::events);
        app.get(base + "stream", this::stream);
        app.post(base + "commands", this::command);
        app.post(base + "alarms", this::handled);
    }

    /** One event a line (NDJSON), so that each can be read, and kept, by itself. */
    private void events(Context ctx) {
        StringBuilder lines = new StringBuilder();
        for (WireEvent event : system.after(number(ctx, "after", 0), (int) number(ctx, "limit", 1000))) {
            lines.append(Wire.write(event)).append('\n');
        }
        ctx.contentType("application/x-ndjson; charset=utf-8").result(lines.toString());
    }

    private Instant time() {
        return Instant.ofEpochMilli(system.clock().shows(clock.millis()));
    }

    private Hello hello() {
        return new Hello(
                Wire.VERSION,
                system.id(),
                system.name(),
                system.make(),
                AccessSystem.EPOCH,
                system.lastSeq(),
                INVENTORY,
                true);
    }

    private static long number(Context ctx, String name, long otherwise) {
        String text = ctx.queryParam(name);
        if (text == null) {
            return otherwise;
        }
        try {
            long value = Long.parseLong(text);
            return name.equals("limit") ? Math.max(1, Math.min(MOST, value)) : value;
        } catch (NumberFormatException e) {
            throw new Answers.BadRequest(name + " is a number, not \"" + text + "\"");
        }
    }

    private List<PracticeDoor> doors() {
        return timeline.place().doors().stream()
                .filter(d -> d.building().accessSystem().equals(system.id()))
                .toList();
    }

    private Places places(Context ctx) {
        String after = Optional.ofNullable(ctx.queryParam("after")).orElse("");
        int limit = (int) number(ctx, "limit", 500);
        List<WireSite> sites = new ArrayList<>();
        for (Building b : timeline.place().buildings()) {
            if (b.accessSystem().equals(system.id())) {
                sites.add(new WireSite(b.id(), b.title(), b.zone().getId()));
            }
        }
        List<WireDoor> doors = doors().stream()
                .map(d -> new WireDoor(
                        d.id(),
                        d.controller(),
                        d.name(),
                        d.building().id(),
                        d.level(),
                        d.outside(),
                        d.inside(),
                        (int) d.heldLimit().toSeconds(),
                        capabilities(d),
                        readers(d),
                        asks(d)))
                .toList();
        List<WireUnit> units = timeline.units(system.id()).stream()
                .map(u -> new WireUnit(u.id(), u.kind(), u.name(), u.site(), u.controller(), u.door()))
                .toList();
        int from = after.isEmpty()
                ? 0
                : (int) doors.stream().takeWhile(d -> !d.id().equals(after)).count() + 1;
        int to = Math.min(doors.size(), from + Math.max(1, limit));
        boolean first = from == 0;
        return new Places(
                first ? sites : List.of(),
                from < to ? doors.subList(from, to) : List.of(),
                first ? units : List.of(),
                to < doors.size());
    }

    private static List<String> asks(PracticeDoor d) {
        List<String> asks = new ArrayList<>();
        if (d.pin()) {
            asks.add("pin");
        }
        if (d.twoPersons()) {
            asks.add("two-persons");
        }
        if (d.antiPassback()) {
            asks.add("once-inside");
        }
        return asks;
    }

    private static List<WireReader> readers(PracticeDoor d) {
        WireReader in = new WireReader(d.id() + ".in", "entry", d.name() + ", going in");
        return d.exitReader()
                ? List.of(in, new WireReader(d.id() + ".out", "exit", d.name() + ", coming out"))
                : List.of(in);
    }

    private List<String> capabilities(PracticeDoor d) {
        List<DoorCapability> all = new ArrayList<>(List.of(
                DoorCapability.LET_THROUGH,
                DoorCapability.LOCK,
                DoorCapability.TIMETABLE,
                DoorCapability.REPORTS_FORCED,
                DoorCapability.UNTIL,
                DoorCapability.BLOCK,
                DoorCapability.REPORTS_HELD));
        if (d.contact()) {
            all.add(DoorCapability.CONTACT);
        }
        if (!d.turnstile()) {
            all.add(DoorCapability.LEAVE_UNLOCKED);
        }
        if (d.exitReader()) {
            all.add(DoorCapability.EXIT_READER);
        }
        if (display(d).isPresent()) {
            all.add(DoorCapability.DISPLAY);
        }
        return all.stream()
                .map(c -> c.name().toLowerCase(Locale.ROOT).replace('_', '-'))
                .filter(c -> !system.cannot().contains(c))
                .toList();
    }

    private org.custodia.wire.AccessMessages.People people(Context ctx) {
        String after = Optional.ofNullable(ctx.queryParam("after")).orElse("");
        int limit = (int) number(ctx, "limit", 500);
        List<PracticePerson> mine = timeline.people().all().stream()
                .filter(p -> timeline.place().building(p.home()).accessSystem().equals(system.id()))
                .filter(p -> p.id().compareTo(after) > 0)
                .limit(limit + 1L)
                .toList();
        List<WirePerson> page =
                mine.stream().limit(limit).map(AccessApi::person).toList();
        return new org.custodia.wire.AccessMessages.People(page, mine.size() > limit);
    }

    private static WirePerson person(PracticePerson p) {
        return new WirePerson(
                p.id(),
                p.name(),
                p.company(),
                p.kind(),
                p.until().orElse(null),
                p.stopped(),
                "1",
                p.levels(),
                p.badges().stream()
                        .map(b -> new WireCredential(
                                b.number(),
                                b.kind(),
                                b.status(),
                                null,
                                b.until().orElse(null)))
                        .toList());
    }

    private void photo(Context ctx) {
        PracticePerson person = timeline.people()
                .byId(ctx.pathParam("id"))
                .filter(p -> timeline.place().building(p.home()).accessSystem().equals(system.id()))
                .orElseThrow(() -> new Answers.NotFound("there is nobody with that id"));
        ctx.contentType("image/jpeg").result(Portraits.jpeg(person.look()));
    }

    private Rules rules() {
        List<WireLevel> levels = rules.levels().stream()
                .map(l -> {
                    Map<String, String> doors = new HashMap<>();
                    l.doors().forEach((door, table) -> doors.put(door.value(), table));
                    return new WireLevel(l.id(), l.name(), doors);
                })
                .toList();
        List<WireTimetable> tables = rules.timetables().stream()
                .map(t -> new WireTimetable(
                        t.id(),
                        t.name(),
                        t.spans().stream().map(AccessApi::span).toList()))
                .toList();
        List<WireFormat> formats = rules.formats().stream()
                .map(f -> new WireFormat(f.id(), f.name(), f.digits()))
                .toList();
        return new Rules(levels, tables, List.of(), formats);
    }

    private static WireSpan span(Timetable.Span s) {
        String to = s.to().equals(java.time.LocalTime.MAX) ? "24:00" : s.to().toString();
        return new WireSpan(
                s.days().stream().map(Enum::name).sorted().toList(), s.from().toString(), to);
    }

    private Snapshot snapshot() {
        Timeline.StateOf state = timeline.snapshot(system.id(), clock.instant());
        List<DoorReport> doors = new ArrayList<>();
        state.doors().forEach((door, details) -> doors.add(new DoorReport(door, details)));
        List<UnitReport> units = new ArrayList<>();
        state.units().forEach((unit, details) -> {
            if (!details.isEmpty()) {
                units.add(new UnitReport(unit, details));
            }
        });
        return new Snapshot(AccessSystem.EPOCH, state.seq(), time(), doors, units);
    }

    private void handled(Context ctx) {
        Handling handling = Answers.body(ctx, Handling.class);
        boolean whole = handling.key() != null
                && ("acknowledged".equals(handling.act()) || "finished".equals(handling.act()))
                && handling.events() != null
                && !handling.events().isEmpty();
        if (!whole) {
            throw new Answers.BadRequest("say key, act (acknowledged or finished) and events");
        }
        String numbers = handling.events().stream()
                .filter(e -> e.epoch() == AccessSystem.EPOCH)
                .map(e -> String.valueOf(e.seq()))
                .collect(Collectors.joining(","));
        Optional<String> problem = timeline.act(
                Act.of(handling.act())
                        .target(system.id() + AlarmList.SUFFIX)
                        .badge(null, null, handling.by(), false)
                        .command(numbers, handling.key()),
                clock.instant());
        if (problem.isPresent()) {
            throw new Answers.NotFound(problem.get());
        }
        Answers.json(ctx, new Taken());
    }

    private Optional<String> display(PracticeDoor door) {
        return timeline.units(system.id()).stream()
                .filter(u -> u.kind().equals("display") && door.id().equals(u.door()))
                .map(Installation.UnitEntry::id)
                .findFirst();
    }

    private void command(Context ctx) {
        Command command = Answers.body(ctx, Command.class);
        if (command.key() == null || command.door() == null || command.command() == null) {
            throw new Answers.BadRequest("a command has a key, a door and a command");
        }
        PracticeDoor door = doors().stream()
                .filter(d -> d.id().equals(command.door()))
                .findFirst()
                .orElseThrow(() -> new Answers.NotFound("there is no door " + command.door()));
        List<String> can = capabilities(door);
        boolean able =
                switch (command.command()) {
                    case "let-through", "leave-unlocked", "lock", "timetable", "block" ->
                        can.contains(command.command()) && (command.until() == null || can.contains("until"));
                    case "show-text" -> can.contains("display") && command.text() != null;
                    default -> false;
                };
        if (!able) {
            Answers.json(ctx, new CommandReply("refused", "this door cannot do that"));
            return;
        }
        long until = command.until() == null
                ? 0
                : system.clock().trueAt(command.until().toEpochMilli());
        Act act = command.command().equals("show-text")
                ? Act.of("text").target(display(door).orElseThrow()).command(command.text(), command.key())
                : Act.of("command")
                        .door(door.id())
                        .command(command.command(), command.key())
                        .millis(until);
        Optional<String> problem = timeline.act(act, clock.instant());
        Answers.json(
                ctx,
                problem.isEmpty()
                        ? new CommandReply("done", "done")
                        : new CommandReply(timeline.reaches(door.id()) ? "refused" : "not-reached", problem.get()));
    }

    /** Server-sent events (HTML Living Standard, 9.2): the sequence number is the id; a heartbeat carries the time. */
    private void stream(Context ctx) throws IOException {
        long last = after(ctx);
        Semaphore news = new Semaphore(1);
        Runnable bell = news::release;
        system.listen(bell);
        ctx.res().setContentType("text/event-stream; charset=utf-8");
        OutputStream out = ctx.res().getOutputStream();
        long beat = 0;
        long opened = links.opened(system.id());
        try {
            while (links.still(system.id(), opened)) {
                StringBuilder text = new StringBuilder();
                for (WireEvent event : system.after(last, MOST)) {
                    text.append("id: ").append(event.epoch()).append(':').append(event.seq());
                    text.append("\nevent: event\ndata: ")
                            .append(Wire.write(event))
                            .append("\n\n");
                    last = event.seq();
                }
                for (String foreign : links.takeForeign(system.id())) {
                    text.append("event: event\ndata: ").append(foreign).append("\n\n");
                }
                if (System.nanoTime() - beat > HEARTBEAT.toNanos()) {
                    beat = System.nanoTime();
                    text.append("event: heartbeat\ndata: ")
                            .append(Wire.write(new Heartbeat(time(), AccessSystem.EPOCH, system.lastSeq(), INVENTORY)))
                            .append("\n\n");
                }
                if (!text.isEmpty()) {
                    out.write(text.toString().getBytes(StandardCharsets.UTF_8));
                    out.flush();
                }
                if (news.tryAcquire(500, TimeUnit.MILLISECONDS)) {
                    news.drainPermits();
                }
            }
            links.cut(ctx);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        } finally {
            system.forget(bell);
        }
    }

    private static long after(Context ctx) {
        String header = Optional.ofNullable(ctx.header("Last-Event-ID")).orElse("1:0");
        try {
            return Long.parseLong(header.substring(header.indexOf(':') + 1));
        } catch (NumberFormatException e) {
            throw new Answers.BadRequest("Last-Event-ID is epoch:number, not \"" + header + "\"");
        }
    }
}
