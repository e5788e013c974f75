package org.custodia.core.alarm;

import java.util.Optional;

/**
 * What makes two occurrences the same alarm: the rule, and as far as it matters to the rule the place and the bearer.
 *
 * @param rule the rule's id
 * @param place nothing where the bearer alone counts
 * @param bearer nothing where the place alone counts
 */
public record Topic(String rule, Optional<Subject> place, Optional<Bearer> bearer) {
    /** A topic for a place, without a person. */
    static Topic of(String rule, Subject place) {
        return new Topic(rule, Optional.of(place), Optional.empty());
    }
}
