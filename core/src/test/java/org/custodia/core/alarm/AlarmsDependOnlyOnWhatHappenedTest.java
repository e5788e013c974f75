package org.custodia.core.alarm;

import static org.assertj.core.api.Assertions.assertThat;
import static org.custodia.core.Patience.await;
import static org.custodia.core.alarm.Happening.GATE;
import static org.custodia.core.alarm.Happening.VAULT;
import static org.custodia.core.alarm.Happening.at;
import static org.custodia.core.alarm.Happening.rule;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.concurrent.atomic.AtomicReference;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.MemoryLog;
import org.custodia.core.event.Snapshots;
import org.custodia.core.operator.Actor;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;
import org.mockito.Mockito;

/**
 * What alarms there are in the end follows from what happened: in whatever order it was stored, in however many batches, over
 * whatever restarts, with snapshots or without, and whichever other rules there are.
 */
class AlarmsDependOnlyOnWhatHappenedTest {
    private static final Actor IV = Actor.withAll("iv", "I. Vantongeren", "Desk 1");
    private static final List<DoorId> DOORS = List.of(VAULT, GATE);
    private static final List<PersonId> PEOPLE = List.of(new PersonId("tidewater/ana"), new PersonId("tidewater/odo"));
    private static final List<EventKind> KINDS =
            List.of(Kinds.FORCED, Kinds.CLOSED, Kinds.REFUSED, Kinds.GRANTED, Kinds.OPENED, Kinds.DURESS);
    private static final List<Rule> RULES = List.of(
            rule("forced", new Rule.Once(Set.of(Kinds.FORCED), Set.of(), Set.of(Kinds.CLOSED))),
            rule("duress", new Rule.Once(Set.of(Kinds.DURESS), Set.of(), Set.of())),
            rule(
                    "often",
                    new Rule.Often(
                            Set.of(Kinds.REFUSED), Set.of(), Set.of(), 3, Duration.ofSeconds(60), Rule.Per.PLACE)),
            rule(
                    "doors",
                    new Rule.Often(
                            Set.of(Kinds.REFUSED),
                            Set.of(),
                            Set.of(),
                            2,
                            Duration.ofSeconds(90),
                            Rule.Per.PERSON,
                            true)),
            rule(
                    "site",
                    new Rule.Often(
                            Set.of(Kinds.REFUSED), Set.of(), Set.of(), 4, Duration.ofSeconds(200), Rule.Per.SITE)),
            rule("nobody", new Rule.Unfollowed(Set.of(Kinds.GRANTED), Set.of(Kinds.OPENED), Duration.ofSeconds(20))));

    private final AtomicReference<Instant> now = new AtomicReference<>();
    private final Clock clock = Mockito.mock(Clock.class);

    AlarmsDependOnlyOnWhatHappenedTest() {
        Mockito.when(clock.instant()).thenAnswer(i -> now.get());
    }

    private static List<Event> happenings(Random random) {
        Happening make = new Happening();
        List<Event> all = new ArrayList<>();
        int seconds = 0;
        for (int i = 0; i < 24; i++) {
            seconds += 1 + random.nextInt(30);
            EventKind kind = KINDS.get(random.nextInt(KINDS.size()));
            Event.Builder event = make.event(kind, DOORS.get(random.nextInt(2)), 100 + seconds);
            if (kind.id().startsWith("access.")) {
                event.person(PEOPLE.get(random.nextInt(2)));
            }
            all.add(event.build());
        }
        return all;
    }

    /** What there is in the end, by topic. */
    private Map<String, String> outcome(
            List<Event> events, List<Rule> rules, Random random, boolean restarts, boolean snapshotsLost) {
        MemoryLog log = new MemoryLog();
        Snapshots snapshots = Snapshots.inMemory();
        now.set(at(0));
        AlarmDesk desk = desk(log, snapshots, rules);
        try {
            int from = 0;
            while (from < events.size()) {
                int to = Math.min(events.size(), from + 1 + random.nextInt(4));
                log.store(events.subList(from, to).toArray(Event[]::new));
                from = to;
                if (restarts && random.nextInt(5) == 0) {
                    desk.close();
                    desk = desk(log, snapshotsLost ? Snapshots.inMemory() : snapshots, rules);
                }
            }
            // Everything that was to follow has had its time.
            now.set(at(100_000));
            AlarmDesk last = desk;
            await().until(() -> settled(last, log));
            Map<String, String> all = new TreeMap<>();
            for (Alarm a : desk.open(IV)) {
                all.put(
                        a.origin().topic().toString(),
                        a.condition() + " " + a.times() + " " + a.latest() + " " + causes(a, log));
            }
            return all;
        } finally {
            desk.close();
        }
    }

    /** By which events it was found, in no order. */
    private static Set<String> causes(Alarm alarm, MemoryLog log) {
        Set<String> all = new TreeSet<>();
        log.events.stream()
                .filter(e -> e.kind().equals(Kinds.ALARM_RAISED) && e.key().equals(alarm.id())
                        || e.kind().equals(Kinds.ALARM_AGAIN)
                                && e.detail("alarm")
                                        .equals(Optional.of(alarm.id().text())))
                .forEach(e -> all.add(e.detail("of").orElseThrow()));
        return all;
    }

    private AlarmDesk desk(MemoryLog log, Snapshots snapshots, List<Rule> rules) {
        AlarmDesk desk =
                new AlarmDesk(log, log, snapshots, Known.of(() -> Happening.SITES), (door, c, rule) -> {}, clock);
        desk.watch(rules.stream().map(RuleTimeline::always).toList());
        return desk;
    }

    /** Whether nothing more comes: an alarm that is looked for by a last event is there. */
    private static boolean settled(AlarmDesk desk, MemoryLog log) {
        int before = log.events.size();
        desk.settled();
        return log.events.size() == before;
    }

    @Property(tries = 25)
    void alarms_do_not_depend_on_the_order_of_storing_nor_on_restarts(@ForAll long seed) {
        Random random = new Random(seed);
        List<Event> events = happenings(random);
        Map<String, String> inOrder = outcome(events, RULES, random, false, false);
        List<Event> turned = new ArrayList<>(events);
        Collections.reverse(turned);
        assertThat(outcome(turned, RULES, random, false, false)).as("reversed").isEqualTo(inOrder);
        Collections.shuffle(turned, random);
        assertThat(outcome(turned, RULES, random, false, false)).as("shuffled").isEqualTo(inOrder);
        assertThat(outcome(turned, RULES, random, true, false))
                .as("with restarts")
                .isEqualTo(inOrder);
        assertThat(outcome(events, RULES, random, true, true))
                .as("with restarts, without snapshots")
                .isEqualTo(inOrder);
        Rule alone = RULES.get(random.nextInt(RULES.size()));
        Map<String, String> itsOwn = new TreeMap<>(inOrder);
        itsOwn.keySet().removeIf(t -> !t.contains("rule=" + alone.id() + ","));
        assertThat(outcome(turned, List.of(alone), random, false, false))
                .as("alone")
                .isEqualTo(itsOwn);
    }

    private static final Rule.Holding ARMED =
            new Rule.Holding(Set.of(Kinds.PANEL_ARMED), Set.of(Kinds.PANEL_DISARMED), Rule.Extent.SITE);
    private static final Rule ONCE = rule("once", new Rule.Once(Set.of(Kinds.DURESS), Set.of(), Set.of()))
            .holding(Optional.of(ARMED));
    private static final Rule COUNTED = rule(
                    "counted",
                    new Rule.Often(
                            Set.of(Kinds.REFUSED), Set.of(), Set.of(), 2, Duration.ofSeconds(60), Rule.Per.PLACE))
            .holding(Optional.of(ARMED));
    private static final Rule WALKED = rule(
                    "walked", new Rule.Unfollowed(Set.of(Kinds.GRANTED), Set.of(Kinds.OPENED), Duration.ofSeconds(20)))
            .holding(Optional.of(ARMED));
    private static final List<EventKind> WHILE_ARMED = List.of(
            Kinds.PANEL_ARMED,
            Kinds.PANEL_DISARMED,
            Kinds.DURESS,
            Kinds.REFUSED,
            Kinds.REFUSED,
            Kinds.GRANTED,
            Kinds.OPENED);

    /** All that was found, by rule: by which events, and whether an alarm still stands that was found by the event last. */
    private record Found(Map<String, Set<String>> causes, Map<String, Set<String>> standing) {}

    private Found found(List<Event> events, Random random, boolean restarts, boolean snapshotsLost) {
        MemoryLog log = new MemoryLog();
        Snapshots snapshots = Snapshots.inMemory();
        List<Rule> rules = List.of(ONCE, COUNTED, WALKED);
        now.set(at(0));
        AlarmDesk desk = desk(log, snapshots, rules);
        try {
            int from = 0;
            while (from < events.size()) {
                int to = Math.min(events.size(), from + 1 + random.nextInt(4));
                log.store(events.subList(from, to).toArray(Event[]::new));
                from = to;
                if (restarts && random.nextInt(5) == 0) {
                    desk.close();
                    desk = desk(log, snapshotsLost ? Snapshots.inMemory() : snapshots, rules);
                }
            }
            now.set(at(100_000));
            AlarmDesk last = desk;
            await().until(() -> settled(last, log));
            Map<String, Set<String>> causes = new TreeMap<>();
            Map<String, Set<String>> standing = new TreeMap<>();
            for (Alarm a : desk.open(IV)) {
                causes.computeIfAbsent(a.origin().rule(), r -> new TreeSet<>()).addAll(causes(a, log));
                if (a.condition() != Alarm.Condition.CONTRADICTED) {
                    standing.computeIfAbsent(a.origin().rule(), r -> new TreeSet<>())
                            .add(a.newest().cause().text());
                }
            }
            return new Found(causes, standing);
        } finally {
            desk.close();
        }
    }

    /** What was found too early is contradicted, and nothing that is known in the end is missing. */
    @Property(tries = 25)
    void what_depends_on_a_state_is_found_whenever_the_state_becomes_known(@ForAll long seed) {
        Random random = new Random(seed);
        Happening make = new Happening();
        List<Event> events = new ArrayList<>();
        int seconds = 0;
        for (int i = 0; i < 24; i++) {
            // Some at the same instant.
            seconds += random.nextInt(25);
            EventKind kind = WHILE_ARMED.get(random.nextInt(WHILE_ARMED.size()));
            events.add(make.event(kind, DOORS.get(random.nextInt(2)), 100 + seconds)
                    .build());
        }
        Found inOrder = found(events, random, false, false);
        List<Event> turned = new ArrayList<>(events);
        Collections.reverse(turned);
        isSame(found(turned, random, false, false), inOrder, "reversed");
        Collections.shuffle(turned, random);
        isSame(found(turned, random, false, false), inOrder, "shuffled");
        isSame(found(turned, random, true, false), inOrder, "with restarts");
        isSame(found(turned, random, true, true), inOrder, "with restarts, without snapshots");
    }

    private static void isSame(Found there, Found inOrder, String how) {
        inOrder.standing().forEach((rule, causes) -> {
            assertThat(there.causes().getOrDefault(rule, Set.of()))
                    .as(how + ": found by " + rule)
                    .containsAll(causes);
        });
        there.standing().forEach((rule, causes) -> assertThat(inOrder.causes().getOrDefault(rule, Set.of()))
                .as(how + ": standing by " + rule)
                .containsAll(causes));
    }
}
