package org.custodia.core.alarm;

import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;

/**
 * All versions of one rule, so that each event is judged by the version that was in force when it happened.
 *
 * @param versions the oldest first, each in force from an instant until that of the next
 */
public record RuleTimeline(String id, List<Version> versions) {
    /**
     * One version.
     *
     * @param from since when it has been in force
     * @param rule nothing where the rule was deleted
     */
    public record Version(Instant from, Optional<Rule> rule) {}

    public RuleTimeline {
        versions = List.copyOf(versions);
        if (versions.isEmpty()) {
            throw new IllegalArgumentException("a rule has some version");
        }
        if (versions.stream()
                .anyMatch(v -> v.rule().filter(r -> !r.id().equals(id)).isPresent())) {
            throw new IllegalArgumentException("all versions are of one rule");
        }
    }

    /** A rule that has always been as it is. */
    public static RuleTimeline always(Rule rule) {
        return new RuleTimeline(rule.id(), List.of(new Version(Instant.MIN, Optional.of(rule))));
    }

    /** The rule as it stands; nothing where it was deleted. */
    public Optional<Rule> newest() {
        return versions.get(versions.size() - 1).rule();
    }

    /** The rule by which an event is judged: the version of then, or the newest where there was none yet. */
    public Optional<Rule> at(Instant when) {
        for (int i = versions.size() - 1; i >= 0; i--) {
            if (!versions.get(i).from().isAfter(when)) {
                return versions.get(i).rule();
            }
        }
        return newest();
    }

    /** All versions in which it is enabled. */
    List<Rule> enabledVersions() {
        List<Rule> all = new ArrayList<>();
        versions.forEach(v -> v.rule().filter(Rule::on).ifPresent(all::add));
        return all;
    }
}
