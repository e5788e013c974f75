package org.custodia.core.alarm;

import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.function.Supplier;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Provenance;
import org.custodia.core.site.Door;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SiteModel;

/**
 * Goes through events in the order of the log and finds what rules are about. What it remembers is bounded. Of late events the
 * time counts at which they happened, so that what happened three times within a minute is found in whatever order it came.
 * Not for several threads.
 */
public final class Detector {
    /** A rule counts no further than this. */
    public static final int MOST_TIMES = 100;
    /** So many places, people or badges are counted apart for each rule; of more, those that were quiet longest are forgotten. */
    private static final int MOST_COUNTED = 5_000;
    /** Events that are waited after. */
    private static final int MOST_AWAITED = 20_000;

    private final Map<EventKind, List<Rule>> byKind = new HashMap<>();
    private final Map<EventKind, List<Rule>> ending = new HashMap<>();
    private final Supplier<SiteModel> sites;
    private final Map<String, Map<String, TreeMap<Instant, List<EventKey>>>> counted = new HashMap<>();
    private final Map<String, Map<EventKey, Awaited>> awaited = new HashMap<>();
    private int waiting;

    /** What was found. */
    public sealed interface Finding {
        Rule rule();

        Subject subject();
    }

    /**
     * Something that is to be an alarm, or joins one.
     *
     * @param cause by which it was found
     * @param at when it happened
     * @param since when what was counted together began
     */
    public record Raised(Rule rule, Subject subject, Event cause, Instant at, Instant since) implements Finding {}

    /** A condition that is no more. */
    public record Ended(Rule rule, Subject subject, Event by) implements Finding {}

    private record Awaited(Rule rule, Subject subject, Event event, Instant until) {}

    /**
     * @param rules those that are switched off are passed over
     */
    public Detector(Collection<Rule> rules, Supplier<SiteModel> sites) {
        this.sites = sites;
        for (Rule rule : rules) {
            if (rule.on()) {
                rule.when().kinds().forEach(k -> byKind.computeIfAbsent(k, x -> new ArrayList<>(2))
                        .add(rule));
                rule.endedBy().forEach(k -> ending.computeIfAbsent(k, x -> new ArrayList<>(2))
                        .add(rule));
                if (rule.when() instanceof Rule.Unfollowed unfollowed) {
                    unfollowed.by().forEach(k -> ending.computeIfAbsent(k, x -> new ArrayList<>(2))
                            .add(rule));
                }
            }
        }
    }

    /** Whether an event of a kind can make any difference. */
    public boolean looksAt(EventKind kind) {
        return byKind.containsKey(kind) || ending.containsKey(kind);
    }

    /** Takes in the next event of the log. */
    public List<Finding> take(Event event) {
        List<Rule> begins = byKind.getOrDefault(event.kind(), List.of());
        List<Rule> ends = ending.getOrDefault(event.kind(), List.of());
        if (begins.isEmpty() && ends.isEmpty() || !Provenance.trusted(event)) {
            return List.of();
        }
        List<Finding> found = new ArrayList<>(2);
        Subject subject = Subject.of(event);
        for (Rule rule : ends) {
            if (rule.when() instanceof Rule.Unfollowed) {
                follows(rule, subject, event);
            } else {
                found.add(new Ended(rule, subject, event));
            }
        }
        for (Rule rule : begins) {
            if (concerns(rule, event, subject)) {
                look(rule, event, subject, found);
            }
        }
        return found;
    }

    private void look(Rule rule, Event event, Subject subject, List<Finding> found) {
        if (rule.when() instanceof Rule.Once once) {
            if (fits(once.reasons(), event)) {
                found.add(new Raised(rule, subject, event, event.time(), event.time()));
            }
        } else if (rule.when() instanceof Rule.Often often) {
            if (fits(often.reasons(), event)) {
                counted(rule, often, event, subject).ifPresent(found::add);
            }
        } else if (rule.when() instanceof Rule.Unfollowed unfollowed && waiting < MOST_AWAITED) {
            Map<EventKey, Awaited> those = awaited.computeIfAbsent(rule.id(), r -> new LinkedHashMap<>());
            if (those.put(
                            event.key(),
                            new Awaited(rule, subject, event, event.time().plus(unfollowed.within())))
                    == null) {
                waiting++;
            }
        }
    }

    private static boolean fits(Set<String> reasons, Event event) {
        return reasons.isEmpty() || event.reason().filter(reasons::contains).isPresent();
    }

    private boolean concerns(Rule rule, Event event, Subject subject) {
        if (!rule.who().includes(event.person())) {
            return false;
        }
        if (rule.where().anywhere() && rule.during().equals(Hours.ALWAYS)) {
            return true;
        }
        SiteModel model = sites.get();
        if (!rule.where().anywhere()) {
            boolean there = event.door().filter(rule.where().doors()::contains).isPresent()
                    || rule.where().systems().contains(event.key().system())
                    || site(event, subject, model)
                            .filter(rule.where().sites()::contains)
                            .isPresent();
            if (!there) {
                return false;
            }
        }
        ZoneId zone = event.door().flatMap(model::door).isPresent()
                ? model.zoneOf(event.door().get())
                : site(event, subject, model)
                        .flatMap(s -> model.sites().stream()
                                .filter(x -> x.id().equals(s))
                                .findFirst())
                        .map(s -> s.timeZone())
                        .orElse(ZoneOffset.UTC);
        return rule.during().include(event.time(), zone);
    }

    private static Optional<SiteId> site(Event event, Subject subject, SiteModel model) {
        return event.door().flatMap(model::door).map(Door::site).or(() -> subject.site(model));
    }

    private Optional<Raised> counted(Rule rule, Rule.Often often, Event event, Subject subject) {
        Optional<String> key =
                switch (often.per()) {
                    case PLACE -> Optional.of(subject.toString());
                    case PERSON -> event.person().map(Object::toString);
                    case BADGE -> event.credential().map(c -> event.key().system() + " " + c);
                };
        if (key.isEmpty()) {
            return Optional.empty();
        }
        Map<String, TreeMap<Instant, List<EventKey>>> keys = counted.computeIfAbsent(rule.id(), r -> forgetful());
        TreeMap<Instant, List<EventKey>> times = keys.computeIfAbsent(key.get(), k -> new TreeMap<>());
        List<EventKey> then = times.computeIfAbsent(event.time(), t -> new ArrayList<>(1));
        if (then.contains(event.key())) {
            return Optional.empty();
        }
        then.add(event.key());
        Duration within = often.within();
        times.headMap(times.lastKey().minus(within.multipliedBy(2)), false).clear();
        while (times.size() > 2 * MOST_TIMES) {
            times.pollFirstEntry();
        }
        return window(times, event.time(), within, often.times())
                .map(since -> new Raised(rule, subject, event, event.time(), since));
    }

    /** The beginning of a window of this length around an instant in which enough happened. */
    private static Optional<Instant> window(
            TreeMap<Instant, List<EventKey>> times, Instant around, Duration within, int enough) {
        for (Instant from :
                times.subMap(around.minus(within), true, around, true).keySet()) {
            int there = 0;
            for (List<EventKey> some :
                    times.subMap(from, true, from.plus(within), true).values()) {
                there += some.size();
            }
            if (there >= enough) {
                return Optional.of(from);
            }
        }
        return Optional.empty();
    }

    private static <V> Map<String, V> forgetful() {
        return new LinkedHashMap<>(16, 0.75f, true) {
            private static final long serialVersionUID = 1L;

            @Override
            protected boolean removeEldestEntry(Map.Entry<String, V> eldest) {
                return size() > MOST_COUNTED;
            }
        };
    }

    private void follows(Rule rule, Subject subject, Event event) {
        Map<EventKey, Awaited> those = awaited.get(rule.id());
        if (those != null) {
            int before = those.size();
            those.values()
                    .removeIf(a -> a.subject().equals(subject)
                            && !event.time().isBefore(a.event().time())
                            && !event.time().isAfter(a.until()));
            waiting -= before - those.size();
        }
    }

    /**
     * Finds what did not follow by now.
     *
     * @param now what comes later than this is not waited for
     */
    public List<Finding> tick(Instant now) {
        if (waiting == 0) {
            return List.of();
        }
        List<Finding> found = new ArrayList<>();
        for (Map<EventKey, Awaited> those : awaited.values()) {
            those.values().removeIf(a -> {
                boolean over = !a.until().isAfter(now);
                if (over) {
                    waiting--;
                    found.add(new Raised(
                            a.rule(),
                            a.subject(),
                            a.event(),
                            a.event().time(),
                            a.event().time()));
                }
                return over;
            });
        }
        return found;
    }
}
