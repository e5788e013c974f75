package org.custodia.core.access;

import java.time.Instant;
import java.time.ZonedDateTime;
import java.util.Collection;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;
import java.util.stream.Collectors;
import org.custodia.core.event.Reasons;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;

/** A copy of badges, people, levels and timetables, and the decision that follows from it. Immutable. */
public final class AccessRules {
    /** Length of the numbers the readers are set up for, in digits. */
    private static final Set<Integer> DIGITS = Set.of(5, 8);

    private final Map<String, Credential> credentials;
    private final Map<PersonId, Person> people;
    private final Map<PersonId, List<AccessLevel>> levels;
    private final Map<String, Timetable> timetables;

    public AccessRules(
            Collection<Person> people,
            Collection<Credential> credentials,
            Map<PersonId, List<AccessLevel>> levels,
            Collection<Timetable> timetables) {
        this.people = people.stream().collect(Collectors.toMap(Person::id, Function.identity()));
        this.credentials = credentials.stream().collect(Collectors.toMap(Credential::number, Function.identity()));
        this.levels = new HashMap<>(levels);
        this.timetables = timetables.stream().collect(Collectors.toMap(Timetable::id, Function.identity()));
    }

    /**
     * What happens at a reader.
     *
     * @param time in the site's own clock
     * @param pin what was typed, if anything
     * @param door what the door asks for, and how it stands
     */
    public record Request(DoorId doorId, String number, Optional<String> pin, ZonedDateTime time, DoorRules door) {}

    /**
     * What a door asks for beyond a level, and how it stands.
     *
     * @param pinNeeded a PIN as well as the badge
     * @param twoPersons a second person must follow
     * @param waiting who has presented a badge and waits for the second person
     * @param inside whether the person is inside already, where the door keeps track of that
     */
    public record DoorRules(
            boolean pinNeeded,
            boolean twoPersons,
            Optional<PersonId> waiting,
            Function<PersonId, Boolean> inside,
            boolean blocked,
            boolean readerOff) {
        /** A plain door. */
        public static final DoorRules PLAIN = new DoorRules(false, false, Optional.empty(), p -> false, false, false);
    }

    /** Decides, and says why. The first rule that is broken gives the reason. */
    public Decision decide(Request request) {
        DoorRules door = request.door();
        String number = request.number();
        if (door.readerOff()) {
            return Decision.refused(Reasons.READER_OFF, credentials.get(number), "The reader is switched off.");
        }
        if (!number.chars().allMatch(Character::isDigit) || !DIGITS.contains(number.length())) {
            return Decision.refused(
                    Reasons.FORMAT_NOT_SET_UP, null, "The number " + number + " is in a format nobody set up.");
        }
        Credential credential = credentials.get(number);
        if (credential == null) {
            return Decision.refused(Reasons.UNKNOWN_CREDENTIAL, null, "Badge " + number + " is not on file.");
        }
        Optional<Decision> broken = badge(credential, request.time().toInstant());
        if (broken.isPresent()) {
            return broken.get();
        }
        if (door.blocked()) {
            return Decision.refused(Reasons.DOOR_BLOCKED, credential, "The door is blocked for everybody.");
        }
        return level(credential, request).or(() -> door(credential, request)).orElseGet(() -> second(credential, door));
    }

    private Optional<Decision> badge(Credential credential, Instant now) {
        switch (credential.status()) {
            case SUSPENDED -> {
                return refuse(Reasons.SUSPENDED, credential, "The badge is suspended.");
            }
            case LOST -> {
                return refuse(Reasons.LOST, credential, "The badge was reported lost.");
            }
            case RETURNED -> {
                return refuse(Reasons.UNKNOWN_CREDENTIAL, credential, "The badge was given back.");
            }
            case ACTIVE -> {}
        }
        if (credential.from().isPresent() && now.isBefore(credential.from().get())) {
            return refuse(Reasons.NOT_YET_VALID, credential, "The badge is not valid yet.");
        }
        Person person = people.get(credential.person());
        boolean ended = credential.until().filter(t -> !now.isBefore(t)).isPresent()
                || person != null
                        && person.until().filter(t -> !now.isBefore(t)).isPresent();
        if (ended) {
            return refuse(Reasons.ENDED, credential, "The badge has ended.");
        }
        if (person == null || person.stopped()) {
            return refuse(Reasons.PERSON_STOPPED, credential, "Nothing may open for this person.");
        }
        return Optional.empty();
    }

    private Optional<Decision> level(Credential credential, Request request) {
        List<AccessLevel> here = levels.getOrDefault(credential.person(), List.of()).stream()
                .filter(l -> l.doors().containsKey(request.doorId()))
                .toList();
        if (here.isEmpty()) {
            return refuse(Reasons.NO_LEVEL, credential, "None of this person's levels has this door.");
        }
        boolean on = here.stream()
                .map(l -> timetables.get(l.doors().get(request.doorId())))
                .anyMatch(t -> t != null && t.on(request.time()));
        if (!on) {
            AccessLevel level = here.get(0);
            Timetable table = timetables.get(level.doors().get(request.doorId()));
            return refuse(
                    Reasons.OUTSIDE_TIMETABLE,
                    credential,
                    "Level " + level.name() + " opens this door by timetable "
                            + (table == null ? "(missing)" : table.name()) + ", which is off now.");
        }
        return Optional.empty();
    }

    private Optional<Decision> door(Credential credential, Request request) {
        DoorRules door = request.door();
        if (door.pinNeeded() && request.pin().isEmpty()) {
            return refuse(Reasons.PIN_MISSING, credential, "A PIN is needed here as well; none was typed.");
        }
        if (door.pinNeeded() && !request.pin().equals(credential.pin())) {
            return refuse(Reasons.WRONG_PIN, credential, "The PIN was wrong.");
        }
        if (door.inside().apply(credential.person())) {
            return refuse(Reasons.ALREADY_INSIDE, credential, "This person went in before and has not come out.");
        }
        return Optional.empty();
    }

    private static Decision second(Credential credential, DoorRules door) {
        boolean alone = door.waiting().isEmpty() || door.waiting().get().equals(credential.person());
        if (door.twoPersons() && alone) {
            return new Decision(
                    Decision.Result.SECOND_PERSON_NEEDED,
                    Optional.empty(),
                    Optional.of(credential),
                    "Two persons are needed here; a second badge must follow.");
        }
        return new Decision(Decision.Result.GRANTED, Optional.empty(), Optional.of(credential), "Granted.");
    }

    private static Optional<Decision> refuse(String reason, Credential credential, String explanation) {
        return Optional.of(Decision.refused(reason, credential, explanation));
    }

    /** Whom a badge belongs to. */
    public Optional<Credential> credential(String number) {
        return Optional.ofNullable(credentials.get(number));
    }

    public Optional<Person> person(PersonId id) {
        return Optional.ofNullable(people.get(id));
    }
}
