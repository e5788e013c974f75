package org.custodia.core.alarm;

import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.custodia.core.operator.Actor;

/** The site's own rules, and what it has made of those that ship, with all versions of each. */
public interface RuleVersions {
    /**
     * One version.
     *
     * @param rule with its version; nothing where the rule was taken off
     * @param since when that was said
     * @param by the operator's sign-in name
     */
    record Said(Optional<Rule> rule, long version, Instant since, Optional<String> by) {}

    /** What was said last of each rule of which anything was said, by id. */
    Map<String, Said> newest();

    /** All that was said of one, the newest first. */
    List<Said> versions(String id);

    /**
     * What is to be said of a rule.
     *
     * @param rule nothing to take it off
     * @param basedOn the version that was looked at; 0 for one of which nothing was ever said
     */
    record Edit(String id, Optional<Rule> rule, long basedOn) {}

    /**
     * Keeps new versions, all or none.
     *
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not edit rules
     * @throws org.custodia.core.event.EventLogException if somebody has changed one meanwhile, or it cannot be written
     */
    void keep(List<Edit> edits, Actor by);
}
