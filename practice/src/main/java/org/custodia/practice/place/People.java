package org.custodia.practice.place;

import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.Set;
import org.custodia.core.access.Pin;
import org.custodia.practice.place.Look.Dress;
import org.custodia.practice.place.PracticePerson.Badge;

/** Everybody of an installation: those with a name, and the groups, made from a seed. */
public final class People {
    private final Map<String, PracticePerson> people = new LinkedHashMap<>();
    private final Map<String, PracticePerson> byBadge = new HashMap<>();
    private final Set<String> names = new HashSet<>();
    private final Random random;
    private final Instant today;
    private int number = 20100;

    /**
     * @param today around when badges end
     */
    public People(Installation installation, long seed, Instant today) {
        this.random = new Random(seed);
        this.today = today;
        installation.people().forEach(this::add);
        installation.groups().forEach(g -> add(g, installation.names()));
    }

    private void add(Installation.PersonEntry entry) {
        Instant until = entry.endedDaysAgo() == null ? null : today.minus(entry.endedDaysAgo(), ChronoUnit.DAYS);
        // The group of one: somebody with a name is otherwise like everybody else.
        Installation.GroupEntry like = new Installation.GroupEntry(
                1,
                entry.role(),
                entry.company(),
                entry.kind(),
                entry.site(),
                entry.base(),
                entry.dress(),
                entry.coat(),
                entry.haunts(),
                entry.levels(),
                null,
                null);
        add(
                like,
                entry.name(),
                entry.badge(),
                Optional.ofNullable(entry.status()).orElse("active"),
                until);
    }

    private void add(Installation.GroupEntry group, Installation.Names from) {
        for (int i = 0; i < group.count(); i++) {
            String name;
            do {
                name = from.first().get(random.nextInt(from.first().size())) + " "
                        + from.last().get(random.nextInt(from.last().size()));
            } while (names.contains(name));
            Instant until = group.endsFromDays() == null
                    ? null
                    : today.plus(
                            group.endsFromDays() + random.nextInt(group.endsToDays() - group.endsFromDays()),
                            ChronoUnit.DAYS);
            String badge;
            do {
                badge = Integer.toString(number++);
            } while (byBadge.containsKey(badge));
            add(group, name, badge, "active", until);
        }
    }

    private void add(Installation.GroupEntry group, String name, String badge, String status, Instant until) {
        names.add(name);
        String id = String.format(Locale.ROOT, "p%03d", people.size() + 1);
        PracticePerson person = new PracticePerson(
                id,
                name,
                group.company(),
                group.kind(),
                group.role(),
                group.site(),
                group.base(),
                group.haunts(),
                group.levels(),
                List.of(new Badge(badge, "card", status, Optional.ofNullable(until))),
                Pin.of(String.format(Locale.ROOT, "%04d", 1000 + random.nextInt(9000))),
                Optional.ofNullable(until),
                false,
                Look.random(
                        random,
                        Dress.valueOf(group.dress().toUpperCase(Locale.ROOT)),
                        group.coat() == null ? null : Integer.decode(group.coat())));
        people.put(id, person);
        byBadge.put(badge, person);
    }

    public List<PracticePerson> all() {
        return List.copyOf(people.values());
    }

    public Optional<PracticePerson> byId(String id) {
        return Optional.ofNullable(people.get(id));
    }

    public Optional<PracticePerson> byBadge(String badge) {
        return Optional.ofNullable(byBadge.get(badge));
    }
}
