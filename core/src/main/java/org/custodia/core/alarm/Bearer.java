package org.custodia.core.alarm;

import java.util.Optional;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.SystemId;

/**
 * The person, or where the person is not known the badge, that something is about.
 *
 * @param system the system that knows the badge; nothing for a person
 * @param badge its number; nothing for a person
 */
public record Bearer(Optional<PersonId> person, Optional<SystemId> system, Optional<String> badge) {
    public Bearer {
        if (person.isPresent() == badge.isPresent() || system.isPresent() != badge.isPresent()) {
            throw new IllegalArgumentException("either a person, or a badge of a system");
        }
    }

    static Bearer of(PersonId person) {
        return new Bearer(Optional.of(person), Optional.empty(), Optional.empty());
    }

    static Bearer of(SystemId system, String badge) {
        return new Bearer(Optional.empty(), Optional.of(system), Optional.of(badge));
    }
}
