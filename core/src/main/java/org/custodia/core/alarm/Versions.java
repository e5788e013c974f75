package org.custodia.core.alarm;

import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.custodia.core.event.Event;
import org.custodia.core.operator.Actor;

/**
 * What a site has made of its own, and of what ships, with all versions of each.
 *
 * @param <T> a rule, a procedure
 */
public interface Versions<T> {
    /**
     * One version.
     *
     * @param value with its version; nothing where it was taken off
     * @param since when that was said
     * @param by the operator's sign-in name
     */
    record Said<T>(Optional<T> value, long version, Instant since, Optional<String> by) {}

    /** What was said last of each of which anything was said, by id. */
    Map<String, Said<T>> newest();

    /** All that was ever said, by id, the oldest first. */
    Map<String, List<Said<T>>> all();

    /** All that was said of one, the newest first. */
    List<Said<T>> versions(String id);

    /**
     * What is to be said of one.
     *
     * @param value nothing to take it off
     * @param basedOn the version that was looked at; 0 for one of which nothing was ever said
     */
    record Edit<T>(String id, Optional<T> value, long basedOn) {}

    /**
     * Keeps new versions, all or none.
     *
     * @param facts the events recording the edits; both are committed together, or neither
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not edit them
     * @throws org.custodia.core.event.EventLogException if somebody has changed one meanwhile, or it cannot be written
     */
    void keep(List<Edit<T>> edits, Actor by, List<Event.Builder> facts);
}
