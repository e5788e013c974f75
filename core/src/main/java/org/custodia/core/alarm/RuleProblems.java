package org.custodia.core.alarm;

import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.custodia.core.door.DoorCommand;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Kinds;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.Door;
import org.custodia.core.site.SiteModel;

/** What is odd about a rule though it can be written down; said before it is switched on. */
final class RuleProblems {
    private final Rule rule;
    private final SiteModel sites;
    private final List<Saying> all = new ArrayList<>();

    private RuleProblems(Rule rule, SiteModel sites) {
        this.rule = rule;
        this.sites = sites;
    }

    static List<Saying> of(Rule rule, SiteModel sites) {
        RuleProblems problems = new RuleProblems(rule, sites);
        problems.gone();
        problems.contradictions();
        problems.orders();
        return List.copyOf(problems.all);
    }

    private void add(String code, Object... parts) {
        all.add(Saying.of(code, parts));
    }

    private void gone() {
        Rule.Where where = rule.where();
        where.doors().stream()
                .filter(d -> sites.door(d).isEmpty())
                .sorted((a, b) -> a.value().compareTo(b.value()))
                .forEach(d -> add("rule.door-gone", d.value()));
        where.devices().stream()
                .filter(d -> sites.device(d).isEmpty())
                .sorted((a, b) -> a.value().compareTo(b.value()))
                .forEach(d -> add("rule.device-gone", d.value()));
        where.sites().stream()
                .filter(s -> sites.sites().stream().noneMatch(x -> x.id().equals(s)))
                .forEach(s -> add("rule.site-gone", s.value()));
        where.zones().stream()
                .filter(z -> sites.doors().stream()
                        .noneMatch(d -> d.site().equals(z.site())
                                && (d.outside().equals(z.name()) || d.inside().equals(z.name()))))
                .forEach(z -> add("rule.zone-gone", z.name()));
    }

    private void contradictions() {
        Set<EventKind> kinds = rule.when().kinds();
        Set<String> reasons = rule.when() instanceof Rule.Once once
                ? once.reasons()
                : rule.when() instanceof Rule.Often often ? often.reasons() : Set.of();
        if (!reasons.isEmpty() && !kinds.contains(Kinds.REFUSED)) {
            add("rule.reasons-of-nothing");
        }
        boolean ofPeople = kinds.stream()
                .anyMatch(k -> k.id().startsWith("access.")
                        || k.equals(Kinds.NOBODY_ENTERED)
                        || k.equals(Kinds.MUSTERED)
                        || Kinds.entry(k).name().equals(k.id()));
        if (!rule.who().anybody() && !rule.who().unknown() && !ofPeople) {
            add("rule.nobody-in-it");
        }
        boolean byPerson = rule.when() instanceof Rule.Often often
                && (often.per() == Rule.Per.PERSON || often.per() == Rule.Per.BADGE);
        if (byPerson && !ofPeople) {
            add("rule.nobody-to-count");
        }
        if (rule.who().unknown() && rule.when() instanceof Rule.Often often && often.per() == Rule.Per.PERSON) {
            add("rule.unknown-counted");
        }
        if (!reasons.isEmpty()
                && kinds.contains(Kinds.REFUSED)
                && kinds.stream().anyMatch(k -> !k.equals(Kinds.REFUSED))) {
            add("rule.reasons-of-refusals");
        }
        if (rule.during().holidays() == Hours.Holidays.ALL_DAY
                && rule.during().spans().isEmpty()) {
            add("rule.always-anyway");
        }
    }

    private void orders() {
        for (Rule.Order order : rule.then().orders()) {
            Optional<Door> door = order.door().flatMap(sites::door);
            if (order.door().isPresent() && door.isEmpty()) {
                add("rule.door-gone", order.door().get().value());
            } else if (door.isPresent() && !order.command().supportedBy(door.get())) {
                add("rule.door-cannot", door.get().name());
            }
            if (order.at() == Rule.At.END && rule.endedBy().isEmpty()) {
                add("rule.never-ends");
            }
            boolean itself = order.door().isEmpty()
                    || rule.where().anywhere()
                    || rule.where().doors().contains(order.door().get());
            if (itself && rule.when().kinds().stream().anyMatch(brings(order.command())::contains)) {
                add("rule.circle");
            }
        }
    }

    /** What a door says once it has done what it was told; it may be opened then, too. */
    static Set<EventKind> brings(DoorCommand command) {
        if (command instanceof DoorCommand.LetThrough) {
            return Set.of(Kinds.RELEASED, Kinds.OPENED, Kinds.CLOSED);
        }
        if (command instanceof DoorCommand.ShowText) {
            return Set.of(Kinds.DISPLAY_TEXT, Kinds.COMMAND_SENT, Kinds.COMMAND_DONE);
        }
        return Set.of(Kinds.MODE, Kinds.COMMAND_SENT, Kinds.COMMAND_DONE);
    }
}
