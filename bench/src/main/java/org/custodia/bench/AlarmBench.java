package org.custodia.bench;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import org.custodia.core.alarm.Detector;
import org.custodia.core.alarm.Hours;
import org.custodia.core.alarm.Known;
import org.custodia.core.alarm.Rule;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.Priority;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.SiteModel;

/** What rules cost over a million events, and what the shipped ones would have called for. */
final class AlarmBench {
    private static final int EVENTS = 1_000_000;
    private static final int RULES = 200;

    /** Kept and told, so that nothing is left out of what is measured. */
    private static long allFound;

    private AlarmBench() {}

    static void run() {
        for (int round = 0; round < 2; round++) {
            double bare = over(new Detector(List.of(), Known.of(() -> SiteModel.EMPTY)));
            double shipped = over(new Detector(Rule.shipped(), Known.of(() -> SiteModel.EMPTY)));
            double many = over(new Detector(many(), Known.of(() -> SiteModel.EMPTY)));
            if (round > 0) {
                System.out.printf(
                        Locale.ROOT,
                        "alarms: (%,d found) %,d events made and gone through in %.1f s without rules, %.1f s with the %d shipped, %.1f s with"
                                + " %d (wanted: under 10 s, ratio under 4); ratio %.2f%n",
                        allFound,
                        EVENTS,
                        bare,
                        shipped,
                        Rule.shipped().size(),
                        many,
                        RULES,
                        many / bare);
            }
        }
        load();
    }

    private static double over(Detector detector) {
        long begun = System.nanoTime();
        long[] found = {0};
        new YearOfEvents(EVENTS)
                .days(day -> day.forEach(e -> {
                    found[0] += detector.take(e).size();
                    found[0] += detector.tick(e.time()).size();
                }));
        allFound += found[0];
        return (System.nanoTime() - begun) / 1e9;
    }

    /** Of every sort, at some doors or anywhere, always or by night. */
    private static List<Rule> many() {
        List<Rule> all = new ArrayList<>();
        List<EventKind> kinds = List.of(Kinds.FORCED, Kinds.HELD, Kinds.REFUSED, Kinds.GRANTED, Kinds.READER_OFF);
        for (int i = 0; i < RULES; i++) {
            EventKind kind = kinds.get(i % kinds.size());
            Rule.When when =
                    switch (i % 3) {
                        case 0 -> new Rule.Once(Set.of(kind), Set.of(), Set.of(Kinds.CLOSED));
                        case 1 ->
                            new Rule.Often(
                                    Set.of(kind),
                                    Set.of(),
                                    Set.of(),
                                    3 + i % 5,
                                    Duration.ofMinutes(1 + i % 30),
                                    Rule.Per.PLACE);
                        default ->
                            new Rule.Unfollowed(Set.of(kind), Set.of(Kinds.OPENED), Duration.ofSeconds(5 + i % 20));
                    };
            Rule.Where where = i % 4 == 0
                    ? Rule.Where.ANYWHERE
                    : Rule.Where.at(Set.of(
                            new DoorId("tidewater/door-" + i % YearOfEvents.DOORS),
                            new DoorId("larkspur/door-" + i % YearOfEvents.DOORS)));
            all.add(new Rule(
                    "r" + i,
                    1,
                    "Rule " + i,
                    true,
                    when,
                    where,
                    Rule.Who.ANYBODY,
                    Hours.ALWAYS,
                    Priority.LOW,
                    Rule.Then.QUIET));
        }
        return all;
    }

    /** The load of the shipped rules over the year, joined as the desk joins within half an hour. */
    private static void load() {
        Detector detector = new Detector(Rule.shipped(), Known.of(() -> SiteModel.EMPTY));
        Map<String, Instant> latest = new HashMap<>();
        TreeMap<Long, Integer> perTen = new TreeMap<>();
        new YearOfEvents(EVENTS).days(day -> day.forEach(e -> found(detector, e, latest, perTen)));
        long alarms = perTen.values().stream().mapToLong(Integer::longValue).sum();
        int worst = perTen.values().stream().mapToInt(Integer::intValue).max().orElse(0);
        System.out.printf(
                Locale.ROOT,
                "the shipped rules over that year, 300 doors: %,d alarms, %.2f in ten minutes on average, %d in the worst ten"
                        + " (wanted: about 1, at most 10)%n",
                alarms,
                alarms / (YearOfEvents.DAYS * 144.0),
                worst);
    }

    private static void found(
            Detector detector, Event event, Map<String, Instant> latest, TreeMap<Long, Integer> perTen) {
        for (Detector.Finding finding : detector.take(event)) {
            if (finding instanceof Detector.Raised raised) {
                String topic = raised.rule().id() + " " + raised.subject();
                Instant before = latest.put(topic, raised.at());
                if (before == null || Duration.between(before, raised.at()).toMinutes() >= 30) {
                    perTen.merge(raised.at().getEpochSecond() / 600, 1, Integer::sum);
                }
            }
        }
    }
}
