package org.custodia.practice.timeline;

import java.time.Instant;
import java.time.LocalDate;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.Set;
import java.util.TreeSet;
import java.util.concurrent.locks.ReentrantLock;
import java.util.function.Function;
import org.custodia.core.access.AccessRules;
import org.custodia.practice.place.Building;
import org.custodia.practice.place.Installation;
import org.custodia.practice.place.People;
import org.custodia.practice.place.Place;
import org.custodia.practice.place.PracticeDoor;
import org.custodia.practice.place.PracticePerson;
import org.custodia.practice.place.SiteRules;

/**
 * The course of everything at Sternwick, from a seed and a journal, run up to any time and from there on live. Safe for use
 * by several threads.
 */
public final class Timeline implements AutoCloseable {
    /** How many days of history there are on the first start. */
    public static final int HISTORY_DAYS = 28;

    private final ReentrantLock lock = new ReentrantLock();
    private final String name;
    private final Place place;
    private final SiteRules rules;
    private final People people;
    private final Journal journal;
    private final Agenda agenda;
    private final Scenes scenes = new Scenes();
    private final Map<String, AccessSystem> systems = new LinkedHashMap<>();
    private final Map<String, SystemClock> recorderClocks = new LinkedHashMap<>();
    private final Map<String, DoorControl> controls = new LinkedHashMap<>();
    private final Map<String, Device> devices = new LinkedHashMap<>();
    private final List<Installation.UnitEntry> units;
    private final Map<String, String> answers = new HashMap<>();
    private final Movements movements;
    private final OrdinaryLife life;
    private final Plots plots;
    private final Incidents incidents;
    private final Truth truth = new Truth();
    private final long seed;
    private final Random byHand;
    private final long start;

    /**
     * @param firstDay the first day of history, by the clocks of the first site
     * @param peopleSince around when badges end
     */
    public Timeline(
            long seed,
            LocalDate firstDay,
            Instant peopleSince,
            Installation installation,
            Incidents incidents,
            Journal journal) {
        this.name = installation.name();
        this.place = new Place(installation);
        this.people = new People(installation, seed, peopleSince);
        this.rules = new SiteRules(installation);
        this.incidents = incidents;
        this.seed = seed;
        this.journal = journal;
        this.start = midnight(firstDay);
        this.agenda = new Agenda(start);
        this.byHand = new Random(seed ^ 0x5DEECE66DL);
        List<String> missing = incidents.missingFrom(place, installation);
        if (!missing.isEmpty()) {
            throw new IllegalArgumentException(
                    "The incident file names what the installation does not have: " + String.join(", ", missing) + ".");
        }
        Set<String> reportHeld = new HashSet<>();
        for (Installation.AccessSystemMake make : installation.systems()) {
            systems.put(make.id(), new AccessSystem(make));
            if (!make.cannot().contains("reports-held")) {
                reportHeld.add(make.id());
            }
        }
        installation.recorders().forEach(r -> recorderClocks.put(r.id(), SystemClock.of(r.clock())));
        AccessRules copy = rules.copyFor(people);
        for (PracticeDoor door : place.doors()) {
            String system = door.building().accessSystem();
            controls.put(
                    door.id(),
                    new DoorControl(door, systems.get(system), copy, agenda, scenes, reportHeld.contains(system)));
        }
        this.movements = new Movements(place, rules, people, controls, agenda, scenes);
        this.units = installation.units();
        install();
        this.life = new OrdinaryLife(installation, place, people, movements, agenda, this, seed);
        this.plots = new Plots(place, rules, people, movements, this, agenda, truth);
        agenda.at(start, now -> controls.values().forEach(c -> c.start(now)));
        planDays(firstDay);
        journal.past().forEach(act -> agenda.journal(act.at(), now -> apply(act, now)));
    }

    private void install() {
        systems.values().forEach(s -> add(new ClockDevice(s.id(), s.clock())));
        systems.values().forEach(s -> add(new AlarmList(s)));
        recorderClocks.forEach((id, clock) -> add(new ClockDevice(id, clock)));
        for (PracticeDoor door : place.doors()) {
            AccessSystem system = systems.get(door.building().accessSystem());
            add(new DoorDevice(controls.get(door.id()), system, movements, people, rules, scenes, agenda));
            add(new Controller(door.controller(), system));
        }
        Function<String, Optional<PracticeDoor>> doorOf =
                id -> place.doors().stream().filter(d -> d.id().equals(id)).findFirst();
        place.cameras().forEach(c -> add(new CameraDevice(c.id(), scenes, doorOf)));
        for (Installation.UnitEntry entry : units) {
            Unit unit = Unit.of(entry, systems.get(place.building(entry.site()).accessSystem()), agenda, people);
            add(unit);
            if (unit instanceof CallStation station && entry.door() != null) {
                door(entry.door()).hasStation(station);
            }
            if (unit instanceof PropAlarm alarm && entry.door() != null) {
                control(entry.door()).has(alarm);
            }
        }
    }

    private void add(Device device) {
        devices.put(device.id(), device);
    }

    private void planDays(LocalDate day) {
        agenda.at(midnight(day), now -> {
            controls.values().forEach(c -> c.reportDaily(now));
            life.plan(day);
            for (Incidents.Drawn drawn : incidents.on(day, seed)) {
                Incident incident = drawn.incident();
                List<String> sites = Incidents.orNone(incident.sites());
                Building building = sites.size() == 1
                        ? place.building(sites.get(0))
                        : place.buildings().get(0);
                agenda.at(OrdinaryLife.at(day, building, drawn.hour()), t -> plots.begin(t, incident, drawn.seed()));
            }
            planDays(day.plusDays(1));
        });
    }

    /** Midnight of a day, where the day begins for the planner. */
    private long midnight(LocalDate day) {
        return OrdinaryLife.at(day, place.buildings().get(0), 0);
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

    /** What the place is called. */
    public String name() {
        return name;
    }

    public Place place() {
        return place;
    }

    public People people() {
        return people;
    }

    public SiteRules rules() {
        return rules;
    }

    /** Whether somebody is in one of the buildings; for tests and measurements only. */
    public boolean inside(PracticePerson person) {
        lock.lock();
        try {
            return movements.onSite(person);
        } finally {
            lock.unlock();
        }
    }

    /** What really happened; for tests and measurements only. */
    public Truth truth() {
        return truth;
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

    /** The ids of the recorders. */
    public List<String> recorders() {
        return List.copyOf(recorderClocks.keySet());
    }

    /** The clock of a recorder. */
    public SystemClock recorderClock(String id) {
        return recorderClocks.get(id);
    }

    /** What a system knows of its doors and other devices, and as of which event. */
    public record StateOf(long seq, Map<String, Map<String, String>> doors, Map<String, Map<String, String>> units) {}

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
            Map<String, Map<String, String>> others = new LinkedHashMap<>();
            units(system).forEach(u -> others.put(u.id(), devices.get(u.id()).report(agenda.now())));
            return new StateOf(systems.get(system).lastSeq(), doors, others);
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
        String target = target(act);
        if (target == null) {
            return Optional.of("the practice site knows no " + act.act());
        }
        Device device = devices.get(target);
        if (device == null) {
            return Optional.of("there is no " + (act.door() != null ? "door " : "device ") + target);
        }
        return device.acts().contains(act.act())
                ? Optional.empty()
                : Optional.of("a " + device.kind() + " knows no " + act.act() + "; it knows "
                        + String.join(", ", new TreeSet<>(device.acts())));
    }

    private static String target(Act act) {
        return act.door() != null ? act.door() : act.target();
    }

    private Optional<String> apply(Act act, long now) {
        Optional<String> problem = check(act);
        if (problem.isPresent()) {
            // A line of the journal of another installation.
            return problem;
        }
        problem = devices.get(target(act)).perform(act, now, new Random(byHand.nextLong()));
        if (act.key() != null) {
            answers.put(act.key(), problem.orElse(""));
        }
        return problem;
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

    DoorDevice door(String id) {
        return (DoorDevice) devices.get(id);
    }

    Device device(String id) {
        return devices.get(id);
    }

    /** Devices of an access system that are no doors, as the installation names them. */
    public List<Installation.UnitEntry> units(String system) {
        return units.stream()
                .filter(u -> place.building(u.site()).accessSystem().equals(system))
                .toList();
    }

    @Override
    public void close() {
        journal.close();
    }
}
