package org.custodia.practice.place;

import java.time.DayOfWeek;
import java.time.LocalTime;
import java.util.ArrayList;
import java.util.EnumSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.custodia.core.access.AccessLevel;
import org.custodia.core.access.AccessRules;
import org.custodia.core.access.CardFormat;
import org.custodia.core.access.Credential;
import org.custodia.core.access.Person;
import org.custodia.core.access.Timetable;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;

/** Levels and timetables of Sternwick, and the copy of them that a controller decides by. */
public final class SiteRules {
    private static final Set<DayOfWeek> ALL_DAYS = EnumSet.allOf(DayOfWeek.class);
    private static final Set<DayOfWeek> WEEKDAYS = EnumSet.range(DayOfWeek.MONDAY, DayOfWeek.FRIDAY);

    private static final List<CardFormat> FORMATS =
            List.of(new CardFormat("short", "Five digits", 5), new CardFormat("long", "Eight digits", 8));

    private final List<Timetable> timetables = List.of(
            table("always", "Always", ALL_DAYS, LocalTime.MIN, LocalTime.MAX),
            table("day", "Working day", ALL_DAYS, LocalTime.of(6, 30), LocalTime.of(20, 30)),
            table("cleaning", "Cleaning", ALL_DAYS, LocalTime.of(5, 0), LocalTime.of(10, 0)),
            table("deliveries", "Deliveries", WEEKDAYS, LocalTime.of(7, 0), LocalTime.of(13, 30)),
            table("reading", "Reading room hours", WEEKDAYS, LocalTime.of(13, 0), LocalTime.of(17, 0)),
            table("shop", "Shop and café", ALL_DAYS, LocalTime.of(7, 0), LocalTime.of(19, 0)));
    private final Map<String, AccessLevel> levels = new LinkedHashMap<>();

    public SiteRules(Sternwick place) {
        level(
                "hh-staff",
                "Harbour staff",
                "day",
                "staff-lobby",
                "cycle-gate",
                "cycle-yard",
                "bay-corridor",
                "foyer-door",
                "north-stair",
                "cafe-kitchen",
                "quay-entrance");
        level(
                "hh-galleries",
                "Galleries",
                "day",
                "gallery-north",
                "gallery-south",
                "map-gallery",
                "guard-room",
                "reading-room");
        level(
                "hh-collections",
                "Collections",
                "day",
                "print-room-north",
                "print-room-south",
                "map-store",
                "paper-studio",
                "reading-room",
                "catalogue-room",
                "gallery-north",
                "gallery-south",
                "map-gallery",
                "offices",
                "roof-store");
        level("hh-vault", "Vault", "day", "vault-ante", "vault");
        level("hh-strongroom", "Strongroom", "day", "strongroom-corr", "strongroom");
        level("hh-offices", "Harbour offices", "day", "offices", "reading-room", "gallery-north");
        level("hh-shop", "Shop and café", "shop", "shop", "shop-store", "cafe-kitchen", "loading-bay", "staff-lobby");
        level("hh-loading", "Loading", "day", "loading-bay", "roof-store");
        level("hh-deliveries", "Deliveries", "deliveries", "loading-bay");
        level(
                "hh-cleaning",
                "Cleaning",
                "cleaning",
                "staff-lobby",
                "cycle-gate",
                "cycle-yard",
                "bay-corridor",
                "foyer-door",
                "gallery-north",
                "gallery-south",
                "map-gallery",
                "reading-room",
                "print-room-south",
                "print-room-north",
                "offices",
                "north-stair",
                "cafe-kitchen",
                "paper-studio");
        level(
                "hh-volunteers",
                "Volunteers",
                "day",
                "staff-lobby",
                "foyer-door",
                "cafe-kitchen",
                "reading-room",
                "gallery-north",
                "gallery-south",
                "north-stair");
        level("hh-readers", "Readers", "reading", "reading-room");
        level("hh-guards", "Guards, Harbour House", "always", ids(place, Building.HARBOUR));
        level("ng-staff", "Northgate staff", "day", "ng-gate", "ng-entrance", "ng-dock", "ng-dock-door", "ng-lift");
        level("ng-all", "Northgate collections", "always", ids(place, Building.NORTHGATE));
        level(
                "cy-staff",
                "Yard staff",
                "day",
                "cy-gate",
                "cy-garden",
                "cy-garden-door",
                "cy-offices",
                "cy-education-1",
                "cy-education-2",
                "cy-kiln");
        level(
                "cy-cleaning",
                "Yard cleaning",
                "cleaning",
                "cy-gate",
                "cy-offices",
                "cy-education-1",
                "cy-education-2",
                "cy-garden-door",
                "cy-kiln");
        level("cy-workshops", "Yard workshops", "day", "cy-workshop", "cy-paint", "cy-tools", "cy-kiln");
    }

    private static String[] ids(Sternwick place, Building building) {
        return place.doors().stream()
                .filter(d -> d.building() == building && !d.twoPersons())
                .map(PracticeDoor::id)
                .toArray(String[]::new);
    }

    private static Timetable table(String id, String name, Set<DayOfWeek> days, LocalTime from, LocalTime to) {
        return new Timetable(id, name, List.of(new Timetable.Span(days, from, to)));
    }

    private void level(String id, String name, String timetable, String... doors) {
        Map<DoorId, String> map = new LinkedHashMap<>();
        for (String door : doors) {
            map.put(new DoorId(door), timetable);
        }
        levels.put(id, new AccessLevel(id, name, map));
    }

    /** Whether one of somebody's levels has a door, at whatever time. */
    public boolean opens(PracticePerson person, PracticeDoor door) {
        DoorId id = new DoorId(door.id());
        return person.levels().stream().anyMatch(l -> levels.get(l).doors().containsKey(id));
    }

    public List<Timetable> timetables() {
        return timetables;
    }

    public List<CardFormat> formats() {
        return FORMATS;
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
                        Credential.Status.valueOf(badge.status().toUpperCase(java.util.Locale.ROOT)),
                        Optional.empty(),
                        badge.until(),
                        Optional.of(p.pin())));
            }
        }
        return new AccessRules(persons, credentials, levels.values(), timetables, List.of(), FORMATS);
    }
}
