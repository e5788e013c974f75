package org.custodia.core.alarm;

import java.time.Duration;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;
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

/**
 * When what happens is an alarm.
 *
 * @param id by which it is known over its versions
 * @param version goes up by one with each change; 0 for one that ships and that nobody has changed
 * @param name as people call what it tells of
 * @param on whether it is watched
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
        Priority priority,
        Then then) {
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
        BADGE
    }

    /**
     * Something so many times within a time.
     *
     * @param unless what starts the count anew when it happens in between, so that it has to be so often in a row
     * @param times at least 2, at most {@link Detector#MOST_TIMES}
     * @param within more than nothing, at most {@link #MOST_WITHIN}
     */
    public record Often(
            Set<EventKind> kinds, Set<String> reasons, Set<EventKind> unless, int times, Duration within, Per per)
            implements When {
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
    }

    /**
     * Something after which something else was to follow at the same place and did not.
     *
     * @param within more than nothing, at most an hour
     */
    public record Unfollowed(Set<EventKind> kinds, Set<EventKind> by, Duration within) implements When {
        public Unfollowed {
            kinds = some(kinds);
            by = some(by);
            if (within.isNegative() || within.isZero() || within.compareTo(Duration.ofHours(1)) > 0) {
                throw new IllegalArgumentException("it is waited for at most an hour");
            }
            if (kinds.stream().anyMatch(by::contains)) {
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

    /** Where it has to happen; anywhere where all are empty, at any of them otherwise. A door is in the zones on both sides. */
    public record Where(
            Set<DoorId> doors, Set<Zone> zones, Set<SiteId> sites, Set<SystemId> systems, Set<DeviceId> devices) {
        /** Anywhere. */
        public static final Where ANYWHERE = new Where(Set.of(), Set.of(), Set.of(), Set.of(), Set.of());

        public Where {
            doors = Set.copyOf(doors);
            zones = Set.copyOf(zones);
            sites = Set.copyOf(sites);
            systems = Set.copyOf(systems);
            devices = Set.copyOf(devices);
        }

        /** At some doors. */
        public static Where at(Set<DoorId> doors) {
            return new Where(doors, Set.of(), Set.of(), Set.of(), Set.of());
        }

        public boolean anywhere() {
            return doors.isEmpty() && onlyDoors();
        }

        /** Whether nothing but doors is named. */
        boolean onlyDoors() {
            return zones.isEmpty() && sites.isEmpty() && systems.isEmpty() && devices.isEmpty();
        }
    }

    /**
     * Who has to be in it.
     *
     * @param people one of them
     * @param kinds of person, one of which it is; anybody or nobody where people and kinds are empty
     * @param unknown whether it has to be somebody who is not known
     */
    public record Who(Set<PersonId> people, Set<String> kinds, boolean unknown) {
        /** Anybody, or nobody. */
        public static final Who ANYBODY = new Who(Set.of(), Set.of(), false);

        public Who {
            people = Set.copyOf(people);
            kinds = Set.copyOf(kinds);
            if (unknown && !(people.isEmpty() && kinds.isEmpty())) {
                throw new IllegalArgumentException("somebody who is not known is none of these people");
            }
        }

        boolean anybody() {
            return !unknown && people.isEmpty() && kinds.isEmpty();
        }

        /**
         * @param kind what kind of person somebody is, where that is known
         */
        boolean includes(Optional<PersonId> person, Function<PersonId, Optional<String>> kind) {
            if (unknown) {
                return person.isEmpty();
            }
            return anybody()
                    || person.filter(people::contains).isPresent()
                    || !kinds.isEmpty()
                            && person.flatMap(kind).filter(kinds::contains).isPresent();
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

    /** The same in another version. */
    public Rule version(long other) {
        return new Rule(id, other, name, on, when, where, who, during, priority, then);
    }

    /** The same, switched on or off. */
    public Rule on(boolean now) {
        return new Rule(id, version, name, now, when, where, who, during, priority, then);
    }

    /** All kinds of events that it looks at: of which it begins, ends, begins anew, or is called off. */
    Set<EventKind> looksAt() {
        Set<EventKind> all = new HashSet<>(when.kinds());
        all.addAll(endedBy());
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
        return List.of(
                once("forced", "Forced open", Priority.URGENT, Set.of(Kinds.FORCED), Set.of(Kinds.CLOSED)),
                once("duress", "Duress PIN", Priority.URGENT, Set.of(Kinds.DURESS), Set.of()),
                once("intruder", "Intruder alarm", Priority.URGENT, Set.of(Kinds.PANEL_ALARM), Set.of()),
                once("input", "Input tripped", Priority.CAUTION, Set.of(Kinds.INPUT_ON), Set.of(Kinds.INPUT_OFF)),
                once("held", "Held open", Priority.CAUTION, Set.of(Kinds.HELD), Set.of(Kinds.CLOSED)),
                once(
                        "controller",
                        "Controller out of reach",
                        Priority.CAUTION,
                        Set.of(Kinds.CONTROLLER_LOST),
                        Set.of(Kinds.CONTROLLER_BACK)),
                once("link", "Link lost", Priority.CAUTION, Set.of(Kinds.LINK_LOST), Set.of(Kinds.LINK_BACK)),
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
                        new Often(Set.of(Kinds.REFUSED), Set.of(), Set.of(), 4, Duration.ofMinutes(30), Per.BADGE),
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

    private static Rule of(String id, String name, When when, Priority priority) {
        return new Rule(
                id,
                0,
                name,
                true,
                when,
                Where.ANYWHERE,
                Who.ANYBODY,
                Hours.ALWAYS,
                priority,
                priority == Priority.LOW ? Then.QUIET : Then.CALLS);
    }

    private static Rule once(String id, String name, Priority priority, Set<EventKind> kinds, Set<EventKind> endedBy) {
        return of(id, name, new Once(kinds, Set.of(), endedBy), priority);
    }
}
