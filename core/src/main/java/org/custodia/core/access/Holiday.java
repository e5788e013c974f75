package org.custodia.core.access;

import java.time.LocalDate;

/**
 * Days on which timetables go by their hours for holidays instead of by those of the day of the week.
 *
 * @param from the first day, in a site's own calendar
 * @param to the last day, included
 */
public record Holiday(String id, String name, LocalDate from, LocalDate to) {
    /**
     * @throws IllegalArgumentException if it ends before it begins
     */
    public Holiday {
        if (to.isBefore(from)) {
            throw new IllegalArgumentException("a holiday ends after it begins, this does not: " + from + " to " + to);
        }
    }

    /** Whether a day is one of its days. */
    public boolean covers(LocalDate day) {
        return !day.isBefore(from) && !day.isAfter(to);
    }
}
