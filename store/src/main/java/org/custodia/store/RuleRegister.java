package org.custodia.store;

import java.time.Clock;
import java.time.Instant;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.Map;
import org.custodia.core.access.AccessLevel;
import org.custodia.core.access.Holiday;
import org.custodia.core.access.Timetable;
import org.custodia.core.site.SystemId;

/** Levels, timetables and holidays of the access systems, as they are and as they were. Safe for several threads. */
public final class RuleRegister {
    private final Registers registers;
    private final Clock clock;
    private volatile Past past;

    private record Past(Timeline<AccessLevel> levels, Timeline<Timetable> timetables, Timeline<Holiday> holidays) {}

    /** What held at some time; ids begin with their system's. */
    public record Rules(
            Collection<AccessLevel> levels, Collection<Timetable> timetables, Collection<Holiday> holidays) {}

    public RuleRegister(Registers registers, Clock clock) {
        this.registers = registers;
        this.clock = clock;
        this.past = load();
    }

    private Past load() {
        return new Past(
                registers.timeline(RegisterForm.LEVEL),
                registers.timeline(RegisterForm.TIMETABLE),
                registers.timeline(RegisterForm.HOLIDAY));
    }

    /** Takes over what an access system has; ids begin with the system's. */
    public void replace(
            SystemId system,
            Collection<AccessLevel> levels,
            Collection<Timetable> timetables,
            Collection<Holiday> holidays) {
        Instant at = clock.instant();
        Map<String, AccessLevel> l = new LinkedHashMap<>();
        levels.forEach(v -> l.put(v.id(), v));
        Map<String, Timetable> t = new LinkedHashMap<>();
        timetables.forEach(v -> t.put(v.id(), v));
        Map<String, Holiday> h = new LinkedHashMap<>();
        holidays.forEach(v -> h.put(v.id(), v));
        int changes = registers.replace(RegisterForm.LEVEL, system, l, true, at)
                + registers.replace(RegisterForm.TIMETABLE, system, t, true, at)
                + registers.replace(RegisterForm.HOLIDAY, system, h, true, at);
        if (changes > 0) {
            past = load();
        }
    }

    /** The rules of all systems at an instant. */
    public Rules at(Instant instant) {
        Past here = past;
        return new Rules(
                here.levels().all(instant).values(),
                here.timetables().all(instant).values(),
                here.holidays().all(instant).values());
    }
}
