package org.custodia.practice.timeline;

import java.time.Instant;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.concurrent.locks.ReentrantLock;
import org.custodia.core.access.AccessRules;
import org.custodia.core.access.Pin;
import org.custodia.practice.place.Building;
import org.custodia.practice.place.Look;
import org.custodia.practice.place.Look.Dress;
import org.custodia.practice.place.People;
import org.custodia.practice.place.PracticeDoor;
import org.custodia.practice.place.PracticePerson;
import org.custodia.practice.place.SiteRules;
import org.custodia.practice.place.Sternwick;
import org.custodia.practice.timeline.Movements.Manner;

/**
 * The course of everything at Sternwick, from a seed and a journal, run up to any time and from there on live. Safe for use
 * by several threads.
 */
public final class Timeline implements AutoCloseable {
    /** How many days of history there are on the first start. */
    public static final int HISTORY_DAYS = 28;

    private final ReentrantLock lock = new ReentrantLock();
    private final Sternwick place;
    private final People people;
    private final Journal journal;
    private final Agenda agenda;
    private final Scenes scenes = new Scenes();
    private final Map<String, AccessSystem> systems = new LinkedHashMap<>();
    private final Map<String, SystemClock> recorderClocks = new LinkedHashMap<>();
    private final Map<String, DoorControl> controls = new LinkedHashMap<>();
    private final Map<String, String> answers = new HashMap<>();
    private final Movements movements;
    private final DayPlanner planner;
    private final Random byHand;
    private final long start;

    /**
     * @param firstDay the first day of history, in the time of Harbour House
     */
    public Timeline(long seed, LocalDate firstDay, Sternwick place, People people, SiteRules rules, Journal journal) {
        this.place = place;
        this.people = people;
        this.journal = journal;
        this.start = DayPlanner.midnight(firstDay);
        this.agenda = new Agenda(start);
        this.byHand = new Random(seed ^ 0x5DEECE66DL);
        system("tidewater", "Tidewater, Harbour and Yard", "Tidewater 4", "T", 100, new SystemClock(350, 0));
        system("larkspur", "Larkspur, Northgate", "Larkspur One", "L", 2000, new SystemClock(-800, 0));
        recorderClocks.put("quayside", new SystemClock(900, 6));
        recorderClocks.put("ferry", new SystemClock(150, 0));
        AccessRules copy = rules.copyFor(people);
        for (PracticeDoor door : place.doors()) {
            AccessSystem system = systems.get(door.building().accessSystem());
            controls.put(
                    door.id(),
                    new DoorControl(
                            door, system, copy, agenda, scenes, !system.id().equals("larkspur")));
        }
        this.movements = new Movements(place, rules, controls, agenda, scenes);
        this.planner = new DayPlanner(people, movements, agenda, this, seed);
        agenda.at(start, now -> controls.values().forEach(c -> c.start(now)));
        planDays(firstDay);
        journal.past().forEach(act -> agenda.journal(act.at(), now -> apply(act, now)));
    }

    private void system(String id, String name, String make, String prefix, int first, SystemClock clock) {
        systems.put(id, new AccessSystem(id, name, make, AccessSystem.codes(prefix, first), clock));
    }

    private void planDays(LocalDate day) {
        agenda.at(DayPlanner.midnight(day), now -> {
            controls.values().forEach(c -> c.reportDaily(now));
            planner.plan(day);
            planDays(day.plusDays(1));
        });
    }

    /** Runs everything up to a time. */
    public void advanceTo(Instant time) {
        lock.lock();
        try {
            agenda.runTo(time.toEpochMilli());
        } finally {
            lock.unlock();
        }
    }

    /** When the next thing is due. */
    public Instant next() {
        lock.lock();
        try {
            return Instant.ofEpochMilli(Math.min(agenda.next(), Long.MAX_VALUE / 2));
        } finally {
            lock.unlock();
        }
    }

    /** The first instant of history. */
    public Instant start() {
        return Instant.ofEpochMilli(start);
    }

    public Sternwick place() {
        return place;
    }

    public People people() {
        return people;
    }

    public Scenes scenes() {
        return scenes;
    }

    public List<AccessSystem> systems() {
        return List.copyOf(systems.values());
    }

    public Optional<AccessSystem> system(String id) {
        return Optional.ofNullable(systems.get(id));
    }

    /** The clock of a recorder. */
    public SystemClock recorderClock(String id) {
        return recorderClocks.get(id);
    }

    /** What the controllers of a system know of their doors, and as of which event. */
    public record StateOf(long seq, Map<String, Map<String, String>> doors) {}

    public StateOf snapshot(String system, Instant now) {
        lock.lock();
        try {
            agenda.runTo(now.toEpochMilli());
            Map<String, Map<String, String>> doors = new LinkedHashMap<>();
            controls.forEach((id, control) -> {
                if (control.door().building().accessSystem().equals(system)) {
                    doors.put(id, control.report(agenda.now()));
                }
            });
            return new StateOf(systems.get(system).lastSeq(), doors);
        } finally {
            lock.unlock();
        }
    }

    /**
     * Does something now, and writes it into the journal.
     *
     * @return nothing if it was done, else why not
     */
    public Optional<String> act(Act what, Instant now) {
        lock.lock();
        try {
            agenda.runTo(now.toEpochMilli());
            Act act = what.at(agenda.now());
            if (act.key() != null && answers.containsKey(act.key())) {
                String before = answers.get(act.key());
                return before.isEmpty() ? Optional.empty() : Optional.of(before);
            }
            Optional<String> problem = check(act);
            if (problem.isEmpty()) {
                journal.add(act);
                problem = apply(act, act.at());
            }
            return problem;
        } finally {
            lock.unlock();
        }
    }

    private Optional<String> check(Act act) {
        if (act.door() != null && !controls.containsKey(act.door())) {
            return Optional.of("there is no door " + act.door());
        }
        if (act.target() != null
                && act.act().startsWith("camera")
                && place.camera(act.target()).isEmpty()) {
            return Optional.of("there is no camera " + act.target());
        }
        return Optional.empty();
    }

    private Optional<String> apply(Act act, long now) {
        Random random = new Random(byHand.nextLong());
        switch (act.act()) {
            case "present" -> present(act, now, random);
            case "code" -> typeCode(now, act.door(), act.badge(), Look.random(random, Dress.COAT, null), random);
            case "hold" -> {
                PracticePerson who = somebodyWithAccess(act.door(), random);
                movements.attempt(now, act.door(), true, Manner.of(who).holding(act.millis()), random, t -> {});
            }
            case "shut" -> controls.get(act.door()).shut(now);
            case "force" -> forced(now, act.door(), Look.random(random, Dress.COAT, null), act.millis());
            case "caller" ->
                movements.linger(now, act.door(), true, Look.random(random, Dress.VEST, null), now + act.millis(), '-');
            case "controller-lost" -> controllerLost(now, act.target());
            case "controller-back" -> controllerBack(now, act.target());
            case "camera-lost" -> cameraLost(now, act.target());
            case "camera-back" -> cameraBack(now, act.target());
            case "clock" -> clock(act.target()).set(now, act.millis());
            case "command" -> {
                return command(act, now, random);
            }
            default -> {
                return Optional.of("the practice site knows no " + act.act());
            }
        }
        return Optional.empty();
    }

    private void present(Act act, long now, Random random) {
        Optional<PracticePerson> owner = people.byBadge(act.badge());
        Look look = Optional.ofNullable(act.who())
                .flatMap(people::byId)
                .or(() -> owner)
                .map(PracticePerson::look)
                .orElseGet(() -> Look.random(random, Dress.COAT, null));
        Optional<Pin> pin = Optional.ofNullable(act.pin()).map(Pin::of).or(() -> owner.map(PracticePerson::pin));
        Manner manner = new Manner(look, act.badge(), pin, act.millis(), List.of(), true, 0);
        movements.attempt(now, act.door(), !act.outwards(), manner, random, t -> {});
    }

    private Optional<String> command(Act act, long now, Random random) {
        DoorControl control = controls.get(act.door());
        AccessSystem system = systems.get(control.door().building().accessSystem());
        Optional<String> problem = system.reaches(control.door().controller())
                ? control.command(now, act.command(), act.millis() == 0 ? -1 : act.millis(), act.key())
                : Optional.of("the controller is out of reach");
        answers.put(act.key(), problem.orElse(""));
        if (problem.isEmpty() && act.command().equals("let-through")) {
            movements.released(now, act.door(), random);
        }
        return problem;
    }

    private SystemClock clock(String id) {
        AccessSystem system = systems.get(id);
        return system != null ? system.clock() : recorderClocks.get(id);
    }

    /** Whether a door's controller can be reached. */
    public boolean reaches(String door) {
        lock.lock();
        try {
            PracticeDoor d = place.door(door);
            return systems.get(d.building().accessSystem()).reaches(d.controller());
        } finally {
            lock.unlock();
        }
    }

    DoorControl control(String door) {
        return controls.get(door);
    }

    void typeCode(long now, String door, String typed, Look look, Random random) {
        if (controls.get(door).code(now, typed)) {
            Manner manner = new Manner(look, "", Optional.empty(), 0, List.of(), true, 0);
            long opens = now + 900;
            scenes.visit(door, new Scenes.Visit(look, true, now, opens + 200, true, 'g'));
            agenda.at(opens, t -> controls.get(door).open(t, 3_200 + manner.hold() + random.nextInt(1_500)));
        } else {
            scenes.visit(door, new Scenes.Visit(look, true, now, now + 3_000, false, 'r'));
        }
    }

    void forced(long now, String door, Look look, long standsOpen) {
        scenes.visit(door, new Scenes.Visit(look, true, now - 4_000, now + 400, true, '-'));
        controls.get(door).open(now, standsOpen);
    }

    private AccessSystem systemOf(String controller) {
        return place.doors().stream()
                .filter(d -> d.controller().equals(controller))
                .findFirst()
                .map(d -> systems.get(d.building().accessSystem()))
                .orElseThrow(() -> new IllegalArgumentException("there is no controller " + controller));
    }

    void controllerLost(long now, String controller) {
        systemOf(controller).lose(controller, now);
    }

    void controllerBack(long now, String controller) {
        systemOf(controller).regain(controller, now);
    }

    void cameraLost(long now, String camera) {
        scenes.cameraLost(camera, now);
    }

    void cameraBack(long now, String camera) {
        scenes.cameraBack(camera, now);
    }

    /** Somebody whom a door lets in at this time of day, as a rule. */
    PracticePerson somebodyWithAccess(String door, Random random) {
        PracticeDoor d = place.door(door);
        List<PracticePerson> fitting = new ArrayList<>();
        for (PracticePerson p : people.all()) {
            boolean here = p.base().equals(d.inside()) || p.haunts().contains(d.inside());
            boolean active =
                    p.badges().get(0).status().equals("active") && !p.name().equals("Odo Castellane");
            if (here && active && p.home() == d.building() && p.role() != PracticePerson.Role.CLEANER) {
                fitting.add(p);
            }
        }
        if (fitting.isEmpty()) {
            people.all().stream().filter(p -> p.home() == d.building()).forEach(fitting::add);
        }
        return fitting.get(random.nextInt(fitting.size()));
    }

    /** The time zone by which the timeline's days are counted. */
    public static java.time.ZoneId zone() {
        return Building.HARBOUR.zone();
    }

    @Override
    public void close() {
        journal.close();
    }
}
