package org.custodia.core.alarm;

import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.custodia.core.event.Priority;
import org.custodia.core.site.DeviceId;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.SiteModel;

/**
 * What is to be done about some alarms, step by step.
 *
 * @param id by which it is known over its versions
 * @param version goes up by one with each change; 0 for one that ships and that nobody has changed
 * @param steps in order; at least one, at most {@link #MOST_STEPS}, none twice
 */
public record Procedure(String id, long version, String name, Of of, List<Step> steps) {
    /** More than so many nobody goes through. */
    public static final int MOST_STEPS = 40;
    /** Characters of a step. */
    public static final int LONGEST_STEP = 400;

    public Procedure {
        steps = List.copyOf(steps);
        if (!id.matches("[a-z0-9-]{1," + Rule.LONGEST_ID + "}")) {
            throw new IllegalArgumentException("a procedure's id is of small letters, figures and dashes");
        }
        if (name.isBlank() || name.length() > Rule.LONGEST_NAME || name.chars().anyMatch(Character::isISOControl)) {
            throw new IllegalArgumentException(
                    "a procedure has a name of at most " + Rule.LONGEST_NAME + " characters");
        }
        if (steps.isEmpty() || steps.size() > MOST_STEPS) {
            throw new IllegalArgumentException("a procedure has 1 to " + MOST_STEPS + " steps");
        }
        Set<String> texts = new HashSet<>();
        if (!steps.stream().allMatch(s -> texts.add(s.text()))) {
            throw new IllegalArgumentException("a procedure has no step twice");
        }
    }

    /**
     * Something to do.
     *
     * @param required whether an alarm is finished only once it is done
     * @param onceOver whether it can be done only once the condition is over, such as when the door is closed again
     */
    public record Step(String text, boolean required, boolean onceOver) {
        /** One that can be done at any time. */
        public Step(String text, boolean required) {
            this(text, required, false);
        }

        public Step {
            if (text.isBlank() || text.length() > LONGEST_STEP || text.chars().anyMatch(Character::isISOControl)) {
                throw new IllegalArgumentException("a step has 1 to " + LONGEST_STEP + " characters in one line");
            }
        }
    }

    /**
     * Which alarms it is for: those that fit all that is named; any where nothing is.
     *
     * @param priorities one of which it has
     * @param rules ids of rules, one of which raised it
     * @param people one of whom it is about
     */
    public record Of(Set<Priority> priorities, Set<String> rules, Rule.Where where, Set<PersonId> people) {
        /** All alarms. */
        public static final Of ALL = new Of(Set.of(), Set.of(), Rule.Where.ANYWHERE, Set.of());

        public Of {
            priorities = Set.copyOf(priorities);
            rules = Set.copyOf(rules);
            people = Set.copyOf(people);
        }

        /** How closely it fits an alarm: a person more than a door, a door more than a zone, a site, a rule, a priority. */
        private Optional<Integer> fit(Alarm alarm, SiteModel sites) {
            Alarm.Origin origin = alarm.origin();
            boolean fits = (priorities.isEmpty() || priorities.contains(origin.priority()))
                    && (rules.isEmpty() || rules.contains(origin.rule()))
                    && (people.isEmpty()
                            || origin.person().filter(people::contains).isPresent());
            Optional<Integer> place = place(origin.subject(), sites);
            return fits
                    ? place.map(p -> p
                            + (people.isEmpty() ? 0 : 64)
                            + (rules.isEmpty() ? 0 : 4)
                            + (priorities.isEmpty() ? 0 : 2))
                    : Optional.empty();
        }

        private Optional<Integer> place(Subject subject, SiteModel sites) {
            if (where.anywhere()) {
                return Optional.of(0);
            }
            Optional<DoorId> door = subject.door();
            boolean device =
                    subject.sort() == Subject.Sort.DEVICE && where.devices().contains(new DeviceId(subject.id()));
            if (device || door.filter(where.doors()::contains).isPresent()) {
                return Optional.of(32);
            }
            Optional<Door> there = door.flatMap(sites::door);
            if (there.filter(d -> where.zones().stream()
                            .anyMatch(z -> z.site().equals(d.site())
                                    && (z.name().equals(d.outside()) || z.name().equals(d.inside()))))
                    .isPresent()) {
                return Optional.of(16);
            }
            if (subject.site(sites).filter(where.sites()::contains).isPresent()) {
                return Optional.of(8);
            }
            boolean system = subject.sort() == Subject.Sort.SYSTEM
                            && where.systems().stream().anyMatch(s -> s.value().equals(subject.id()))
                    || there.filter(d -> where.systems().contains(d.system())).isPresent();
            return system ? Optional.of(6) : Optional.empty();
        }
    }

    /** The same in another version. */
    public Procedure version(long other) {
        return new Procedure(id, other, name, of, steps);
    }

    /** The one for an alarm: that which fits it most closely; of several, the first by its id. */
    public static Optional<Procedure> of(Alarm alarm, List<Procedure> all, SiteModel sites) {
        Optional<Procedure> best = Optional.empty();
        int closest = -1;
        for (Procedure procedure : all) {
            Optional<Integer> fit = procedure.of().fit(alarm, sites);
            boolean first =
                    best.filter(b -> b.id().compareTo(procedure.id()) < 0).isEmpty();
            if (fit.isPresent() && (fit.get() > closest || fit.get() == closest && first)) {
                best = Optional.of(procedure);
                closest = fit.get();
            }
        }
        return best;
    }

    /** Those that are there from the beginning. */
    public static List<Procedure> shipped() {
        return Shipped.ALL;
    }

    /** Made once: names are looked up here again and again. */
    private static final class Shipped {
        static final List<Procedure> ALL = List.of(
                shipped(
                        "forced",
                        "A door was forced",
                        Set.of("forced"),
                        new Step("Look at the moment it was opened, and at what preceded it.", true),
                        new Step("Look who is there now, here and at the doors next to it.", false),
                        new Step("Send somebody, or say why not.", true),
                        new Step("See that the door is closed and locked again.", true, true)),
                shipped(
                        "duress",
                        "Somebody may be under duress",
                        Set.of("duress", "panic"),
                        new Step("Do not call the person, and do not ring at the door.", true),
                        new Step("Look who is there, and how many.", true),
                        new Step("Call for help as the site has agreed.", true)),
                shipped(
                        "fire",
                        "A fire contact tripped",
                        Set.of("fire"),
                        new Step("Look for smoke and for people, there and at the doors next to it.", true),
                        new Step("Act as the fire plan of the site says.", true)),
                shipped(
                        "held",
                        "A door stands open",
                        Set.of("held"),
                        new Step("Look whether somebody stands in it, or something holds it.", false),
                        new Step("Have it closed.", false, true)));
    }

    private static Procedure shipped(String id, String name, Set<String> rules, Step... steps) {
        return new Procedure(id, 0, name, new Of(Set.of(), rules, Rule.Where.ANYWHERE, Set.of()), List.of(steps));
    }
}
