package org.custodia.core.alarm;

import java.time.DateTimeException;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collections;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.NoSuchElementException;
import java.util.Optional;
import java.util.Set;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.Priority;
import org.custodia.core.site.SystemId;

/**
 * All alarms, folded from the facts about them in the order in which they were stored. What cannot be (somebody finishes what
 * is finished, takes what is not there) changes nothing. Of finished ones the latest are kept. Safe for several threads.
 */
public final class AlarmBook {
    /** The kinds of facts that it is made of. */
    public static final Set<EventKind> FACTS = Set.of(
            Kinds.ALARM_RAISED,
            Kinds.ALARM_AGAIN,
            Kinds.ALARM_ENDED,
            Kinds.ALARM_ACKNOWLEDGED,
            Kinds.ALARM_TAKEN,
            Kinds.ALARM_SHELVED,
            Kinds.ALARM_BACK,
            Kinds.ALARM_ESCALATED,
            Kinds.ALARM_TICKED,
            Kinds.ALARM_NOTE,
            Kinds.ALARM_FINISHED);

    /** The detail of the fact that a condition is watched no more, since its rule is gone. */
    static final String UNWATCHED = "unwatched";
    /** Finished alarms that are kept at hand; the log has all. */
    static final int MOST_FINISHED = 2_000;

    private static final int MOST_NOTES = 200;
    /** Of what an alarm was found by again and again, so many are kept, the latest. */
    static final int MOST_CAUSES_EACH = 50;

    private static final int MOST_CAUSES = 50_000;

    private final Map<EventKey, Alarm> open = new LinkedHashMap<>();
    private final Map<Topic, EventKey> byTopic = new HashMap<>();
    private final Map<EventKey, Alarm> finished;
    /** By which events rules have found something already, so that nothing is raised twice. */
    private final Map<Found, Boolean> found = bounded(MOST_CAUSES);

    AlarmBook() {
        this(MOST_FINISHED);
    }

    private AlarmBook(int mostFinished) {
        this.finished = bounded(mostFinished);
    }

    /** One that keeps all that are finished, for what is read of the past. */
    static AlarmBook ofAll() {
        return new AlarmBook(Integer.MAX_VALUE);
    }

    /**
     * What each open alarm was found by since it began to call, last time: what is said of an earlier one says nothing of the
     * alarm by now.
     */
    private final Map<EventKey, Set<EventKey>> causes = new HashMap<>();
    /** The same the other way round; one event may raise several. */
    private final Map<EventKey, Set<EventKey>> alarmsOf = new HashMap<>();

    private record Topic(String rule, Subject subject) {
        static Topic of(Alarm a) {
            return new Topic(a.origin().rule(), a.origin().subject());
        }
    }

    private record Found(String rule, EventKey cause) {}

    private static <K, V> Map<K, V> bounded(int most) {
        return new LinkedHashMap<>() {
            private static final long serialVersionUID = 1L;

            @Override
            protected boolean removeEldestEntry(Map.Entry<K, V> eldest) {
                return size() > most;
            }
        };
    }

    /**
     * Takes in the next fact of the log.
     *
     * @return the alarm as it stands then, if that changed anything
     */
    public synchronized Optional<Alarm> take(Event fact) {
        if (!FACTS.contains(fact.kind()) || !fact.key().system().equals(SystemId.CUSTODIA)) {
            return Optional.empty();
        }
        if (fact.kind().equals(Kinds.ALARM_RAISED)) {
            return raised(fact).map(a -> {
                open.put(a.id(), a);
                byTopic.put(Topic.of(a), a.id());
                found.put(new Found(a.origin().rule(), a.origin().cause()), true);
                caused(a.id(), a.origin().cause());
                return a;
            });
        }
        Optional<Alarm> before = fact.detail("alarm").flatMap(EventKey::parse).map(open::get);
        if (before.isEmpty()) {
            return Optional.empty();
        }
        Alarm after = after(before.get(), fact);
        if (after.equals(before.get())) {
            return Optional.empty();
        }
        if (fact.kind().equals(Kinds.ALARM_AGAIN)) {
            // Whatever changed it said when it happened.
            if (before.get().beginsIfAgain(instant(fact, "since"), fact.time())) {
                forgetCauses(after.id());
            }
            fact.detail("of").flatMap(EventKey::parse).ifPresent(c -> caused(after.id(), c));
        }
        if (after.finished().isPresent()) {
            forgetCauses(after.id());
            open.remove(after.id());
            byTopic.remove(Topic.of(after), after.id());
            finished.put(after.id(), after);
        } else {
            open.put(after.id(), after);
        }
        return Optional.of(after);
    }

    private static Optional<Alarm> raised(Event fact) {
        Optional<Subject> subject = fact.detail("about").flatMap(Subject::parse);
        Optional<EventKey> cause = fact.detail("of").flatMap(EventKey::parse);
        if (subject.isEmpty() || cause.isEmpty()) {
            return Optional.empty();
        }
        try {
            return Optional.of(Alarm.of(
                    new Alarm.Origin(
                            fact.key(),
                            fact.position(),
                            fact.detail("rule").orElseThrow(),
                            Long.parseLong(fact.detail("rule-version").orElseThrow()),
                            fact.detail("name").orElseThrow(),
                            Priority.valueOf(fact.detail("priority").orElseThrow()),
                            subject.get(),
                            cause.get(),
                            instant(fact, "since"),
                            fact.time(),
                            !fact.detail("forward").equals(Optional.of("no")),
                            !fact.detail("sound").equals(Optional.of("no")),
                            fact.person()),
                    Alarm.Condition.valueOf(fact.detail("condition").orElseThrow())));
        } catch (IllegalArgumentException | DateTimeException | NoSuchElementException e) {
            // Whatever wrote that, it is not what is written here.
            return Optional.empty();
        }
    }

    private static Instant instant(Event fact, String detail) {
        return Instant.parse(fact.detail(detail).orElseThrow());
    }

    private Alarm after(Alarm a, Event fact) {
        EventKind kind = fact.kind();
        Alarm.By by = new Alarm.By(
                fact.operator().orElse(""), fact.detail("operator-name").orElse(""), fact.time());
        String text = fact.detail("text").orElse("");
        try {
            if (kind.equals(Kinds.ALARM_AGAIN)) {
                EventKey cause = EventKey.parse(fact.detail("of").orElseThrow()).orElseThrow();
                boolean twice = found.put(new Found(a.origin().rule(), cause), true) != null;
                return twice ? a : a.again(instant(fact, "since"), fact.time());
            } else if (kind.equals(Kinds.ALARM_ENDED)) {
                return fact.detail(UNWATCHED).isPresent() ? a.unwatched() : a.ended();
            } else if (kind.equals(Kinds.ALARM_ACKNOWLEDGED)) {
                return a.acknowledged(by);
            } else if (kind.equals(Kinds.ALARM_TAKEN)) {
                return a.taken(
                        new Alarm.Owner(
                                fact.detail("owner").orElseThrow(),
                                fact.detail("owner-name").orElse(""),
                                fact.time()),
                        by);
            } else if (kind.equals(Kinds.ALARM_SHELVED)) {
                return a.shelved(new Alarm.Shelved(
                        by, instant(fact, "until"), fact.reason().orElse("")));
            } else if (kind.equals(Kinds.ALARM_BACK)) {
                return a.back(fact.time());
            } else if (kind.equals(Kinds.ALARM_ESCALATED)) {
                return a.escalated(Integer.parseInt(fact.detail("step").orElseThrow()));
            } else if (kind.equals(Kinds.ALARM_TICKED)) {
                String step = fact.detail("step").orElseThrow();
                boolean known = a.ticks().stream().anyMatch(t -> t.step().equals(step));
                return known || a.ticks().size() < Procedure.MOST_STEPS * 4
                        ? a.ticked(step, !fact.detail("done").equals(Optional.of("no")), by)
                        : a;
            } else if (kind.equals(Kinds.ALARM_NOTE)) {
                return a.notes().size() < MOST_NOTES ? a.noted(new Alarm.Note(by, text)) : a;
            }
            Outcome outcome = Outcome.of(fact.detail("outcome").orElse("")).orElse(Outcome.NOT_KNOWN);
            return a.finished(new Alarm.Finished(by, outcome, text));
        } catch (DateTimeException | NoSuchElementException | NumberFormatException e) {
            return a;
        }
    }

    private void caused(EventKey alarm, EventKey cause) {
        Set<EventKey> of = causes.computeIfAbsent(alarm, a -> new LinkedHashSet<>());
        if (of.size() >= MOST_CAUSES_EACH) {
            EventKey eldest = of.iterator().next();
            of.remove(eldest);
            noMoreOf(eldest, alarm);
        }
        of.add(cause);
        alarmsOf.computeIfAbsent(cause, c -> new LinkedHashSet<>()).add(alarm);
    }

    private void noMoreOf(EventKey cause, EventKey alarm) {
        alarmsOf.computeIfPresent(cause, (c, alarms) -> {
            alarms.remove(alarm);
            return alarms.isEmpty() ? null : alarms;
        });
    }

    private void forgetCauses(EventKey alarm) {
        Set<EventKey> of = causes.remove(alarm);
        if (of != null) {
            of.forEach(c -> noMoreOf(c, alarm));
        }
    }

    /** The open alarms that were found by an event since they began to call, last time. */
    synchronized List<Alarm> foundBy(EventKey cause) {
        return alarmsOf.getOrDefault(cause, Set.of()).stream()
                .flatMap(a -> Optional.ofNullable(open.get(a)).stream())
                .toList();
    }

    /** What an open alarm was found by since it began to call, last time. */
    synchronized List<EventKey> causes(EventKey alarm) {
        return List.copyOf(causes.getOrDefault(alarm, Set.of()));
    }

    /** Those that are not finished, the most urgent first. */
    public synchronized List<Alarm> open() {
        return open.values().stream().sorted(Alarm.BY_URGENCY).toList();
    }

    /** The latest that are finished, the newest first. */
    public synchronized List<Alarm> finished() {
        List<Alarm> all = new ArrayList<>(finished.values());
        Collections.reverse(all);
        return all;
    }

    /** One of them; nothing for one that is not at hand. */
    public synchronized Optional<Alarm> alarm(EventKey id) {
        return Optional.ofNullable(open.get(id)).or(() -> Optional.ofNullable(finished.get(id)));
    }

    /** The open alarm of a rule about something. */
    synchronized Optional<Alarm> openOf(String rule, Subject subject) {
        return Optional.ofNullable(byTopic.get(new Topic(rule, subject))).map(open::get);
    }

    /** Whether a rule has found something by an event already. */
    synchronized boolean knows(String rule, EventKey cause) {
        return found.containsKey(new Found(rule, cause));
    }
}
