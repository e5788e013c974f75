package org.custodia.core.alarm;

import java.time.Duration;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.Priority;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SystemId;

/**
 * When what happens is an alarm.
 *
 * @param id by which it is known over its versions
 * @param version goes up by one with each change
 * @param name as people call what it tells of
 * @param on whether it is watched
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
        Priority priority) {
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
        if (version < 1) {
            throw new IllegalArgumentException("a rule's first version is 1");
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
     * @param times at least 2, at most {@link Detector#MOST_TIMES}
     * @param within more than nothing, at most {@link #MOST_WITHIN}
     */
    public record Often(Set<EventKind> kinds, Set<String> reasons, int times, Duration within, Per per)
            implements When {
        /** Nothing is counted together over more than this. */
        public static final Duration MOST_WITHIN = Duration.ofHours(24);

        public Often {
            kinds = some(kinds);
            reasons = Set.copyOf(reasons);
            if (times < 2 || times > Detector.MOST_TIMES) {
                throw new IllegalArgumentException("it is counted from 2 to " + Detector.MOST_TIMES);
            }
            if (within.isNegative() || within.isZero() || within.compareTo(MOST_WITHIN) > 0) {
                throw new IllegalArgumentException("it is counted over at most a day");
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

    /** Where it has to happen; anywhere where all are empty, at any of them otherwise. */
    public record Where(Set<DoorId> doors, Set<SiteId> sites, Set<SystemId> systems) {
        /** Anywhere. */
        public static final Where ANYWHERE = new Where(Set.of(), Set.of(), Set.of());

        public Where {
            doors = Set.copyOf(doors);
            sites = Set.copyOf(sites);
            systems = Set.copyOf(systems);
        }

        boolean anywhere() {
            return doors.isEmpty() && sites.isEmpty() && systems.isEmpty();
        }
    }

    /**
     * Who has to be in it.
     *
     * @param people one of them; anybody or nobody where that is empty
     * @param unknown whether it has to be somebody who is not known
     */
    public record Who(Set<PersonId> people, boolean unknown) {
        /** Anybody, or nobody. */
        public static final Who ANYBODY = new Who(Set.of(), false);

        public Who {
            people = Set.copyOf(people);
            if (unknown && !people.isEmpty()) {
                throw new IllegalArgumentException("somebody who is not known is none of these people");
            }
        }

        boolean includes(Optional<PersonId> person) {
            return unknown
                    ? person.isEmpty()
                    : people.isEmpty() || person.filter(people::contains).isPresent();
        }
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
                new Rule(
                        "refused-often",
                        "Refused again and again",
                        1,
                        new Often(Set.of(Kinds.REFUSED), Set.of(), 3, Duration.ofMinutes(3), Per.PLACE),
                        Priority.CAUTION),
                new Rule(
                        "badge-refused-often",
                        "One badge refused at door after door",
                        1,
                        new Often(Set.of(Kinds.REFUSED), Set.of(), 4, Duration.ofMinutes(30), Per.BADGE),
                        Priority.LOW));
    }

    private Rule(String id, String name, long version, When when, Priority priority) {
        this(id, version, name, true, when, Where.ANYWHERE, Who.ANYBODY, Hours.ALWAYS, priority);
    }

    private static Rule once(String id, String name, Priority priority, Set<EventKind> kinds, Set<EventKind> endedBy) {
        return new Rule(id, name, 1, new Once(kinds, Set.of(), endedBy), priority);
    }
}
