package org.custodia.core.alarm;

import java.time.Duration;
import java.time.Instant;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.custodia.core.door.DoorCommand;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.Priority;
import org.custodia.core.event.Reasons;
import org.custodia.core.site.DeviceId;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SystemId;
import org.custodia.core.site.Ways;

/**
 * When what happens is an alarm.
 *
 * @param id by which it is known over its versions
 * @param version goes up by one with each change; 0 for one that ships and that nobody has changed
 * @param name as people call what it tells of
 * @param on whether it is watched
 * @param holding a state that has to hold when it happens
 * @param then what is done when it is found, beside raising an alarm
 */
public record Rule(
        String id,
        long version,
        String name,
        boolean on,
        When when,
        Where where,
        Who who,
        Hours during,
        Optional<Holding> holding,
        Priority priority,
        Then then) {
    /** A rule that does not depend on a state. */
    public Rule(
            String id,
            long version,
            String name,
            boolean on,
            When when,
            Where where,
            Who who,
            Hours during,
            Priority priority,
            Then then) {
        this(id, version, name, on, when, where, who, during, Optional.empty(), priority, then);
    }

    /** Characters of an id. */
    public static final int LONGEST_ID = 60;

    /** Characters of a name. */
    public static final int LONGEST_NAME = 120;

    /** The priorities that an alarm can have, the most urgent first. */
    public static final List<Priority> PRIORITIES = List.of(Priority.URGENT, Priority.CAUTION, Priority.LOW);

    public Rule {
        if (!id.matches("[a-z0-9-]{1," + LONGEST_ID + "}")) {
            throw new IllegalArgumentException("a rule's id is of small letters, figures and dashes");
        }
        if (name.isBlank() || name.length() > LONGEST_NAME || name.chars().anyMatch(Character::isISOControl)) {
            throw new IllegalArgumentException("a rule has a name of at most " + LONGEST_NAME + " characters");
        }
        if (version < 0) {
            throw new IllegalArgumentException("versions count from 0");
        }
        if (!PRIORITIES.contains(priority)) {
            throw new IllegalArgumentException("an alarm is urgent, caution or low");
        }
    }

    /** What has to happen. */
    public sealed interface When {
        /** The kinds of events that it looks at. */
        Set<EventKind> kinds();

        /** The longest time between the event that raises an alarm and the earlier ones that count towards it. */
        default Duration reach() {
            return Duration.ZERO;
        }
    }

    /**
     * Something of some kinds.
     *
     * @param reasons one of which it has; none for any or no reason
     * @param endedBy what says at the same place that the condition is no more; none for what is over as soon as it happened
     */
    public record Once(Set<EventKind> kinds, Set<String> reasons, Set<EventKind> endedBy) implements When {
        public Once {
            kinds = some(kinds);
            reasons = Set.copyOf(reasons);
            endedBy = Set.copyOf(endedBy);
            if (kinds.stream().anyMatch(endedBy::contains)) {
                throw new IllegalArgumentException("what begins a condition does not end it");
            }
        }
    }

    /** What is counted together. */
    public enum Per {
        PLACE,
        PERSON,
        BADGE,
        /** All that happens at one site. */
        SITE
    }

    /** Where a state has to hold, seen from where something happens. */
    public enum Extent {
        /** At the same door or device. */
        PLACE,
        /** Anywhere at the same site. */
        SITE,
        ANYWHERE
    }

    /**
     * A state that begins and ends with events, such as an armed intruder panel.
     *
     * @param begins kinds of events with which it begins
     * @param ends kinds of events with which it ends
     */
    public record Holding(Set<EventKind> begins, Set<EventKind> ends, Extent extent) {
        public Holding {
            begins = some(begins);
            ends = some(ends);
            if (begins.stream().anyMatch(ends::contains)) {
                throw new IllegalArgumentException("what begins a state does not end it");
            }
        }
    }

    /**
     * Something so many times within a time.
     *
     * @param unless what starts the count anew when it happens in between, so that it has to be so often in a row
     * @param times at least 2, at most {@link Detector#MOST_TIMES}
     * @param within more than nothing, at most {@link #MOST_WITHIN}
     * @param differentDoors whether it has to be at so many different doors
     */
    public record Often(
            Set<EventKind> kinds,
            Set<String> reasons,
            Set<EventKind> unless,
            int times,
            Duration within,
            Per per,
            boolean differentDoors)
            implements When {
        /** The same so many times. */
        public Often times(int other) {
            return new Often(kinds, reasons, unless, other, within, per, differentDoors);
        }

        /** The same within another time. */
        public Often within(Duration other) {
            return new Often(kinds, reasons, unless, times, other, per, differentDoors);
        }

        /** The same, counted apart by something else. */
        public Often per(Per other) {
            return new Often(kinds, reasons, unless, times, within, other, differentDoors && other != Per.PLACE);
        }

        /** The same for other reasons. */
        public Often reasons(Set<String> others) {
            return new Often(kinds, others, unless, times, within, per, differentDoors);
        }

        /** The same, counted anew by other kinds of events. */
        public Often unless(Set<EventKind> others) {
            return new Often(kinds, reasons, others, times, within, per, differentDoors);
        }

        /** The same at different doors, or at whatever doors. */
        public Often differentDoors(boolean now) {
            return new Often(kinds, reasons, unless, times, within, per, now);
        }

        /** Something so many times, at whatever doors. */
        public Often(
                Set<EventKind> kinds, Set<String> reasons, Set<EventKind> unless, int times, Duration within, Per per) {
            this(kinds, reasons, unless, times, within, per, false);
        }

        /** Nothing is counted together over more than this. */
        public static final Duration MOST_WITHIN = Duration.ofHours(24);

        public Often {
            kinds = some(kinds);
            reasons = Set.copyOf(reasons);
            unless = Set.copyOf(unless);
            if (kinds.stream().anyMatch(unless::contains)) {
                throw new IllegalArgumentException("what is counted does not start the count anew");
            }
            if (times < 2 || times > Detector.MOST_TIMES) {
                throw new IllegalArgumentException("it is counted from 2 to " + Detector.MOST_TIMES);
            }
            if (within.isNegative() || within.isZero() || within.compareTo(MOST_WITHIN) > 0) {
                throw new IllegalArgumentException("it is counted over at most a day");
            }
            if (differentDoors && per == Per.PLACE) {
                throw new IllegalArgumentException("one place has not several doors");
            }
        }

        @Override
        public Duration reach() {
            return within;
        }
    }

    /**
     * Somebody, or a badge, at a door sooner than they can have come there from the one before.
     *
     * @param percent of the time the walk takes, 10 to 100; whoever needed less was too quick. The walk is the shortest way
     *     over doors that are neighbours
     * @param acrossSites what it takes at least from one site to another, where no way over neighbours is known; at most
     *     {@link #MOST_ACROSS}
     */
    public record TooFar(Set<EventKind> kinds, int percent, Duration acrossSites) implements When {
        /** Nobody counts on a longer way from site to site. */
        public static final Duration MOST_ACROSS = Duration.ofHours(12);

        public TooFar {
            kinds = some(kinds);
            if (percent < 10 || percent > 100) {
                throw new IllegalArgumentException("a walk is compared with 10 to 100 percent of it");
            }
            if (acrossSites.isNegative() || acrossSites.compareTo(MOST_ACROSS) > 0) {
                throw new IllegalArgumentException("from site to site it takes at most twelve hours");
            }
        }

        @Override
        public Duration reach() {
            return acrossSites.compareTo(Ways.FARTHEST) > 0 ? acrossSites : Ways.FARTHEST;
        }
    }

    /**
     * Something after which something else was to follow and did not: at the same place, or by the same person.
     *
     * @param within more than nothing; at most an hour, or a day where it is about the same person
     * @param samePerson whether a person who went in has to go out again: then what happens on the exit side begins nothing,
     *     and only what the same person does on the exit side, at any door that the rule is about, counts as having followed
     */
    public record Unfollowed(Set<EventKind> kinds, Set<EventKind> by, Duration within, boolean samePerson)
            implements When {
        /** The longest time for which anything is waited for at one place. */
        public static final Duration MOST_AT_ONE_PLACE = Duration.ofHours(1);

        /** The longest time for which a person is waited for. */
        public static final Duration MOST_FOR_A_PERSON = Duration.ofHours(24);

        /** Something that was to follow at the same place. */
        public Unfollowed(Set<EventKind> kinds, Set<EventKind> by, Duration within) {
            this(kinds, by, within, false);
        }

        public Unfollowed {
            kinds = some(kinds);
            by = some(by);
            Duration most = samePerson ? MOST_FOR_A_PERSON : MOST_AT_ONE_PLACE;
            if (within.isNegative() || within.isZero() || within.compareTo(most) > 0) {
                throw new IllegalArgumentException("it is waited for at most " + most.toHours() + " h");
            }
            if (!samePerson && kinds.stream().anyMatch(by::contains)) {
                throw new IllegalArgumentException("what is waited for is something else");
            }
        }
    }

    private static Set<EventKind> some(Set<EventKind> kinds) {
        if (kinds.isEmpty()) {
            throw new IllegalArgumentException("a rule looks at some kind of event");
        }
        if (kinds.stream().anyMatch(k -> k.id().startsWith("alarm."))) {
            throw new IllegalArgumentException("an alarm raises no alarm");
        }
        return Set.copyOf(kinds);
    }

    /** A zone of a site, by its name. */
    public record Zone(SiteId site, String name) {
        public Zone {
            if (name.isBlank()) {
                throw new IllegalArgumentException("a zone has a name");
            }
        }
    }

    /** The kind of device that a panic button is, as the link protocol has it. */
    public static final String PANIC_BUTTON = "panic-button";

    /** The kind of device that a fire contact is, as the link protocol has it. */
    public static final String FIRE_CONTACT = "fire-contact";

    /**
     * Where it has to happen: at any of these places, or anywhere where none is named; and, where kinds of devices are named,
     * only there. A door is in the zones on both sides.
     *
     * @param deviceKinds kinds of devices, one of which it has to be; any, or none at all, where it is empty
     * @param exceptDeviceKinds kinds of devices that it must not be
     */
    public record Where(
            Set<DoorId> doors,
            Set<Zone> zones,
            Set<SiteId> sites,
            Set<SystemId> systems,
            Set<DeviceId> devices,
            Set<String> deviceKinds,
            Set<String> exceptDeviceKinds) {
        /** Anywhere. */
        public static final Where ANYWHERE = new Where(Set.of(), Set.of(), Set.of(), Set.of(), Set.of());

        public Where {
            doors = Set.copyOf(doors);
            zones = Set.copyOf(zones);
            sites = Set.copyOf(sites);
            systems = Set.copyOf(systems);
            devices = Set.copyOf(devices);
            deviceKinds = Set.copyOf(deviceKinds);
            exceptDeviceKinds = Set.copyOf(exceptDeviceKinds);
        }

        /** At some places, of whatever kind the devices there are. */
        public Where(
                Set<DoorId> doors, Set<Zone> zones, Set<SiteId> sites, Set<SystemId> systems, Set<DeviceId> devices) {
            this(doors, zones, sites, systems, devices, Set.of(), Set.of());
        }

        /** At all devices of some kinds. */
        public static Where ofDevices(Set<String> kinds) {
            return new Where(Set.of(), Set.of(), Set.of(), Set.of(), Set.of(), kinds, Set.of());
        }

        /** Anywhere but at devices of some kinds. */
        public static Where exceptDevices(Set<String> kinds) {
            return new Where(Set.of(), Set.of(), Set.of(), Set.of(), Set.of(), Set.of(), kinds);
        }

        /** The same kinds of devices at other places. */
        public Where at(
                Set<DoorId> otherDoors,
                Set<Zone> otherZones,
                Set<SiteId> otherSites,
                Set<SystemId> otherSystems,
                Set<DeviceId> otherDevices) {
            return new Where(
                    otherDoors, otherZones, otherSites, otherSystems, otherDevices, deviceKinds, exceptDeviceKinds);
        }

        /** At some doors. */
        public static Where at(Set<DoorId> doors) {
            return new Where(doors, Set.of(), Set.of(), Set.of(), Set.of());
        }

        /** Whether no place is named, and no kind of device. */
        public boolean anywhere() {
            return anyPlace() && deviceKinds.isEmpty() && exceptDeviceKinds.isEmpty();
        }

        /** Whether no place is named. */
        public boolean anyPlace() {
            return doors.isEmpty() && onlyDoors();
        }

        /** Whether nothing but doors is named. */
        boolean onlyDoors() {
            return zones.isEmpty() && sites.isEmpty() && systems.isEmpty() && devices.isEmpty();
        }
    }

    /**
     * Some people.
     *
     * @param people by id
     * @param kinds of person (staff, contractor …)
     * @param companies by name
     */
    public record People(Set<PersonId> people, Set<String> kinds, Set<String> companies) {
        /** Nobody. */
        public static final People NONE = new People(Set.of(), Set.of(), Set.of());

        public People {
            people = Set.copyOf(people);
            kinds = Set.copyOf(kinds);
            companies = Set.copyOf(companies);
        }

        public boolean isEmpty() {
            return people.isEmpty() && kinds.isEmpty() && companies.isEmpty();
        }

        private boolean contains(PersonId person, Known known, Instant at) {
            return people.contains(person)
                    || !kinds.isEmpty()
                            && known.kindOf(person, at).filter(kinds::contains).isPresent()
                    || !companies.isEmpty()
                            && known.companyOf(person, at)
                                    .filter(companies::contains)
                                    .isPresent();
        }
    }

    /**
     * Who has to be in it.
     *
     * @param of one of these people; anybody or nobody where it is empty
     * @param except none of these people
     * @param unknown whether it has to be a person who is not known
     */
    public record Who(People of, People except, boolean unknown) {
        /** Anybody, or nobody. */
        public static final Who ANYBODY = new Who(People.NONE, People.NONE, false);

        public Who {
            if (unknown && !(of.isEmpty() && except.isEmpty())) {
                throw new IllegalArgumentException("a person who is not known is none of these people");
            }
        }

        /** Some people, or one who is not known. */
        public Who(Set<PersonId> people, Set<String> kinds, boolean unknown) {
            this(new People(people, kinds, Set.of()), People.NONE, unknown);
        }

        boolean anybody() {
            return !unknown && of.isEmpty() && except.isEmpty();
        }

        /**
         * Whether an event is about one of them.
         *
         * @param person who is in it, where that is known
         */
        boolean includes(Optional<PersonId> person, Known known, Instant at) {
            if (unknown) {
                return person.isEmpty();
            }
            return (of.isEmpty()
                            || person.filter(p -> of.contains(p, known, at)).isPresent())
                    && person.filter(p -> except.contains(p, known, at)).isEmpty();
        }
    }

    /** When something is done. */
    public enum At {
        /** When the alarm is raised. */
        START,
        /** When its condition has ended. */
        END
    }

    /**
     * Tells a door to do something.
     *
     * @param door which one; nothing for the one where it happened
     * @param command one of {@link #COMMANDS}, or a text to be shown
     */
    public record Order(At at, Optional<DoorId> door, DoorCommand command) {
        public Order {
            if (!COMMANDS.contains(command) && !(command instanceof DoorCommand.ShowText)) {
                throw new IllegalArgumentException("a rule gives no such command");
            }
        }
    }

    /** What a rule may tell a door, beside a text for its display. */
    public static final List<DoorCommand> COMMANDS = List.of(
            new DoorCommand.LockNow(),
            new DoorCommand.LeaveUnlocked(Optional.empty()),
            new DoorCommand.LetThrough(),
            new DoorCommand.BackToTimetable());

    /**
     * Has somebody told who is not at a desk.
     *
     * @param receiver the id of whoever is told
     */
    public record Tell(At at, String receiver) {
        public Tell {
            if (!receiver.matches("[a-z0-9-]{1," + LONGEST_ID + "}")) {
                throw new IllegalArgumentException("a receiver's id is of small letters, figures and dashes");
            }
        }
    }

    /**
     * What is done when a rule has found something.
     *
     * @param forward whether its pictures come forward on the desk
     * @param sound whether it is heard
     * @param orders what doors are told; at most {@link #MOST_ORDERS}
     * @param tells who else is told; at most {@link #MOST_TOLD}
     */
    public record Then(boolean forward, boolean sound, List<Order> orders, List<Tell> tells) {
        /** No rule tells more doors. */
        public static final int MOST_ORDERS = 20;

        /** No rule has more people told. */
        public static final int MOST_TOLD = 20;

        /** Seen and heard, and nothing else. */
        public static final Then CALLS = new Then(true, true, List.of(), List.of());

        /** Neither, for what can wait. */
        public static final Then QUIET = new Then(false, false, List.of(), List.of());

        public Then {
            orders = List.copyOf(orders);
            tells = tells.stream().distinct().toList();
            if (orders.size() > MOST_ORDERS) {
                throw new IllegalArgumentException("a rule tells at most " + MOST_ORDERS + " doors");
            }
            if (tells.size() > MOST_TOLD) {
                throw new IllegalArgumentException("a rule has at most " + MOST_TOLD + " told");
            }
        }

        /** The same, with other doors told. */
        public Then orders(List<Order> others) {
            return new Then(forward, sound, others, tells);
        }

        /** The same, with others told. */
        public Then tells(List<Tell> others) {
            return new Then(forward, sound, orders, others);
        }

        /** Who is told at the start, or at the end. */
        public List<String> told(At at) {
            return tells.stream().filter(t -> t.at() == at).map(Tell::receiver).toList();
        }
    }

    /** The same under another name. */
    public Rule name(String other) {
        return new Rule(id, version, other, on, when, where, who, during, holding, priority, then);
    }

    /** The same with another priority. */
    public Rule priority(Priority other) {
        return new Rule(id, version, name, on, when, where, who, during, holding, other, then);
    }

    /** The same about something else that happens. */
    public Rule when(When other) {
        return new Rule(id, version, name, on, other, where, who, during, holding, priority, then);
    }

    /** The same at other places. */
    public Rule where(Where other) {
        return new Rule(id, version, name, on, when, other, who, during, holding, priority, then);
    }

    /** The same about other people. */
    public Rule who(Who other) {
        return new Rule(id, version, name, on, when, where, other, during, holding, priority, then);
    }

    /** The same at other hours. */
    public Rule during(Hours other) {
        return new Rule(id, version, name, on, when, where, who, other, holding, priority, then);
    }

    /** The same while another state holds. */
    public Rule holding(Optional<Holding> other) {
        return new Rule(id, version, name, on, when, where, who, during, other, priority, then);
    }

    /** The same with something else done. */
    public Rule then(Then other) {
        return new Rule(id, version, name, on, when, where, who, during, holding, priority, other);
    }

    /** The same in another version. */
    public Rule version(long other) {
        return new Rule(id, other, name, on, when, where, who, during, holding, priority, then);
    }

    /** The same, switched on or off. */
    public Rule on(boolean now) {
        return new Rule(id, version, name, now, when, where, who, during, holding, priority, then);
    }

    /** All kinds of events that it looks at: of which it begins, ends, begins anew, or is called off, and those of its state. */
    Set<EventKind> looksAt() {
        Set<EventKind> all = new HashSet<>(when.kinds());
        all.addAll(endedBy());
        holding.ifPresent(h -> {
            all.addAll(h.begins());
            all.addAll(h.ends());
        });
        if (when instanceof Unfollowed unfollowed) {
            all.addAll(unfollowed.by());
        } else if (when instanceof Often often) {
            all.addAll(often.unless());
        }
        return all;
    }

    /** What says at the same place that the condition is no more. */
    Set<EventKind> endedBy() {
        return when instanceof Once once ? once.endedBy() : Set.of();
    }

    /** The rules that are there from the beginning. */
    public static List<Rule> shipped() {
        return Shipped.ALL;
    }

    /** Made once: names of rules are looked up here several times a second. */
    private static final class Shipped {
        static final List<Rule> ALL = List.of(
                once("forced", "Forced open", Priority.URGENT, Set.of(Kinds.FORCED), Set.of(Kinds.CLOSED)),
                once("duress", "Duress PIN", Priority.URGENT, Set.of(Kinds.DURESS), Set.of()),
                once("intruder", "Intruder alarm", Priority.URGENT, Set.of(Kinds.PANEL_ALARM), Set.of()),
                input("panic", "Panic button", Priority.URGENT, Where.ofDevices(Set.of(PANIC_BUTTON))),
                input("fire", "Fire contact", Priority.URGENT, Where.ofDevices(Set.of(FIRE_CONTACT))),
                input(
                        "input",
                        "Input tripped",
                        Priority.CAUTION,
                        Where.exceptDevices(Set.of(PANIC_BUTTON, FIRE_CONTACT))),
                once("held", "Held open", Priority.CAUTION, Set.of(Kinds.HELD), Set.of(Kinds.CLOSED)),
                once(
                        "controller",
                        "Controller out of reach",
                        Priority.CAUTION,
                        Set.of(Kinds.CONTROLLER_LOST),
                        Set.of(Kinds.CONTROLLER_BACK)),
                once(
                        "link",
                        "Link lost",
                        Priority.CAUTION,
                        Set.of(Kinds.LINK_LOST),
                        Set.of(Kinds.LINK_BACK, Kinds.LINK_CLOSED)),
                once("camera", "Camera lost", Priority.CAUTION, Set.of(Kinds.CAMERA_LOST), Set.of(Kinds.CAMERA_BACK)),
                once("reader", "Reader off", Priority.LOW, Set.of(Kinds.READER_OFF), Set.of(Kinds.READER_ON)),
                once("clock", "Clock off", Priority.LOW, Set.of(Kinds.CLOCK_OFF), Set.of(Kinds.CLOCK_BACK)),
                of(
                        "refused-often",
                        "Refused again and again",
                        new Often(
                                Set.of(Kinds.REFUSED),
                                Set.of(),
                                Set.of(Kinds.GRANTED),
                                3,
                                Duration.ofMinutes(3),
                                Per.PLACE),
                        Priority.CAUTION),
                of(
                        "badge-refused-often",
                        "One badge refused at door after door",
                        new Often(
                                Set.of(Kinds.REFUSED), Set.of(), Set.of(), 3, Duration.ofMinutes(30), Per.BADGE, true),
                        Priority.LOW),
                of(
                        "stopped-badge",
                        "Badge used that is stopped",
                        new Once(
                                Set.of(Kinds.REFUSED),
                                Set.of(Reasons.SUSPENDED, Reasons.LOST, Reasons.PERSON_STOPPED),
                                Set.of()),
                        Priority.CAUTION),
                of(
                        "inside-already",
                        "In again without having gone out",
                        new Once(Set.of(Kinds.REFUSED), Set.of(Reasons.ALREADY_INSIDE), Set.of()),
                        Priority.LOW),
                of(
                        "too-far",
                        "Too far apart for the walk",
                        new TooFar(Set.of(Kinds.GRANTED), 50, Duration.ofMinutes(5)),
                        Priority.CAUTION),
                of(
                        "nobody-entered",
                        "Granted and nobody entered, again and again",
                        new Often(
                                Set.of(Kinds.NOBODY_ENTERED), Set.of(), Set.of(), 3, Duration.ofMinutes(15), Per.PLACE),
                        Priority.LOW),
                of(
                        "chattering",
                        "Door contact chatters",
                        new Often(Set.of(Kinds.OPENED), Set.of(), Set.of(), 8, Duration.ofSeconds(20), Per.PLACE),
                        Priority.LOW));
    }

    private static Rule input(String id, String name, Priority priority, Where where) {
        return of(id, name, new Once(Set.of(Kinds.INPUT_ON), Set.of(), Set.of(Kinds.INPUT_OFF)), where, priority);
    }

    private static Rule of(String id, String name, When when, Priority priority) {
        return of(id, name, when, Where.ANYWHERE, priority);
    }

    private static Rule of(String id, String name, When when, Where where, Priority priority) {
        return new Rule(
                id,
                0,
                name,
                true,
                when,
                where,
                Who.ANYBODY,
                Hours.ALWAYS,
                priority,
                priority == Priority.LOW ? Then.QUIET : Then.CALLS);
    }

    private static Rule once(String id, String name, Priority priority, Set<EventKind> kinds, Set<EventKind> endedBy) {
        return of(id, name, new Once(kinds, Set.of(), endedBy), priority);
    }
}
