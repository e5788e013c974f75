package org.custodia.core.access;

import java.util.List;

/** What opens what and when, as a system has it; ids begin with the system's. */
public record RuleBook(
        List<AccessLevel> levels, List<Timetable> timetables, List<Holiday> holidays, List<CardFormat> formats) {
    public RuleBook {
        levels = List.copyOf(levels);
        timetables = List.copyOf(timetables);
        holidays = List.copyOf(holidays);
        formats = List.copyOf(formats);
    }
}
