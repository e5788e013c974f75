package org.custodia.core.message;

import java.time.Instant;
import java.util.Optional;
import org.custodia.core.access.Person;
import org.custodia.core.alarm.Alarm;
import org.custodia.core.link.RecorderLink;
import org.custodia.core.site.Door;
import org.custodia.core.site.Site;

/**
 * What is sent.
 *
 * @param id the same for each attempt, and of no other message anywhere
 * @param attempt counts from 1
 * @param maybeBefore whether an earlier attempt may have arrived
 * @param sent when this attempt is made
 * @param alarm as it stands when this attempt is made; nothing for a trial
 * @param door where it is about one
 * @param site where that is known
 * @param person whom what raised it names, as on file then
 * @param picture of when it happened, where there is one
 */
public record Message(
        String id,
        int attempt,
        boolean maybeBefore,
        Instant sent,
        Occasion occasion,
        Optional<Alarm> alarm,
        Optional<Door> door,
        Optional<Site> site,
        Optional<Person> person,
        Optional<RecorderLink.Still> picture) {

    /**
     * In words.
     *
     * @param subject one line
     * @param text several lines
     * @param what what the alarm is called
     * @param where what it is about
     */
    public record Words(String subject, String text, String what, String where) {}

    /** Puts it into words. */
    @FunctionalInterface
    public interface Phrasing {
        Words of(Message message);
    }
}
