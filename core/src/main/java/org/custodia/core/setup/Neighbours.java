package org.custodia.core.setup;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collections;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.LongConsumer;
import org.custodia.core.event.Cancellation;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventLog;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Kinds;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.Walk;

/**
 * Tells from history which doors are neighbours: who was let through one door, and then through which one next, and how long
 * that took. Somebody who takes longer than {@link #LONGEST} was busy on the way, which says nothing of how far it is.
 */
public final class Neighbours {
    /** What takes longer is no walk. */
    public static final Duration LONGEST = Duration.ofMinutes(5);
    /** Two doors opened by one badge within this are no walk, but one of them lent or presented again. */
    private static final Duration SHORTEST = Duration.ofSeconds(2);
    /** Fewer may be chance. */
    public static final int FEWEST = 8;

    private static final int PAGE = 5_000;

    private final Map<PersonId, Seen> last = new HashMap<>();
    private final Map<String, Between> between = new HashMap<>();

    private record Seen(DoorId door, Instant at) {}

    /** Two doors, and how long each walk between them took, in milliseconds. */
    private record Between(DoorId a, DoorId b, List<Long> took) {}

    /**
     * Two doors that may be neighbours.
     *
     * @param walk with the median of all walks as the time it takes
     * @param walks how many there were
     * @param quick one in ten was quicker than this
     * @param shared the zone that is on a side of both; nothing where they share none
     */
    public record Proposal(Walk walk, int walks, Duration quick, Optional<String> shared) {}

    /** Takes in that somebody was let through a door; in the order of time. */
    public void passed(PersonId person, DoorId door, Instant at) {
        Seen before = last.put(person, new Seen(door, at));
        if (before == null || before.door().equals(door)) {
            return;
        }
        Duration took = Duration.between(before.at(), at);
        if (took.compareTo(SHORTEST) < 0 || took.compareTo(LONGEST) > 0) {
            return;
        }
        Walk walk = new Walk(before.door(), door, took);
        between.computeIfAbsent(walk.key(), k -> new Between(walk.first(), walk.second(), new ArrayList<>()))
                .took()
                .add(took.toMillis());
    }

    /** Doors that people go to next often enough, and that share a zone or are next to each other in half of the cases. */
    public List<Proposal> proposals(SiteModel sites) {
        Map<DoorId, Integer> most = new HashMap<>();
        between.values().forEach(b -> {
            most.merge(b.a(), b.took().size(), Math::max);
            most.merge(b.b(), b.took().size(), Math::max);
        });
        List<Proposal> found = new ArrayList<>();
        for (Between b : between.values()) {
            Optional<Door> a = sites.door(b.a());
            Optional<Door> other = sites.door(b.b());
            if (a.isEmpty() || other.isEmpty() || b.took().size() < FEWEST) {
                continue;
            }
            Optional<String> shared = shared(a.get(), other.get());
            // Without readers on every way people are seen again only some doors farther on.
            boolean often = b.took().size() * 2 >= Math.min(most.get(b.a()), most.get(b.b()));
            if (shared.isPresent() || often) {
                List<Long> sorted = new ArrayList<>(b.took());
                Collections.sort(sorted);
                found.add(new Proposal(
                        new Walk(b.a(), b.b(), Duration.ofMillis(middle(sorted))),
                        sorted.size(),
                        Duration.ofMillis(sorted.get(sorted.size() / 10)),
                        shared));
            }
        }
        found.sort(Comparator.comparingInt(Proposal::walks).reversed().thenComparing(p -> p.walk()
                .key()));
        return found;
    }

    private static long middle(List<Long> sorted) {
        int n = sorted.size();
        return n % 2 == 1 ? sorted.get(n / 2) : (sorted.get(n / 2 - 1) + sorted.get(n / 2)) / 2;
    }

    private static Optional<String> shared(Door a, Door b) {
        if (!a.site().equals(b.site())) {
            return Optional.empty();
        }
        Set<String> of =
                Set.of(a.outside(), a.inside()).size() == 2 ? Set.of(a.outside(), a.inside()) : Set.of(a.outside());
        return of.stream()
                .filter(z -> !z.isBlank() && (z.equals(b.outside()) || z.equals(b.inside())))
                .findFirst();
    }

    /**
     * Reads a span of the log.
     *
     * @param told how far it has come, in milliseconds of the span
     */
    static Neighbours of(EventLog log, Instant from, Instant to, LongConsumer told, Cancellation cancellation) {
        Neighbours result = new Neighbours();
        EventQuery page =
                EventQuery.all().between(from, to).kinds(Kinds.GRANTED).oldest(PAGE);
        while (true) {
            List<Event> events = log.find(page, cancellation);
            for (Event event : events) {
                if (event.person().isPresent() && event.door().isPresent()) {
                    result.passed(event.person().get(), event.door().get(), event.time());
                }
            }
            if (events.size() < PAGE) {
                return result;
            }
            Event end = events.get(events.size() - 1);
            told.accept(Duration.between(from, end.time()).toMillis());
            page = page.after(end);
        }
    }
}
