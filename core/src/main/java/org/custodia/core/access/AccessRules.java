package org.custodia.core.access;

import java.time.Duration;
import java.time.Instant;
import java.time.ZonedDateTime;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.function.Function;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.custodia.core.access.Decision.Change;
import org.custodia.core.access.Decision.LevelSays;
import org.custodia.core.access.Decision.Nearest;
import org.custodia.core.access.Decision.Result;
import org.custodia.core.access.Decision.Says;
import org.custodia.core.event.Reasons;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.Side;

/**
 * Badges, people, levels, timetables, holidays and formats as they are at one time, and the decision that follows from them.
 * Immutable.
 */
public final class AccessRules {
    /** How far away another time is looked for. */
    private static final Duration NEAR = Duration.ofDays(35);
    /** No timetable is looked at further ahead in one go. */
    private static final Duration AHEAD = Duration.ofDays(8);

    private final Map<String, List<Credential>> byNumber;
    private final Map<PersonId, List<Credential>> byPerson;
    private final Map<PersonId, Person> people;
    private final Map<String, AccessLevel> levels;
    private final Map<String, Timetable> timetables;
    private final List<Holiday> holidays;
    private final List<CardFormat> formats;

    /**
     * @param levels those that people are given, by their ids
     * @param formats what readers are set up for; none for whatever comes
     */
    public AccessRules(
            Collection<Person> people,
            Collection<Credential> credentials,
            Collection<AccessLevel> levels,
            Collection<Timetable> timetables,
            Collection<Holiday> holidays,
            Collection<CardFormat> formats) {
        this.people = people.stream().collect(Collectors.toMap(Person::id, Function.identity()));
        this.byNumber = credentials.stream().collect(Collectors.groupingBy(Credential::number));
        this.byPerson = credentials.stream().collect(Collectors.groupingBy(Credential::person));
        this.levels = levels.stream().collect(Collectors.toMap(AccessLevel::id, Function.identity()));
        this.timetables = timetables.stream().collect(Collectors.toMap(Timetable::id, Function.identity()));
        this.holidays = List.copyOf(holidays);
        this.formats = List.copyOf(formats);
    }

    /**
     * Somebody at a reader.
     *
     * @param side on which side of the door the reader is
     * @param kind of what is presented, where that is known
     * @param pin what was typed, if anything
     * @param time in the site's own clock
     * @param asks what the door asks for on that side, and how it stands
     */
    public record Request(
            DoorId door,
            Side side,
            String number,
            Optional<Credential.Kind> kind,
            Optional<Pin> pin,
            ZonedDateTime time,
            DoorRules asks) {
        private Request at(ZonedDateTime other) {
            return new Request(door, side, number, kind, pin, other, asks);
        }

        private Request with(Credential other) {
            return new Request(door, side, other.number(), Optional.of(other.kind()), pin, time, asks);
        }

        private Request typing(Pin other) {
            return new Request(door, side, number, kind, Optional.of(other), time, asks);
        }
    }

    /**
     * What a door asks for beyond a level, and how it stands. What it asks for it asks for on the way in.
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

    /** Decides, and says from what that follows. The first rule that is broken gives the reason. */
    public Decision decide(Request request) {
        String number = request.number();
        List<Credential> fitting = fitting(request);
        if (request.asks().readerOff()) {
            return Decision.refused(Reasons.READER_OFF, fitting.size() == 1 ? fitting.get(0) : null);
        }
        if (!formats.isEmpty() && formats.stream().noneMatch(f -> f.fits(number))) {
            return Decision.refused(Reasons.FORMAT_NOT_SET_UP, null);
        }
        if (fitting.isEmpty()) {
            return Decision.refused(Reasons.UNKNOWN_CREDENTIAL, null);
        }
        List<Decision> decisions = fitting.stream().map(c -> decide(c, request)).toList();
        Decision first = decisions.get(0);
        if (decisions.size() == 1) {
            return first;
        }
        boolean same = decisions.stream()
                .allMatch(d -> d.result() == first.result() && d.reason().equals(first.reason()));
        Result result = same ? first.result() : Result.NOT_CLEAR_WHOSE;
        return new Decision(result, same ? first.reason() : Optional.empty(), Optional.empty(), false, List.of());
    }

    /** What would be decided of each thing that may have been presented, where a number belongs to several. */
    List<Decision> each(Request request) {
        return fitting(request).stream().map(c -> decide(c, request)).toList();
    }

    /** What may have been presented. What a reader says of the kind may be less or other than what is on file. */
    private List<Credential> fitting(Request request) {
        List<Credential> all = byNumber.getOrDefault(request.number(), List.of());
        List<Credential> ofKind = all.stream()
                .filter(c -> request.kind().isEmpty() || request.kind().get().equals(c.kind()))
                .toList();
        return ofKind.isEmpty() ? all : ofKind;
    }

    private Decision decide(Credential credential, Request request) {
        Optional<String> broken = badge(credential, request.time().toInstant());
        if (broken.isPresent()) {
            return Decision.refused(broken.get(), credential);
        }
        if (request.asks().blocked()) {
            return Decision.refused(Reasons.DOOR_BLOCKED, credential);
        }
        List<LevelSays> said = levels(credential.person(), request.door(), request.time());
        return level(said)
                .or(() -> request.side() == Side.ENTRY ? door(credential, request) : Optional.empty())
                .map(reason -> Decision.refused(reason, credential))
                .orElseGet(() -> second(credential, request))
                .with(said);
    }

    private Optional<String> badge(Credential credential, Instant now) {
        switch (credential.status()) {
            case SUSPENDED -> {
                return Optional.of(Reasons.SUSPENDED);
            }
            case LOST -> {
                return Optional.of(Reasons.LOST);
            }
            case RETURNED -> {
                return Optional.of(Reasons.UNKNOWN_CREDENTIAL);
            }
            case ACTIVE -> {}
        }
        if (credential.from().filter(now::isBefore).isPresent()) {
            return Optional.of(Reasons.NOT_YET_VALID);
        }
        if (credential.until().filter(t -> !now.isBefore(t)).isPresent()) {
            return Optional.of(Reasons.ENDED);
        }
        Person person = people.get(credential.person());
        if (person == null || person.stopped()) {
            return Optional.of(Reasons.PERSON_STOPPED);
        }
        return person.until().filter(t -> !now.isBefore(t)).isPresent()
                ? Optional.of(Reasons.PERSON_ENDED)
                : Optional.empty();
    }

    /** What each level of somebody says of a door, those that open it first. */
    private List<LevelSays> levels(PersonId person, DoorId door, ZonedDateTime time) {
        List<LevelSays> said = new ArrayList<>();
        for (String id : given(person)) {
            AccessLevel level = levels.get(id);
            if (level == null) {
                continue;
            }
            String table = level.doors().get(door);
            Optional<Timetable> timetable = Optional.ofNullable(table).map(timetables::get);
            Says says = table == null
                    ? Says.OTHER_DOORS
                    : timetable
                            .map(t -> t.on(time, holidays) ? Says.ON : Says.OFF)
                            .orElse(Says.NO_TIMETABLE);
            said.add(new LevelSays(level, says, timetable, time, holidays));
        }
        said.sort(Comparator.comparing(LevelSays::says));
        return said;
    }

    private List<String> given(PersonId person) {
        Person somebody = people.get(person);
        return somebody == null ? List.of() : somebody.levels();
    }

    private static Optional<String> level(List<LevelSays> said) {
        if (said.stream().anyMatch(l -> l.says() == Says.ON)) {
            return Optional.empty();
        }
        boolean otherTimes = said.stream().anyMatch(l -> l.says() != Says.OTHER_DOORS);
        return Optional.of(otherTimes ? Reasons.OUTSIDE_TIMETABLE : Reasons.NO_LEVEL);
    }

    private static Optional<String> door(Credential credential, Request request) {
        DoorRules asks = request.asks();
        if (asks.pinNeeded() && request.pin().isEmpty()) {
            return Optional.of(Reasons.PIN_MISSING);
        }
        if (asks.pinNeeded() && credential.pin().isEmpty()) {
            return Optional.of(Reasons.NO_PIN_SET);
        }
        if (asks.pinNeeded() && !request.pin().equals(credential.pin()) && !underDuress(credential, request)) {
            return Optional.of(Reasons.WRONG_PIN);
        }
        return asks.inside().apply(credential.person()) ? Optional.of(Reasons.ALREADY_INSIDE) : Optional.empty();
    }

    /** Whether it was typed where a PIN is asked for; elsewhere nobody looks at what is typed. */
    private static boolean underDuress(Credential credential, Request request) {
        return request.asks().pinNeeded()
                && request.side() == Side.ENTRY
                && credential
                        .pin()
                        .filter(own -> request.pin().equals(Optional.of(own.underDuress()))
                                && !request.pin().equals(Optional.of(own)))
                        .isPresent();
    }

    private static Decision second(Credential credential, Request request) {
        Optional<PersonId> waiting = request.asks().waiting();
        boolean alone = waiting.isEmpty() || waiting.get().equals(credential.person());
        boolean needed = request.side() == Side.ENTRY && request.asks().twoPersons() && alone;
        return new Decision(
                needed ? Result.SECOND_PERSON_NEEDED : Result.GRANTED,
                Optional.empty(),
                Optional.of(credential),
                underDuress(credential, request),
                List.of());
    }

    /**
     * The nearest thing to a refused request that would have been granted: one thing is different, and of several such that
     * come after one another in {@link Change}, the first; of several times the closest.
     */
    public Optional<Nearest> nearest(Request request) {
        Decision decision = decide(request);
        if (decision.result() != Result.REFUSED || decision.credential().isEmpty()) {
            return Optional.empty();
        }
        Credential presented = decision.credential().get();
        Request asked = request.with(presented);
        return presented
                .pin()
                .map(asked::typing)
                .filter(this::granted)
                .map(r -> nearest(Change.PIN, r, presented))
                .or(() -> byPerson.getOrDefault(presented.person(), List.of()).stream()
                        .filter(c -> !c.equals(presented))
                        .map(asked::with)
                        .filter(this::granted)
                        .findFirst()
                        .map(r -> nearest(Change.CREDENTIAL, r, presented)))
                .or(() -> times(presented, asked.door(), asked.time())
                        .map(asked::at)
                        .filter(this::granted)
                        .min(Comparator.comparing(
                                r -> Duration.between(asked.time(), r.time()).abs()))
                        .map(r -> nearest(Change.TIME, r, presented)))
                .or(() -> otherDoor(asked, presented));
    }

    private boolean granted(Request request) {
        return decide(request).result() == Result.GRANTED;
    }

    private static Nearest nearest(Change change, Request request, Credential presented) {
        return new Nearest(change, request.door(), request.number(), request.time(), presented.person());
    }

    /** The times about a request at which something may have turned: the last second before, and the instant itself. */
    private Stream<ZonedDateTime> times(Credential credential, DoorId door, ZonedDateTime time) {
        Set<ZonedDateTime> turns = new TreeSet<>();
        for (LevelSays said : levels(credential.person(), door, time)) {
            said.timetable().ifPresent(table -> {
                ZonedDateTime at = time.minus(NEAR);
                while (at.isBefore(time.plus(NEAR))) {
                    Optional<ZonedDateTime> turn = table.nextChange(at, holidays);
                    turn.ifPresent(turns::add);
                    // A closing may be longer than it is looked ahead.
                    ZonedDateTime beyond = at.plus(AHEAD);
                    at = turn.orElse(beyond);
                }
            });
        }
        credential.from().ifPresent(t -> turns.add(t.atZone(time.getZone())));
        credential.until().ifPresent(t -> turns.add(t.atZone(time.getZone())));
        Optional.ofNullable(people.get(credential.person()))
                .flatMap(Person::until)
                .ifPresent(t -> turns.add(t.atZone(time.getZone())));
        return turns.stream()
                .flatMap(t -> Stream.of(t.minusSeconds(1), t))
                .filter(t -> Duration.between(t, time).abs().compareTo(NEAR) <= 0);
    }

    private Optional<Nearest> otherDoor(Request asked, Credential presented) {
        return given(presented.person()).stream()
                .map(levels::get)
                .filter(Objects::nonNull)
                .flatMap(l -> l.doors().keySet().stream())
                .distinct()
                .sorted(Comparator.comparing(DoorId::value))
                .filter(d -> !d.equals(asked.door()))
                .map(d -> new Request(
                        d, asked.side(), asked.number(), asked.kind(), asked.pin(), asked.time(), DoorRules.PLAIN))
                .filter(this::granted)
                .findFirst()
                .map(r -> nearest(Change.DOOR, r, presented));
    }

    /** Whether it is known which numbers readers are set up for. */
    boolean formatsAreKnown() {
        return !formats.isEmpty();
    }

    /** Whom a number belongs to, where it belongs to one thing only. */
    public Optional<Credential> credential(String number) {
        List<Credential> all = byNumber.getOrDefault(number, List.of());
        return all.size() == 1 ? Optional.of(all.get(0)) : Optional.empty();
    }

    public Optional<Person> person(PersonId id) {
        return Optional.ofNullable(people.get(id));
    }
}
