package org.custodia.core.alarm;

import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Collections;
import java.util.Deque;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.SiteModel;

/**
 * Whether what a rule tells doors would bring about what another looks at, and so on, back to the first: each would set off
 * the next for ever. Where one cannot tell at which doors, it is taken as possible.
 */
final class RuleCircles {
    private final SiteModel sites;

    RuleCircles(SiteModel sites) {
        this.sites = sites;
    }

    /**
     * The shortest way round that leads through other rules and back to one.
     *
     * @param others that are watched
     * @return those others in their order; nothing where there is no such way
     */
    Optional<List<Rule>> through(Rule rule, Collection<Rule> others) {
        Map<String, Rule> from = new HashMap<>();
        Deque<Rule> next = new ArrayDeque<>();
        for (Rule other : others) {
            if (setsOff(rule, other)) {
                from.put(other.id(), rule);
                next.add(other);
            }
        }
        while (!next.isEmpty()) {
            Rule here = next.removeFirst();
            if (setsOff(here, rule)) {
                return Optional.of(way(here, rule, from));
            }
            for (Rule other : others) {
                if (!from.containsKey(other.id()) && setsOff(here, other)) {
                    from.put(other.id(), here);
                    next.add(other);
                }
            }
        }
        return Optional.empty();
    }

    private static List<Rule> way(Rule last, Rule first, Map<String, Rule> from) {
        List<Rule> way = new ArrayList<>();
        for (Rule r = last; r != first; r = from.get(r.id())) {
            way.add(r);
        }
        Collections.reverse(way);
        return way;
    }

    private boolean setsOff(Rule one, Rule other) {
        return one.then().orders().stream()
                .anyMatch(o -> other.when().kinds().stream().anyMatch(RuleProblems.brings(o.command())::contains)
                        && mayBeAt(doors(one, o), other.where()));
    }

    /** The doors that are told; empty for any. */
    private static Set<DoorId> doors(Rule rule, Rule.Order order) {
        return order.door()
                .map(Set::of)
                .orElse(rule.where().onlyDoors() ? rule.where().doors() : Set.of());
    }

    private boolean mayBeAt(Set<DoorId> doors, Rule.Where where) {
        return where.anywhere() || doors.isEmpty() || doors.stream().anyMatch(d -> isAt(d, where));
    }

    private boolean isAt(DoorId door, Rule.Where where) {
        Optional<Door> there = sites.door(door);
        return where.doors().contains(door)
                || there.filter(d -> where.sites().contains(d.site())
                                || where.systems().contains(d.system())
                                || where.zones().contains(zone(d, d.outside()))
                                || where.zones().contains(zone(d, d.inside())))
                        .isPresent();
    }

    /** A zone of a door's site; one that nobody names where it has none on that side. */
    private static Rule.Zone zone(Door door, String name) {
        return new Rule.Zone(door.site(), name.isBlank() ? "\0" : name);
    }
}
