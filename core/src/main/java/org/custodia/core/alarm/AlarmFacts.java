package org.custodia.core.alarm;

import java.time.Instant;
import java.util.Comparator;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Kinds;
import org.custodia.core.operator.Actor;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SystemId;

/** How facts about alarms begin. */
final class AlarmFacts {
    private AlarmFacts() {}

    static Event.Builder fact(EventKind kind, Instant at) {
        return Event.of(new EventKey(SystemId.CUSTODIA, 1, 0), kind, at);
    }

    /** Whoever is to be told stands in the fact itself, so that it follows from the log and from nothing else. */
    static Event.Builder tell(Event.Builder fact, List<String> receivers) {
        return receivers.isEmpty() ? fact : fact.detail(AlarmDesk.TELL, String.join(" ", receivers));
    }

    /**
     * The same, about an alarm that is there already.
     *
     * @param call which of its calls that belongs to
     */
    static Event.Builder tell(Event.Builder fact, Alarm alarm, int call, List<String> receivers) {
        if (receivers.isEmpty()) {
            return fact;
        }
        tell(fact, receivers).detail("raised", alarm.origin().raised().toString());
        return call == 1 ? fact : fact.detail(AlarmDesk.CALL, String.valueOf(call));
    }

    /**
     * That an alarm is raised; {@link #occurrence} adds by what.
     *
     * @param sites to which it belongs
     */
    static Event.Builder raised(Detector.Raised r, Set<SiteId> sites, Instant now) {
        Rule rule = r.rule();
        Event.Builder fact = fact(Kinds.ALARM_RAISED, now)
                .detail("rule", rule.id())
                .detail("rule-version", String.valueOf(rule.version()))
                .detail("name", rule.name())
                .detail("priority", rule.priority().name());
        if (!rule.then().forward()) {
            fact.detail("forward", "no");
        }
        if (!rule.then().sound()) {
            fact.detail("sound", "no");
        }
        topic(fact, r.topic());
        return sites(fact, sites);
    }

    /** Adds what happened, where, by whom and when. */
    static Event.Builder occurrence(Event.Builder fact, Detector.Raised r, Known known) {
        r.topic()
                .bearer()
                .flatMap(Bearer::person)
                .or(() -> known.personOf(r.cause()))
                .ifPresent(fact::person);
        return about(fact, r.subject())
                .detail("condition", r.rule().endedBy().isEmpty() ? "MOMENT" : "ON")
                .detail("about", r.subject().toString())
                .detail("of", r.cause().key().text())
                .detail("since", r.since().toString())
                .detail("at", r.at().toString());
    }

    /** That an operator does something about an alarm. */
    static Event.Builder act(EventKind kind, EventKey alarm, Subject subject, Actor actor, Instant at) {
        return about(fact(kind, at), subject)
                .operator(actor.operator())
                .detail("operator-name", actor.name())
                .detail("desk", actor.desk())
                .detail("alarm", alarm.text());
    }

    static Event.Builder about(Event.Builder fact, Subject subject) {
        subject.door().ifPresent(fact::door);
        return fact;
    }

    private static final String JOINS = "joins";
    private static final String BADGE = "badge";
    private static final String BADGE_SYSTEM = "badge-system";

    /** Writes down with what an alarm is joined. */
    static Event.Builder topic(Event.Builder fact, Topic topic) {
        Optional<Bearer> bearer = topic.bearer();
        Optional<String> place = topic.place().map(p -> p.sort() == Subject.Sort.SITE ? "site" : "place");
        fact.detail(
                JOINS,
                Stream.concat(place.stream(), bearer.map(b -> "bearer").stream())
                        .collect(Collectors.joining(" ")));
        bearer.flatMap(Bearer::person).ifPresent(p -> fact.detail("bearer", p.value()));
        bearer.flatMap(Bearer::badge).ifPresent(b -> fact.detail(BADGE, b));
        bearer.flatMap(Bearer::system).ifPresent(s -> fact.detail(BADGE_SYSTEM, s.value()));
        topic.place().filter(p -> p.sort() == Subject.Sort.SITE).ifPresent(p -> fact.detail("site-joined", p.id()));
        return fact;
    }

    /** What {@link #topic(Event.Builder, Topic)} wrote; the place where nothing is written, as before there were bearers. */
    static Topic topic(Event fact, String rule, Subject subject) {
        String joins = fact.detail(JOINS).orElse("place");
        Optional<Bearer> bearer = fact.detail("bearer")
                .map(p -> Bearer.of(new PersonId(p)))
                .or(() -> fact.detail(BADGE)
                        .flatMap(b -> fact.detail(BADGE_SYSTEM).map(s -> Bearer.of(new SystemId(s), b))));
        Optional<Subject> place = joins.contains("site")
                ? fact.detail("site-joined").map(s -> new Subject(Subject.Sort.SITE, s))
                : joins.contains("place") ? Optional.of(subject) : Optional.empty();
        return new Topic(rule, place, bearer);
    }

    /** Writes down the sites that an alarm belongs to, one by one, since an id may have anything in it. */
    static Event.Builder sites(Event.Builder fact, Set<SiteId> sites) {
        int number = 0;
        for (SiteId site :
                sites.stream().sorted(Comparator.comparing(SiteId::value)).toList()) {
            number++;
            fact.detail("site-" + number, site.value());
        }
        return fact;
    }

    /** What {@link #sites(Event.Builder, Set)} wrote. */
    static Set<SiteId> sites(Event fact) {
        Set<SiteId> all = new HashSet<>();
        for (int number = 1; fact.detail("site-" + number).isPresent(); number++) {
            all.add(new SiteId(fact.detail("site-" + number).orElseThrow()));
        }
        return all;
    }
}
