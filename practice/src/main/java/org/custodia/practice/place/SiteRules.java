package org.custodia.practice.place;

import java.time.DayOfWeek;
import java.time.LocalTime;
import java.time.ZonedDateTime;
import java.util.ArrayList;
import java.util.EnumSet;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import org.custodia.core.access.AccessLevel;
import org.custodia.core.access.AccessRules;
import org.custodia.core.access.CardFormat;
import org.custodia.core.access.Credential;
import org.custodia.core.access.Person;
import org.custodia.core.access.Timetable;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;

/** Levels and timetables of the place, and the copy of them that a controller decides by. */
public final class SiteRules {
    private final List<Timetable> timetables;
    private final Map<String, Timetable> byId = new HashMap<>();
    private final Map<String, AccessLevel> levels = new LinkedHashMap<>();
    private final List<CardFormat> formats;

    public SiteRules(Installation installation) {
        timetables = installation.timetables().stream().map(SiteRules::table).toList();
        timetables.forEach(t -> byId.put(t.id(), t));
        formats = installation.formats().stream()
                .map(f -> new CardFormat(f.id(), f.name(), f.digits()))
                .toList();
        for (Installation.LevelEntry level : installation.levels()) {
            Map<DoorId, String> doors = new LinkedHashMap<>();
            for (Installation.DoorEntry door : installation.doors()) {
                boolean ofSite =
                        door.site().equals(level.site()) && !door.asks().contains("two-persons");
                if (ofSite || Installation.orNone(level.doors()).contains(door.id())) {
                    doors.put(new DoorId(door.id()), level.timetable());
                }
            }
            levels.put(level.id(), new AccessLevel(level.id(), level.name(), doors));
        }
    }

    private static Timetable table(Installation.TimetableEntry entry) {
        return new Timetable(
                entry.id(),
                entry.name(),
                entry.spans().stream()
                        .map(s -> new Timetable.Span(
                                days(s.days()),
                                LocalTime.parse(s.from()),
                                s.to().equals("24:00") ? LocalTime.MAX : LocalTime.parse(s.to())))
                        .toList());
    }

    private static Set<DayOfWeek> days(List<String> names) {
        return names.stream()
                .map(DayOfWeek::valueOf)
                .collect(Collectors.toCollection(() -> EnumSet.noneOf(DayOfWeek.class)));
    }

    /** Whether one of somebody's levels has a door, at whatever time. */
    public boolean opens(PracticePerson person, PracticeDoor door) {
        DoorId id = new DoorId(door.id());
        return person.levels().stream().anyMatch(l -> levels.get(l).doors().containsKey(id));
    }

    /** Whether one of somebody's levels opens a door at a local time. */
    public boolean opens(PracticePerson person, PracticeDoor door, ZonedDateTime at) {
        DoorId id = new DoorId(door.id());
        return person.levels().stream()
                .map(l -> levels.get(l).doors().get(id))
                .anyMatch(t -> t != null && byId.get(t).on(at));
    }

    public List<Timetable> timetables() {
        return timetables;
    }

    public List<CardFormat> formats() {
        return formats;
    }

    public List<AccessLevel> levels() {
        return List.copyOf(levels.values());
    }

    /** What a controller holds: everybody, by the ids the doors use among themselves. */
    public AccessRules copyFor(People people) {
        List<Person> persons = new ArrayList<>();
        List<Credential> credentials = new ArrayList<>();
        for (PracticePerson p : people.all()) {
            PersonId id = new PersonId(p.id());
            persons.add(new Person(
                    id, p.name(), p.company(), p.kind(), p.until(), p.stopped(), Optional.empty(), p.levels()));
            for (PracticePerson.Badge badge : p.badges()) {
                credentials.add(new Credential(
                        badge.number(),
                        Credential.Kind.of(badge.kind()),
                        id,
                        Credential.Status.valueOf(badge.status().toUpperCase(Locale.ROOT)),
                        Optional.empty(),
                        badge.until(),
                        Optional.of(p.pin())));
            }
        }
        return new AccessRules(persons, credentials, levels.values(), timetables, List.of(), formats);
    }
}
