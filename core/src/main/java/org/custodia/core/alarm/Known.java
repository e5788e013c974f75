package org.custodia.core.alarm;

import java.time.Instant;
import java.time.LocalDate;
import java.time.ZonedDateTime;
import java.util.List;
import java.util.Optional;
import java.util.function.Supplier;
import org.custodia.core.access.Timetable;
import org.custodia.core.event.Event;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.SystemId;

/** What rules ask of the registers. */
public interface Known {
    /** All places as they stand. */
    SiteModel sites();

    /** All places as they stood at an instant. */
    default SiteModel sitesAt(Instant at) {
        return sites();
    }

    /** The person an event is about: as its system said, else the holder of the badge then; nothing where that is not known. */
    default Optional<PersonId> personOf(Event event) {
        return event.person();
    }

    /** The company of a person at that time; empty if it is not known. */
    default Optional<String> companyOf(PersonId person, Instant at) {
        return Optional.empty();
    }

    /** What kind of person somebody was (staff, contractor …); nothing where that is not known. */
    Optional<String> kindOf(PersonId person, Instant at);

    /** Whether a day is a holiday by the calendar of a system. */
    boolean holiday(SystemId system, LocalDate day);

    /** The timetables that rules can be bound to, of all access systems. */
    default List<Timetable> timetables() {
        return List.of();
    }

    /** Whether a timetable is on at a local time, by the calendar of its own system; nothing for one that is not known. */
    default Optional<Boolean> timetableOn(String id, ZonedDateTime there) {
        return Optional.empty();
    }

    /**
     * What is odd about those who are to be told: that they are gone, or switched off.
     *
     * @param receivers ids
     */
    default List<Saying> oddReceivers(List<String> receivers) {
        return List.of();
    }

    /** Whether all that a system has stored is here, as far as anybody can know: its link is up, and its history is read. */
    default boolean inReach(SystemId system) {
        return true;
    }

    /** Places alone: nobody's kind is known, and there are no holidays. */
    static Known of(Supplier<SiteModel> sites) {
        return new Known() {
            @Override
            public SiteModel sites() {
                return sites.get();
            }

            @Override
            public Optional<String> kindOf(PersonId person, Instant at) {
                return Optional.empty();
            }

            @Override
            public boolean holiday(SystemId system, LocalDate day) {
                return false;
            }
        };
    }
}
