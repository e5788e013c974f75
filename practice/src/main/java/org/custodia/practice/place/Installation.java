package org.custodia.practice.place;

import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashSet;
import java.util.List;
import java.util.Objects;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.custodia.wire.Wire;
import org.custodia.wire.WireException;

/**
 * An installation as its file describes it: what is there, who works there and who may go where. Nothing in the code knows a
 * door, a person or a make by name; another place is another file. What a field means stands with the type that is made of
 * it, or in docs/practice-site.md.
 */
public record Installation(
        String name,
        List<AccessSystemMake> systems,
        List<RecorderMake> recorders,
        List<SiteEntry> sites,
        List<DoorEntry> doors,
        List<UnitEntry> units,
        List<String> watched,
        List<TimetableEntry> timetables,
        List<FormatEntry> formats,
        List<LevelEntry> levels,
        List<Role> roles,
        List<Round> rounds,
        List<Routine> routines,
        List<Crowd> crowds,
        Names names,
        List<PersonEntry> people,
        List<GroupEntry> groups) {
    public Installation {
        systems = orNone(systems);
        recorders = orNone(recorders);
        sites = orNone(sites);
        doors = orNone(doors);
        units = orNone(units);
        watched = orNone(watched);
        timetables = orNone(timetables);
        formats = orNone(formats);
        levels = orNone(levels);
        roles = orNone(roles);
        rounds = orNone(rounds);
        routines = orNone(routines);
        crowds = orNone(crowds);
        people = orNone(people);
        groups = orNone(groups);
    }

    /**
     * How far a device's clock is ahead, and by how much it goes off until it is set each Monday.
     *
     * @param source where it says that it takes the time from; absent where it does not say
     * @param canSync whether it sets its clock when it is asked to
     */
    public record ClockEntry(long aheadMillis, double driftMillisPerHour, String source, Boolean canSync) {}

    /**
     * An access system and what its make can do.
     *
     * @param codes how it names kinds of events: letters, and the number of the first
     * @param saysSide whether it says if somebody went in or out
     * @param cannot capabilities that its doors lack
     */
    public record AccessSystemMake(
            String id,
            String name,
            String make,
            String codes,
            ClockEntry clock,
            boolean saysSide,
            List<String> cannot) {
        public AccessSystemMake {
            cannot = orNone(cannot);
        }
    }

    /**
     * A recorder.
     *
     * @param readyAfterSeconds how long it takes until what was recorded can be played
     */
    public record RecorderMake(String id, String name, int readyAfterSeconds, ClockEntry clock) {}

    /**
     * A site.
     *
     * @param outdoors the zone from which people come
     */
    public record SiteEntry(String id, String name, String timeZone, String system, String recorder, String outdoors) {}

    /**
     * A door.
     *
     * @param room the look of what its cameras see
     * @param views its cameras: o outside, i inside, v overview
     * @param exit {@code button} where one leaves by a button, nothing where there is a reader on both sides
     * @param contact false where nothing tells whether it is open
     * @param code one that many share
     * @param asks pin, two-persons, once-inside
     */
    public record DoorEntry(
            String id,
            String name,
            String site,
            String level,
            String outside,
            String inside,
            String controller,
            String room,
            String views,
            Integer heldSeconds,
            String publicFrom,
            String publicTo,
            String exit,
            Boolean turnstile,
            Boolean contact,
            String code,
            List<String> asks) {
        public DoorEntry {
            level = Objects.requireNonNullElse(level, "");
            views = Objects.requireNonNullElse(views, "");
            asks = orNone(asks);
        }

        /** The same door once more, under another name. */
        public DoorEntry called(String otherId, String otherName, String otherController) {
            return new DoorEntry(
                    otherId,
                    otherName,
                    site,
                    level,
                    outside,
                    inside,
                    otherController,
                    room,
                    views,
                    heldSeconds,
                    publicFrom,
                    publicTo,
                    exit,
                    turnstile,
                    contact,
                    code,
                    asks);
        }
    }

    /**
     * A device that is no door.
     *
     * @param kind panic-button, fire-contact, motion-detector, tamper-contact, intruder-panel, call-station, display or
     *     muster-reader
     * @param door the door it belongs to, if it does
     */
    public record UnitEntry(String id, String kind, String name, String site, String controller, String door) {}

    /** A timetable; days as MONDAY …, times as HH:mm, 24:00 for the end of the day. */
    public record TimetableEntry(String id, String name, List<SpanEntry> spans) {}

    public record SpanEntry(List<String> days, String from, String to) {}

    /** Numbers that readers are set up for. */
    public record FormatEntry(String id, String name, int digits) {}

    /**
     * A level.
     *
     * @param doors which doors it opens, or
     * @param site that it opens all doors of a site but those for two persons
     */
    public record LevelEntry(String id, String name, String timetable, String site, List<String> doors) {}

    /**
     * What somebody does, and so when they come and how much they move.
     *
     * @param shifts when they come and go; where there are several, each person changes from one to the next by the week
     * @param lateInHours by how much they come earlier or later, one standard deviation
     * @param weekday how likely they come on a day of the week from Monday to Friday, and
     * @param weekend on a Saturday or Sunday
     * @param lunch how likely they go out at noon
     */
    public record Role(
            String id,
            List<Shift> shifts,
            double lateInHours,
            double lateOutHours,
            double movesPerHour,
            double weekday,
            double weekend,
            double lunch) {}

    /** Hours from midnight, by the clock of the site; more than 24 on the day after. */
    public record Shift(double from, double to) {}

    /** A round that somebody of a role makes, from zone to zone. */
    public record Round(String role, String site, double from, double to, int everyMinutes, List<String> zones) {}

    /** What is done to a device every day at about the same hour. */
    public record Routine(String unit, String act, double hour, double spreadHours) {}

    /**
     * People without badges at a door that stands unlocked, or that opens by a code.
     *
     * @param weekday how many parties come on a day from Monday to Friday, and
     * @param weekend on a Saturday or Sunday
     * @param from from which hour, most of them early
     * @param to to which hour
     * @param wrongShare how often the code is typed wrong
     */
    public record Crowd(
            String door,
            int weekday,
            int weekend,
            double from,
            double to,
            int leastParty,
            int mostParty,
            String code,
            Double wrongShare) {}

    /** Names that are drawn from. */
    public record Names(List<String> first, List<String> last) {}

    /**
     * Somebody with a name.
     *
     * @param base the zone they come back to
     * @param haunts other zones their work takes them to
     * @param status of the badge: active unless it says something else
     * @param endedDaysAgo since when nothing opens for them any more
     */
    public record PersonEntry(
            String name,
            String role,
            String company,
            String kind,
            String site,
            String base,
            String dress,
            String coat,
            List<String> haunts,
            List<String> levels,
            String badge,
            String status,
            Integer endedDaysAgo) {
        public PersonEntry {
            haunts = orNone(haunts);
            levels = orNone(levels);
        }
    }

    /**
     * Several of the same sort.
     *
     * @param endsFromDays their badges end between so many days from now, and
     * @param endsToDays so many
     */
    public record GroupEntry(
            int count,
            String role,
            String company,
            String kind,
            String site,
            String base,
            String dress,
            String coat,
            List<String> haunts,
            List<String> levels,
            Integer endsFromDays,
            Integer endsToDays) {
        public GroupEntry {
            haunts = orNone(haunts);
            levels = orNone(levels);
        }
    }

    /** The same place with other doors. */
    public Installation withDoors(List<DoorEntry> others) {
        return new Installation(
                name,
                systems,
                recorders,
                sites,
                others,
                units,
                watched,
                timetables,
                formats,
                levels,
                roles,
                rounds,
                routines,
                crowds,
                names,
                people,
                groups);
    }

    /** The installation of Sternwick. */
    public static Installation sternwick() {
        try (InputStream in = Installation.class.getResourceAsStream("sternwick.json")) {
            return parse(new String(in.readAllBytes(), StandardCharsets.UTF_8), "sternwick.json");
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    /**
     * Reads an installation file.
     *
     * @throws IllegalArgumentException if it cannot be read or does not fit together; the message says where
     */
    public static Installation read(Path file) {
        try {
            return parse(Files.readString(file), file.toString());
        } catch (IOException e) {
            throw new IllegalArgumentException("The installation file " + file + " cannot be read.", e);
        }
    }

    private static Installation parse(String text, String where) {
        Installation installation;
        try {
            installation = Wire.read(text, Installation.class);
        } catch (WireException e) {
            throw new IllegalArgumentException("The installation file " + where + ": " + e.getMessage() + ".", e);
        }
        List<String> problems = installation.problems();
        if (!problems.isEmpty()) {
            throw new IllegalArgumentException(
                    "The installation file " + where + " does not fit together: " + String.join("; ", problems) + ".");
        }
        return installation;
    }

    /** What in it does not fit together, in words. */
    private List<String> problems() {
        List<String> problems = new ArrayList<>();
        Set<String> systemIds = ids(
                problems,
                "access system",
                systems.stream().map(AccessSystemMake::id).toList());
        Set<String> recorderIds = ids(
                problems, "recorder", recorders.stream().map(RecorderMake::id).toList());
        Set<String> siteIds =
                ids(problems, "site", sites.stream().map(SiteEntry::id).toList());
        Set<String> doorIds =
                ids(problems, "door", doors.stream().map(DoorEntry::id).toList());
        Set<String> tableIds = ids(
                problems,
                "timetable",
                timetables.stream().map(TimetableEntry::id).toList());
        Set<String> levelIds =
                ids(problems, "level", levels.stream().map(LevelEntry::id).toList());
        Set<String> roleIds = ids(problems, "role", roles.stream().map(Role::id).toList());
        if (sites.isEmpty()) {
            problems.add("there is no site");
        }
        Set<String> zones = new HashSet<>();
        sites.forEach(s -> {
            zones.add(s.outdoors());
            known(problems, systemIds, "access system", s.system(), "site " + s.id());
            known(problems, recorderIds, "recorder", s.recorder(), "site " + s.id());
        });
        doors.forEach(d -> {
            zones.add(d.outside());
            zones.add(d.inside());
            known(problems, siteIds, "site", d.site(), "door " + d.id());
        });
        ids(
                problems,
                "device",
                Stream.of(
                                systemIds.stream(),
                                recorderIds.stream(),
                                doorIds.stream(),
                                doors.stream().map(DoorEntry::controller).distinct(),
                                units.stream().map(UnitEntry::id))
                        .flatMap(s -> s)
                        .toList());
        units.forEach(u -> {
            known(problems, siteIds, "site", u.site(), "unit " + u.id());
            if (u.door() != null) {
                known(problems, doorIds, "door", u.door(), "unit " + u.id());
            }
        });
        watched.forEach(d -> known(problems, doorIds, "door", d, "what is watched"));
        levels.forEach(l -> {
            known(problems, tableIds, "timetable", l.timetable(), "level " + l.id());
            if (l.site() != null) {
                known(problems, siteIds, "site", l.site(), "level " + l.id());
            }
            orNone(l.doors()).forEach(d -> known(problems, doorIds, "door", d, "level " + l.id()));
        });
        rounds.forEach(r -> {
            known(problems, roleIds, "role", r.role(), "a round");
            known(problems, siteIds, "site", r.site(), "a round");
            r.zones().forEach(z -> known(problems, zones, "zone", z, "a round"));
        });
        routines.forEach(r -> known(
                problems,
                units.stream().map(UnitEntry::id).collect(Collectors.toSet()),
                "unit",
                r.unit(),
                "a routine"));
        crowds.forEach(c -> known(problems, doorIds, "door", c.door(), "a crowd"));
        for (GroupEntry g : groups) {
            String who = "the group of " + g.count() + " at " + g.base();
            known(problems, roleIds, "role", g.role(), who);
            known(problems, siteIds, "site", g.site(), who);
            known(problems, zones, "zone", g.base(), who);
            g.haunts().forEach(z -> known(problems, zones, "zone", z, who));
            g.levels().forEach(l -> known(problems, levelIds, "level", l, who));
        }
        for (PersonEntry p : people) {
            known(problems, roleIds, "role", p.role(), p.name());
            known(problems, siteIds, "site", p.site(), p.name());
            known(problems, zones, "zone", p.base(), p.name());
            p.haunts().forEach(z -> known(problems, zones, "zone", z, p.name()));
            p.levels().forEach(l -> known(problems, levelIds, "level", l, p.name()));
        }
        return problems;
    }

    private static Set<String> ids(List<String> problems, String what, Collection<String> all) {
        Set<String> ids = new HashSet<>();
        for (String id : all) {
            if (id == null) {
                problems.add("one " + what + " has no id");
            } else if (!ids.add(id)) {
                problems.add("the " + what + " " + id + " is there twice");
            }
        }
        return ids;
    }

    private static void known(List<String> problems, Set<String> ids, String what, String id, String where) {
        if (!ids.contains(id)) {
            problems.add("there is no " + what + " " + id + ", which " + where + " names");
        }
    }

    static <T> List<T> orNone(List<T> list) {
        return list == null ? List.of() : List.copyOf(list);
    }
}
