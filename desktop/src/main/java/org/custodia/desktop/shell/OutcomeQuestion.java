package org.custodia.desktop.shell;

import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;
import org.custodia.core.event.EventField;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Filter;
import org.custodia.core.event.Kinds;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.words.Names;

/**
 * What came of something, as people type it: "refused Lucia today", "forced yesterday", "held loading bay".
 *
 * @param kinds what happened, named by the beginning of its name
 * @param day today or yesterday, where that was typed
 * @param rest the other words: of a person or a door
 */
record OutcomeQuestion(Set<EventKind> kinds, Optional<LocalDate> day, String rest) {
    private static final Texts TEXTS = Texts.of(OutcomeQuestion.class);
    private static final List<EventKind> KINDS =
            List.of(Kinds.GRANTED, Kinds.REFUSED, Kinds.DURESS, Kinds.FORCED, Kinds.HELD, Kinds.RELEASED);
    /** Fewer letters begin too many words. */
    private static final int LETTERS = 4;

    /** Reads words; nothing where no outcome is among them. */
    static Optional<OutcomeQuestion> of(String words, Instant now, ZoneId zone) {
        Set<EventKind> kinds = new HashSet<>();
        Optional<LocalDate> day = Optional.empty();
        List<String> rest = new ArrayList<>();
        LocalDate today = now.atZone(zone).toLocalDate();
        for (String word : words.trim().toLowerCase(Locale.ROOT).split("\\s+")) {
            List<EventKind> named = KINDS.stream()
                    .filter(k -> word.length() >= LETTERS
                            && Names.kind(k).toLowerCase(Locale.ROOT).startsWith(word))
                    .toList();
            if (!named.isEmpty()) {
                kinds.addAll(named);
            } else if (word.equals(TEXTS.say("word-today"))) {
                day = Optional.of(today);
            } else if (word.equals(TEXTS.say("word-yesterday"))) {
                day = Optional.of(today.minusDays(1));
            } else {
                rest.add(word);
            }
        }
        return kinds.isEmpty()
                ? Optional.empty()
                : Optional.of(new OutcomeQuestion(kinds, day, String.join(" ", rest)));
    }

    /**
     * The question to the log; empty if the other words match no person, door or site.
     *
     * @param people finds people by words
     * @param doors finds doors by words
     */
    Optional<EventQuery> query(
            ZoneId zone, int most, Function<String, Set<PersonId>> people, Function<String, Set<DoorId>> doors) {
        EventQuery query = EventQuery.all().kinds(kinds.toArray(EventKind[]::new));
        if (day.isPresent()) {
            query = query.between(
                    day.get().atStartOfDay(zone).toInstant(),
                    day.get().plusDays(1).atStartOfDay(zone).toInstant());
        }
        if (!rest.isEmpty()) {
            List<Filter> some = new ArrayList<>();
            Set<PersonId> who = people.apply(rest);
            Set<DoorId> where = doors.apply(rest);
            if (!who.isEmpty()) {
                some.add(Filter.isOneOf(EventField.PERSON, who));
            }
            if (!where.isEmpty()) {
                some.add(Filter.isOneOf(EventField.DOOR, where));
            }
            if (some.isEmpty()) {
                return Optional.empty();
            }
            query = query.where(some.size() == 1 ? some.get(0) : Filter.or(some.toArray(Filter[]::new)));
        }
        return Optional.of(query.newest(most));
    }
}
