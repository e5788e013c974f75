package org.custodia.core.evidence;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.stream.Collectors;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventLog;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Kinds;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Side;
import org.custodia.core.site.SiteModel;

/** Finds openings in the log that say most, and instants at which nothing opened. Waits for the log. */
final class Openings {
    /** Another door that opens so soon before or after may be what is seen. */
    private static final Duration ALONGSIDE = Duration.ofSeconds(6);
    /** Whoever wants in says so no longer than this before the door opens. */
    private static final Duration ASKED = Duration.ofSeconds(12);
    /** An opening this soon after another of the same door shows nothing new. */
    private static final Duration APART = Duration.ofSeconds(40);
    /** So many are looked at to choose from. */
    private static final int MOST = 160;

    /** So many of the latest openings of all doors tell when several were open at once. */
    private static final int LATEST = 40_000;
    /** A door of which fewer are among these is asked for by itself. */
    private static final int FEW = 12;

    /** Quiet is looked for at instants so far from each other. */
    private static final Duration QUIET_STEP = Duration.ofSeconds(7);
    /** The least time between two chosen instants: the same person may stand in two pictures taken sooner. */
    private static final Duration QUIET_APART = Duration.ofSeconds(28);

    /** What opened so long before may still be open. */
    private static final Duration OPENED_BEFORE = Duration.ofMinutes(10);

    private final EventLog log;

    Openings(EventLog log) {
        this.log = log;
    }

    /**
     * A door's openings of a span, those first at which nothing else opened, at whatever site, among these the latest.
     *
     * @param most at most so many
     */
    List<KnownOpening> of(Door door, Instant from, Instant to, int most) {
        List<Event> opened = log.find(EventQuery.all()
                .between(from, to)
                .doors(Set.of(door.id()))
                .kinds(Kinds.OPENED)
                .newest(MOST));
        List<KnownOpening> known = new ArrayList<>();
        Optional<Instant> last = Optional.empty();
        for (Event event : opened) {
            if (last.filter(l -> event.time().isAfter(l.minus(APART))).isEmpty()) {
                known.add(known(door, event.time()));
                last = Optional.of(event.time());
            }
            if (known.stream().filter(k -> k.alongside().isEmpty()).count() >= most) {
                break;
            }
        }
        return known.stream()
                .sorted(Comparator.comparing((KnownOpening k) -> k.alongside().size())
                        .thenComparing(KnownOpening::at, Comparator.reverseOrder()))
                .limit(most)
                .toList();
    }

    /** What else is known of an opening. */
    KnownOpening known(Door door, Instant at) {
        Set<DoorId> alongside = log
                .find(EventQuery.all()
                        .between(at.minus(ALONGSIDE), at.plus(ALONGSIDE))
                        .kinds(Kinds.OPENED)
                        .newest(200))
                .stream()
                .flatMap(e -> e.door().stream())
                .filter(d -> !d.equals(door.id()))
                .collect(Collectors.toSet());
        return new KnownOpening(door.id(), at, from(door, at), alongside);
    }

    /** From when to when a door was open. */
    record Span(Instant opened, Instant closed) {}

    /**
     * When doors were open, by the latest openings that there are.
     *
     * @param doors those that are wanted
     */
    Map<DoorId, List<Span>> latest(Collection<Door> doors, Instant from, Instant to) {
        Set<DoorId> wanted = doors.stream().map(Door::id).collect(Collectors.toSet());
        Map<DoorId, List<Event>> events =
                log
                        .find(EventQuery.all()
                                .between(from, to)
                                .kinds(Kinds.OPENED, Kinds.CLOSED)
                                .newest(LATEST))
                        .stream()
                        .filter(e -> e.door().filter(wanted::contains).isPresent())
                        .collect(Collectors.groupingBy(e -> e.door().orElseThrow()));
        Map<DoorId, List<Span>> spans = new LinkedHashMap<>();
        for (Door door : doors) {
            List<Event> some = events.getOrDefault(door.id(), List.of());
            if (some.size() < FEW) {
                some = log.find(EventQuery.all()
                        .between(from, to)
                        .doors(Set.of(door.id()))
                        .kinds(Kinds.OPENED, Kinds.CLOSED)
                        .newest(2 * FEW));
            }
            List<Span> of = spans(some);
            if (!of.isEmpty()) {
                spans.put(door.id(), of);
            }
        }
        return spans;
    }

    /**
     * @param some the newest first
     */
    private static List<Span> spans(List<Event> some) {
        List<Span> spans = new ArrayList<>();
        Optional<Instant> closed = Optional.empty();
        for (Event event : some) {
            if (event.kind().equals(Kinds.CLOSED)) {
                closed = Optional.of(event.time());
            } else {
                // Where nobody said that it closed it is taken to have been open for a moment.
                spans.add(new Span(event.time(), closed.orElse(event.time().plusSeconds(2))));
                closed = Optional.empty();
            }
        }
        return spans;
    }

    /** From where somebody wanted it open, if only from one side. */
    private Optional<Side> from(Door door, Instant at) {
        Set<Side> asked = new HashSet<>();
        log.find(EventQuery.all()
                        .between(at.minus(ASKED), at.plusMillis(1))
                        .doors(Set.of(door.id()))
                        .kinds(Kinds.GRANTED, Kinds.EXIT_REQUESTED)
                        .newest(20))
                .forEach(e -> {
                    if (e.kind().equals(Kinds.EXIT_REQUESTED)) {
                        asked.add(Side.EXIT);
                    } else {
                        e.side().ifPresent(asked::add);
                    }
                });
        return asked.size() == 1 ? Optional.of(asked.iterator().next()) : Optional.empty();
    }

    /**
     * Instants near another at which, as far as is known, nothing opened or was open; the quietest first.
     *
     * @param around in the hour before this
     */
    List<Instant> quiet(Door door, SiteModel sites, Instant around, int most) {
        Instant from = around.minus(Duration.ofHours(1));
        TreeSet<Instant> anywhere = new TreeSet<>();
        TreeSet<Instant> here = new TreeSet<>();
        Map<DoorId, List<Event>> events = log
                .find(EventQuery.all()
                        .between(from.minus(OPENED_BEFORE), around.plusSeconds(60))
                        .kinds(Kinds.OPENED, Kinds.CLOSED)
                        .newest(40_000))
                .stream()
                .filter(e -> e.door().isPresent())
                .collect(Collectors.groupingBy(e -> e.door().orElseThrow()));
        List<Span> open = new ArrayList<>();
        events.forEach((other, some) -> {
            boolean sameSite =
                    sites.door(other).filter(d -> d.site().equals(door.site())).isPresent();
            for (Span span : spans(some)) {
                open.add(span);
                anywhere.add(span.opened());
                if (sameSite) {
                    here.add(span.opened());
                }
            }
        });
        Map<Instant, Long> doorsOpen = new HashMap<>();
        for (Instant at = from; at.isBefore(around.minusSeconds(20)); at = at.plus(QUIET_STEP)) {
            Instant begin = at.minus(Film.BEFORE);
            Instant end = at.plus(Film.AT);
            doorsOpen.put(
                    at,
                    open.stream()
                            .filter(s -> s.opened().isBefore(end) && s.closed().isAfter(begin))
                            .count());
        }
        List<Instant> candidates = new ArrayList<>(doorsOpen.keySet());
        candidates.sort(
                // A camera may stand elsewhere than is said. Where it is never quiet everywhere, few open doors are
                // better
                // than many, and its own site matters most.
                Comparator.comparing((Instant at) -> nearest(anywhere, at).compareTo(ALONGSIDE) <= 0)
                        .thenComparing(doorsOpen::get)
                        .thenComparing(at -> nearest(here, at), Comparator.reverseOrder())
                        .thenComparing(Comparator.reverseOrder()));
        List<Instant> chosen = new ArrayList<>();
        for (Instant at : candidates) {
            if (chosen.size() < most
                    && chosen.stream()
                            .allMatch(c -> Duration.between(c, at).abs().compareTo(QUIET_APART) >= 0)) {
                chosen.add(at);
            }
        }
        return chosen;
    }

    private static Duration nearest(TreeSet<Instant> opened, Instant at) {
        Duration nearest = Duration.ofHours(2);
        Instant before = opened.floor(at);
        Instant after = opened.ceiling(at);
        if (before != null) {
            nearest = Duration.between(before, at);
        }
        if (after != null && Duration.between(at, after).compareTo(nearest) < 0) {
            nearest = Duration.between(at, after);
        }
        return nearest;
    }
}
