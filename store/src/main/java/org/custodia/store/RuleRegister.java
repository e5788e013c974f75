package org.custodia.store;

import java.time.Clock;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZonedDateTime;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeSet;
import java.util.function.Function;
import org.custodia.core.access.AccessLevel;
import org.custodia.core.access.AccessRules;
import org.custodia.core.access.CardFormat;
import org.custodia.core.access.Credential;
import org.custodia.core.access.Holiday;
import org.custodia.core.access.OnFile;
import org.custodia.core.access.Person;
import org.custodia.core.access.RuleBook;
import org.custodia.core.access.RulesAsOf;
import org.custodia.core.access.Timetable;
import org.custodia.core.site.SystemId;

/**
 * Levels, timetables, holidays and formats of the access systems, as they are and as they were, and the rules that follow from
 * them and from who had what then. Safe for several threads.
 */
public final class RuleRegister implements RulesAsOf {
    /** Rules of past times that are kept; what is looked at lies mostly within few of them. */
    private static final int REMEMBERED = 12;

    private final Registers registers;
    private final SqlPersonRegister people;
    private final Clock clock;
    private volatile Past past;
    private final Map<Named, AccessRules> rules = new LinkedHashMap<>(16, 0.75f, true) {
        private static final long serialVersionUID = 1L;

        @Override
        protected boolean removeEldestEntry(Map.Entry<Named, AccessRules> eldest) {
            return size() > REMEMBERED;
        }
    };

    private record Past(
            Timeline<AccessLevel> levels,
            Timeline<Timetable> timetables,
            Timeline<Holiday> holidays,
            Timeline<CardFormat> formats) {}

    /** Rules of a system from some instant on, as two readings of the registers have them. */
    private record Named(SystemId system, Instant from, Instant known, Object past, Object people) {}

    public RuleRegister(Registers registers, SqlPersonRegister people, Clock clock) {
        this.registers = registers;
        this.people = people;
        this.clock = clock;
        this.past = load();
    }

    private Past load() {
        Past read = new Past(
                registers.timeline(RegisterForm.LEVEL),
                registers.timeline(RegisterForm.TIMETABLE),
                registers.timeline(RegisterForm.HOLIDAY),
                registers.timeline(RegisterForm.FORMAT));
        Timeline.readTogether(List.of(read.levels(), read.timetables(), read.holidays(), read.formats()));
        return read;
    }

    /** Takes over what an access system has. */
    public void replace(SystemId system, RuleBook book) {
        Instant at = clock.instant();
        int changes = registers.replace(RegisterForm.LEVEL, system, byId(book.levels(), AccessLevel::id), true, at)
                + registers.replace(RegisterForm.TIMETABLE, system, byId(book.timetables(), Timetable::id), true, at)
                + registers.replace(RegisterForm.HOLIDAY, system, byId(book.holidays(), Holiday::id), true, at)
                + registers.replace(RegisterForm.FORMAT, system, byId(book.formats(), CardFormat::id), true, at);
        if (changes > 0) {
            past = load();
        }
    }

    private static <T> Map<String, T> byId(Collection<T> values, Function<T, String> id) {
        Map<String, T> result = new LinkedHashMap<>();
        values.forEach(v -> result.put(id.apply(v), v));
        return result;
    }

    /** What a system had at an instant. */
    public RuleBook at(Instant instant, SystemId system) {
        return at(instant, Instant.MAX, system);
    }

    private RuleBook at(Instant instant, Instant known, SystemId system) {
        Past here = past;
        return new RuleBook(
                of(here.levels(), system, instant, known),
                of(here.timetables(), system, instant, known),
                of(here.holidays(), system, instant, known),
                of(here.formats(), system, instant, known));
    }

    private static <T> List<T> of(Timeline<T> timeline, SystemId system, Instant at) {
        return of(timeline, system, at, Instant.MAX);
    }

    private static <T> List<T> of(Timeline<T> timeline, SystemId system, Instant at, Instant known) {
        String own = system.value() + "/";
        return timeline.all(at, known).entrySet().stream()
                .filter(e -> e.getKey().startsWith(own))
                .map(Map.Entry::getValue)
                .toList();
    }

    /** Whether a day is a holiday by the calendar of a system, as it stands. */
    public boolean holiday(SystemId system, LocalDate day) {
        return of(past.holidays(), system, clock.instant()).stream().anyMatch(h -> h.covers(day));
    }

    /** All timetables of all systems, as they stand. */
    public List<Timetable> timetables() {
        return List.copyOf(past.timetables().all(clock.instant()).values());
    }

    /** Whether a timetable is on at a local time, by the calendar of its own system, both as they stand. */
    public Optional<Boolean> timetableOn(String id, ZonedDateTime there) {
        Past here = past;
        Instant now = clock.instant();
        int slash = id.indexOf('/');
        return Optional.ofNullable(here.timetables().all(now).get(id))
                .map(t -> t.on(
                        there, slash < 1 ? List.of() : of(here.holidays(), new SystemId(id.substring(0, slash)), now)));
    }

    @Override
    public OnFile<AccessRules> at(SystemId system, Instant instant, Instant known) {
        Past here = past;
        SqlPersonRegister.Then then = people.then();
        Optional<Instant> read = here.levels().read(system).filter(r -> !r.isAfter(known));
        Optional<Instant> readPeople = then.people().read(system).filter(r -> !r.isAfter(known));
        if (read.isEmpty() || readPeople.isEmpty()) {
            return OnFile.notKnownYet();
        }
        TreeSet<Instant> changes = new TreeSet<>();
        List.of(here.levels(), here.timetables(), here.holidays(), here.formats(), then.people(), then.credentials())
                .forEach(t -> Optional.ofNullable(t.changes().floor(instant)).ifPresent(changes::add));
        Instant from = changes.isEmpty() ? Instant.MIN : changes.last();
        AccessRules found;
        synchronized (rules) {
            found = rules.computeIfAbsent(
                    new Named(system, from, known, here, then), n -> rules(system, instant, known, then));
        }
        boolean later = instant.isBefore(read.get()) || instant.isBefore(readPeople.get());
        return later ? OnFile.asReadLater(found) : OnFile.then(found);
    }

    private AccessRules rules(SystemId system, Instant at, Instant known, SqlPersonRegister.Then then) {
        RuleBook book = at(at, known, system);
        List<Person> persons = of(then.people(), system, at, known);
        List<Credential> credentials = of(then.credentials(), system, at, known);
        return new AccessRules(persons, credentials, book.levels(), book.timetables(), book.holidays(), book.formats());
    }
}
