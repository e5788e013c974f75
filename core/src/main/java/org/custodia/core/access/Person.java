package org.custodia.core.access;

import java.time.Instant;
import java.util.List;
import java.util.Optional;
import org.custodia.core.site.PersonId;

/**
 * Somebody with a record in an access system.
 *
 * @param kind staff, contractor, volunteer, visitor, or the site's own word
 * @param until when the record ends, if it does
 * @param stopped whether nothing may open for this person, whatever the badges say
 * @param photo version of the enrolled photo; empty where there is none
 * @param levels ids of the access levels given to them
 */
public record Person(
        PersonId id,
        String name,
        String company,
        String kind,
        Optional<Instant> until,
        boolean stopped,
        Optional<String> photo,
        List<String> levels) {
    public Person {
        levels = List.copyOf(levels);
    }

    /** Somebody without levels. */
    public Person(
            PersonId id,
            String name,
            String company,
            String kind,
            Optional<Instant> until,
            boolean stopped,
            Optional<String> photo) {
        this(id, name, company, kind, until, stopped, photo, List.of());
    }

    /** The name as it fits a strip: first initial and last name. */
    public String shortName() {
        int space = name.lastIndexOf(' ');
        return space < 1 ? name : name.charAt(0) + ". " + name.substring(space + 1);
    }
}
