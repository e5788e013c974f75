package org.custodia.core.alarm;

import static org.assertj.core.api.Assertions.assertThat;
import static org.custodia.core.alarm.Happening.GATE;
import static org.custodia.core.alarm.Happening.VAULT;
import static org.custodia.core.alarm.Happening.at;
import static org.custodia.core.alarm.Happening.rule;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Random;
import java.util.Set;
import java.util.TreeSet;
import java.util.stream.Stream;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.MemoryLog;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.Side;
import org.junit.jupiter.api.Test;

/** A detector that reports nothing before an instant reports the same after it as one that evaluates everything. */
class ReportedFromTest {
    private static final Known KNOWN = Known.of(() -> Happening.SITES);
    private static final List<EventKind> KINDS =
            List.of(Kinds.GRANTED, Kinds.REFUSED, Kinds.OPENED, Kinds.CLOSED, Kinds.FORCED, Kinds.HELD);
    private static final List<Rule> RULES = Stream.concat(
                    Rule.shipped().stream(),
                    Stream.of(
                            rule("three", often(3, 120, Set.of(Kinds.GRANTED), Rule.Per.PERSON)),
                            rule("two", often(2, 300, Set.of(), Rule.Per.SITE)),
                            rule(
                                    "forced-twice",
                                    new Rule.Often(
                                            Set.of(Kinds.FORCED, Kinds.NOBODY_ENTERED),
                                            Set.of(),
                                            Set.of(),
                                            2,
                                            Duration.ofSeconds(200),
                                            Rule.Per.PLACE)),
                            rule("far", new Rule.TooFar(Set.of(Kinds.GRANTED), 100, Duration.ofSeconds(400))),
                            rule(
                                    "no-exit",
                                    new Rule.Unfollowed(
                                            Set.of(Kinds.GRANTED),
                                            Set.of(Kinds.GRANTED),
                                            Duration.ofSeconds(200),
                                            true))))
            .toList();

    private static Rule.Often often(int times, int seconds, Set<EventKind> unless, Rule.Per per) {
        return new Rule.Often(Set.of(Kinds.REFUSED), Set.of(), unless, times, Duration.ofSeconds(seconds), per);
    }

    private static List<Event> happenings(Random random) {
        Happening make = new Happening();
        List<Event> all = new ArrayList<>();
        int seconds = 0;
        for (int i = 0; i < 60; i++) {
            seconds += 1 + random.nextInt(40);
            DoorId door = random.nextBoolean() ? VAULT : GATE;
            Event.Builder event = make.event(KINDS.get(random.nextInt(KINDS.size())), door, seconds);
            if (event.build().kind().id().startsWith("access.")) {
                event.person(new PersonId("tidewater/" + (random.nextBoolean() ? "ana" : "odo")))
                        .side(random.nextInt(3) == 0 ? Side.EXIT : Side.ENTRY);
            }
            all.add(event.build());
        }
        // Some are stored late.
        for (int i = 0; i < 15; i++) {
            int from = random.nextInt(all.size());
            Collections.swap(all, from, Math.min(all.size() - 1, from + random.nextInt(8)));
        }
        return all;
    }

    /** What is raised and ends from an instant on. */
    private static Set<String> found(List<Event> events, Instant reported, boolean skipsEarlier) {
        MemoryLog log = new MemoryLog();
        Detector detector =
                new Detector(RULES.stream().map(RuleTimeline::always).toList(), KNOWN, History.of(log));
        if (skipsEarlier) {
            detector.reportFrom(reported);
        }
        List<Detector.Finding> all = new ArrayList<>();
        for (Event event : events) {
            log.store(event);
            all.addAll(detector.take(log.byKey(event.key()).orElseThrow()));
        }
        all.addAll(detector.tick(at(100_000)));
        Set<String> words = new TreeSet<>();
        for (Detector.Finding f : all) {
            if (f instanceof Detector.Raised r && !r.at().isBefore(reported)) {
                words.add(r.rule().id() + " raised " + r.topic() + " by "
                        + r.cause().key() + " since " + r.since());
            } else if (f instanceof Detector.Ended e && !e.by().time().isBefore(reported)) {
                words.add(e.rule().id() + " ended " + e.subject() + " by " + e.by().key());
            }
        }
        return words;
    }

    @Property(tries = 200)
    void what_is_reported_does_not_depend_on_what_was_skipped(@ForAll long seed) {
        Random random = new Random(seed);
        List<Event> events = happenings(random);
        Instant reported = at(random.nextInt(1_200));
        assertThat(found(events, reported, true)).isEqualTo(found(events, reported, false));
    }

    /** Two of three refusals lie before the instant from which alarms are reported. */
    @Test
    void what_counts_towards_a_later_alarm_is_not_skipped() {
        Happening make = new Happening();
        List<Event> events = Stream.of(10, 50, 90)
                .map(s -> make.event(Kinds.REFUSED, VAULT, s)
                        .person(new PersonId("tidewater/ana"))
                        .build())
                .toList();
        assertThat(found(events, at(80), true)).anyMatch(f -> f.startsWith("three raised"));
        assertThat(found(events, at(95), true)).isEmpty();
    }
}
