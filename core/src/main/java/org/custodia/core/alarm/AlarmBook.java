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
import org.custodia.core.event.Projection;
import org.custodia.core.site.SystemId;

/**
 * All alarms, folded from the facts about them in the order in which they were stored. What cannot be (somebody finishes what
 * is finished, takes what is not there) changes nothing. Of finished ones the latest are kept. Safe for several threads.
 */
public final class AlarmBook implements Projection<AlarmBook.State> {
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
    /** The detail of a raised alarm whose whole course is recorded at once, later. */
    static final String REPLAYED = "replayed";
    /** The detail of an ending by which an event that was stored later contradicts what the alarm was raised for. */
    static final String CONTRADICTED = "contradicted";
    /** The detail of an act that says how many occurrences of the alarm its operator saw. */
    static final String SEEN = "seen";
    /** Finished alarms held in memory; the log has all. */
    static final int MOST_FINISHED = 2_000;

    private static final int MOST_NOTES = 200;
    /** Causes held for each open alarm, the latest. */
    static final int MOST_CAUSES_EACH = 50;
    /** Causes held of what was found last: events are evaluated again only shortly after a restart. */
    private static final int MOST_FOUND = 50_000;

    private final Map<EventKey, Alarm> open = new LinkedHashMap<>();
    private final Map<Topic, EventKey> byTopic = new HashMap<>();
    private final Map<Place, Set<EventKey>> byPlace = new HashMap<>();
    private final Map<String, Set<EventKey>> byRule = new HashMap<>();
    private final Map<EventKey, Alarm> finished;
    /** By which events rules have found something already, so that nothing is raised twice. */
    private final Map<Found, Boolean> found = bounded(MOST_FOUND);

    /**
     * What each open alarm was found by since it began to call, last time, and as its how manieth occurrence: what is said of
     * an earlier one says nothing of the alarm by now.
     */
    private final Map<EventKey, Map<EventKey, Integer>> causes = new HashMap<>();
    /** The same the other way round; one event may raise several. */
    private final Map<EventKey, Set<EventKey>> alarmsOf = new HashMap<>();
    /**
     * Alarms of the past that {@link AlarmReplay} has not recorded whole so far. They are not open: nothing joins them, and no
     * rule or act changes them.
     */
    private final Map<EventKey, Alarm> replaying = new LinkedHashMap<>();
    /** Occurrences of alarms that were finished by operators who had not seen them; each is to raise an alarm of its own. */
    private final Map<Found, Unseen> unseen = new LinkedHashMap<>();

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

    private record Place(String rule, Subject subject) {
        static Place of(Alarm alarm) {
            return new Place(alarm.origin().rule(), alarm.origin().subject());
        }
    }

    /** That a rule found something by an event. */
    record Found(String rule, EventKey cause) {}

    /** An occurrence that joined an alarm which was finished without it. */
    record Unseen(Alarm.Origin origin, Alarm.Occurrence occurrence) {}

    /** By what an open alarm was found. */
    record Causes(EventKey alarm, List<EventKey> events, List<Integer> numbers) {}

    /** All that is known, as a snapshot has it. */
    record State(
            List<Alarm> open,
            List<Alarm> replaying,
            List<Alarm> finished,
            List<Found> found,
            List<Causes> causes,
            List<Unseen> unseen) {}

    private static <K, V> Map<K, V> bounded(int most) {
        return new LinkedHashMap<>() {
            private static final long serialVersionUID = 1L;

            @Override
            protected boolean removeEldestEntry(Map.Entry<K, V> eldest) {
                return size() > most;
            }
        };
    }

    // ---- As a projection

    @Override
    public String name() {
        return "alarms";
    }

    @Override
    public int version() {
        return 3;
    }

    @Override
    public Class<State> form() {
        return State.class;
    }

    @Override
    public Set<EventKind> kinds() {
        return FACTS;
    }

    @Override
    public void apply(Event event) {
        take(event);
    }

    @Override
    public synchronized State state() {
        return new State(
                List.copyOf(open.values()),
                List.copyOf(replaying.values()),
                List.copyOf(finished.values()),
                List.copyOf(found.keySet()),
                causes.entrySet().stream()
                        .map(c -> new Causes(
                                c.getKey(),
                                List.copyOf(c.getValue().keySet()),
                                List.copyOf(c.getValue().values())))
                        .toList(),
                List.copyOf(unseen.values()));
    }

    @Override
    public synchronized void restore(State state) {
        state.open().forEach(this::putOpen);
        state.replaying().forEach(a -> replaying.put(a.id(), a));
        state.finished().forEach(a -> finished.put(a.id(), a));
        state.found().forEach(f -> found.put(f, true));
        for (Causes one : state.causes()) {
            for (int i = 0; i < one.events().size(); i++) {
                caused(one.alarm(), one.events().get(i), one.numbers().get(i));
            }
        }
        state.unseen().forEach(this::putUnseen);
    }

    private void putOpen(Alarm alarm) {
        open.put(alarm.id(), alarm);
        byTopic.put(alarm.origin().topic(), alarm.id());
        byPlace.computeIfAbsent(Place.of(alarm), p -> new LinkedHashSet<>()).add(alarm.id());
        byRule.computeIfAbsent(alarm.origin().rule(), r -> new LinkedHashSet<>())
                .add(alarm.id());
    }

    private void putUnseen(Unseen one) {
        unseen.put(new Found(one.origin().rule(), one.occurrence().cause()), one);
    }

    // ---- Facts

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
                Found by = new Found(a.origin().rule(), a.origin().cause());
                found.put(by, true);
                if (fact.detail(REPLAYED).isPresent()) {
                    replaying.put(a.id(), a);
                    return a;
                }
                putOpen(a);
                unseen.values()
                        .removeIf(u -> u.origin().topic().equals(a.origin().topic()));
                caused(a.id(), a.origin().cause(), 1);
                return a;
            });
        }
        Optional<EventKey> id = fact.detail("alarm").flatMap(EventKey::parse);
        Optional<Alarm> past = id.map(replaying::get);
        if (past.isPresent()) {
            return replayed(past.get(), fact);
        }
        Optional<Alarm> before = id.map(open::get);
        if (before.isEmpty()) {
            if (fact.kind().equals(Kinds.ALARM_AGAIN)) {
                id.map(finished::get).ifPresent(a -> happenedAfterTheEnd(a, fact));
            }
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
            caused(after.id(), after.newest().cause(), after.newest().number());
        }
        if (after.finished().isPresent()) {
            forgetCauses(after.id());
            open.remove(after.id());
            byTopic.remove(after.origin().topic(), after.id());
            remove(byPlace, Place.of(after), after.id());
            remove(byRule, after.origin().rule(), after.id());
            finished.put(after.id(), after);
            if (after.newest().number() > seen(fact, after)) {
                putUnseen(new Unseen(after.origin(), after.newest()));
            }
        } else {
            open.put(after.id(), after);
        }
        return Optional.of(after);
    }

    private Optional<Alarm> replayed(Alarm before, Event fact) {
        Alarm after = after(before, fact);
        if (after.equals(before)) {
            return Optional.empty();
        }
        if (after.finished().isPresent()) {
            replaying.remove(after.id());
            finished.put(after.id(), after);
        } else {
            replaying.put(after.id(), after);
        }
        return Optional.of(after);
    }

    private static <K> void remove(Map<K, Set<EventKey>> index, K key, EventKey alarm) {
        index.computeIfPresent(key, (k, ids) -> {
            ids.remove(alarm);
            return ids.isEmpty() ? null : ids;
        });
    }

    /** An occurrence was to join an alarm that was finished just before. */
    private void happenedAfterTheEnd(Alarm alarm, Event fact) {
        try {
            Alarm.Occurrence occurrence = again(alarm, fact).newest();
            boolean known = found.containsKey(new Found(alarm.origin().rule(), occurrence.cause()));
            if (!known && !byTopic.containsKey(alarm.origin().topic())) {
                putUnseen(new Unseen(alarm.origin(), occurrence));
            }
        } catch (DateTimeException | NoSuchElementException e) {
            // Whatever wrote that, it is not what is written here.
        }
    }

    /** How many occurrences the operator of an act saw; all that there are where the fact does not say. */
    private static int seen(Event fact, Alarm alarm) {
        return fact.detail(SEEN)
                .filter(n -> n.matches("[0-9]{1,9}"))
                .map(Integer::parseInt)
                .orElse(alarm.times());
    }

    private static Optional<Alarm> raised(Event fact) {
        Optional<Subject> subject = fact.detail("about").flatMap(Subject::parse);
        Optional<EventKey> cause = fact.detail("of").flatMap(EventKey::parse);
        if (subject.isEmpty() || cause.isEmpty()) {
            return Optional.empty();
        }
        try {
            String rule = fact.detail("rule").orElseThrow();
            Instant since = instant(fact, "since");
            return Optional.of(Alarm.of(
                    new Alarm.Origin(
                            fact.key(),
                            fact.position(),
                            rule,
                            Long.parseLong(fact.detail("rule-version").orElseThrow()),
                            fact.detail("name").orElseThrow(),
                            Priority.valueOf(fact.detail("priority").orElseThrow()),
                            subject.get(),
                            cause.get(),
                            since,
                            fact.time(),
                            !fact.detail("forward").equals(Optional.of("no")),
                            !fact.detail("sound").equals(Optional.of("no")),
                            fact.person(),
                            AlarmFacts.topic(fact, rule, subject.get()),
                            AlarmFacts.sites(fact)),
                    Alarm.Condition.valueOf(fact.detail("condition").orElseThrow()),
                    fact.detail("at").map(Instant::parse).orElse(since)));
        } catch (IllegalArgumentException | DateTimeException | NoSuchElementException e) {
            // Whatever wrote that, it is not what is written here.
            return Optional.empty();
        }
    }

    private static Instant instant(Event fact, String detail) {
        return Instant.parse(fact.detail(detail).orElseThrow());
    }

    private static Alarm again(Alarm a, Event fact) {
        Instant since = instant(fact, "since");
        return a.again(
                EventKey.parse(fact.detail("of").orElseThrow()).orElseThrow(),
                fact.detail("about").flatMap(Subject::parse).orElse(a.origin().subject()),
                fact.person(),
                fact.detail("at").map(Instant::parse).orElse(since),
                since,
                fact.time(),
                fact.detail("condition").map(Alarm.Condition::valueOf).orElse(Alarm.Condition.ON));
    }

    private Alarm after(Alarm a, Event fact) {
        EventKind kind = fact.kind();
        Alarm.By by = new Alarm.By(
                fact.operator().orElse(""), fact.detail("operator-name").orElse(""), fact.time());
        String text = fact.detail("text").orElse("");
        try {
            if (kind.equals(Kinds.ALARM_AGAIN)) {
                Alarm again = again(a, fact);
                boolean twice =
                        found.put(new Found(a.origin().rule(), again.newest().cause()), true) != null;
                return twice ? a : again;
            } else if (kind.equals(Kinds.ALARM_ENDED)) {
                return fact.detail(UNWATCHED).isPresent()
                        ? a.unwatched()
                        : fact.detail(CONTRADICTED).isPresent() ? a.contradicted() : a.ended();
            } else if (kind.equals(Kinds.ALARM_ACKNOWLEDGED)) {
                return a.acknowledged(by, seen(fact, a));
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

    private void caused(EventKey alarm, EventKey cause, int number) {
        Map<EventKey, Integer> of = causes.computeIfAbsent(alarm, a -> new LinkedHashMap<>());
        if (of.size() >= MOST_CAUSES_EACH && !of.containsKey(cause)) {
            EventKey eldest = of.keySet().iterator().next();
            of.remove(eldest);
            noMoreOf(eldest, alarm);
        }
        of.put(cause, number);
        alarmsOf.computeIfAbsent(cause, c -> new LinkedHashSet<>()).add(alarm);
    }

    private void noMoreOf(EventKey cause, EventKey alarm) {
        alarmsOf.computeIfPresent(cause, (c, alarms) -> {
            alarms.remove(alarm);
            return alarms.isEmpty() ? null : alarms;
        });
    }

    private void forgetCauses(EventKey alarm) {
        Map<EventKey, Integer> of = causes.remove(alarm);
        if (of != null) {
            of.keySet().forEach(c -> noMoreOf(c, alarm));
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
        return List.copyOf(causes.getOrDefault(alarm, Map.of()).keySet());
    }

    /** As its how manieth occurrence an open alarm was found by an event; nothing where it was not, or not since it calls. */
    synchronized Optional<Integer> occurrence(EventKey alarm, EventKey cause) {
        return Optional.ofNullable(causes.getOrDefault(alarm, Map.of()).get(cause));
    }

    /** Unseen occurrences of finished alarms. */
    synchronized List<Unseen> unseen() {
        return List.copyOf(unseen.values());
    }

    /** The alarm that a fact raised or is about; nothing for one that is not held. */
    synchronized Optional<Alarm> about(Event fact) {
        Optional<EventKey> id = fact.kind().equals(Kinds.ALARM_RAISED)
                ? Optional.of(fact.key())
                : fact.detail("alarm").flatMap(EventKey::parse);
        return id.flatMap(this::alarm);
    }

    /** Those that are not finished, the most urgent first. */
    public synchronized List<Alarm> open() {
        return open.values().stream().sorted(Alarm.BY_URGENCY).toList();
    }

    /** Alarms of the past that are not finished by the facts folded so far. */
    synchronized List<Alarm> replaying() {
        return List.copyOf(replaying.values());
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

    /** The open alarm with which something is joined. */
    synchronized Optional<Alarm> openOf(Topic topic) {
        return Optional.ofNullable(byTopic.get(topic)).map(open::get);
    }

    /** The open alarms of a rule at one subject, for all people. */
    synchronized List<Alarm> openOf(String rule, Subject subject) {
        return byPlace.getOrDefault(new Place(rule, subject), Set.of()).stream()
                .map(open::get)
                .toList();
    }

    /** The open alarms of a rule. */
    synchronized List<Alarm> openOfRule(String rule) {
        return byRule.getOrDefault(rule, Set.of()).stream().map(open::get).toList();
    }

    /** Whether a rule has found something by an event already. */
    synchronized boolean knows(String rule, EventKey cause) {
        return found.containsKey(new Found(rule, cause));
    }
}
