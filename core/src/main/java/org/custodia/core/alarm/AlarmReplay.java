package org.custodia.core.alarm;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CompletionException;
import java.util.stream.Stream;
import org.custodia.core.event.Cancellation;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventField;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.EventLog;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Filter;
import org.custodia.core.event.Kinds;
import org.custodia.core.operator.Actor;
import org.custodia.core.site.SystemId;

/**
 * Records the alarms that rules would have raised in the past, and what made-up operators did about them, for a site that is
 * practised on: its past is as a real one's. All facts bear the time of then, so that figures and lists are of then. Recipients
 * are not notified, and doors are given no orders. An alarm is recorded once it was finished. Facts that an earlier replay of the
 * same period stored before it was interrupted are not recorded twice.
 */
public final class AlarmReplay {
    private static final int PAGE = 10_000;
    private static final int EVENTS_PER_SLICE = 200;

    private final EventLog log;
    private final EventIntake intake;
    private final Known known;
    private final Operators operators;
    private final Map<Topic, Course> open = new HashMap<>();
    private final Detector detector;
    /** Alarms that an interrupted replay recorded, whole or in part. */
    private final Map<AlarmBook.Found, EventKey> recordedBefore = new HashMap<>();
    /** What an interrupted replay recorded of each of them. */
    private final Map<EventKey, Set<Fact>> factsBefore = new HashMap<>();

    private int recorded;

    /**
     * A fact of an alarm.
     *
     * @param cause of a repetition
     */
    private record Fact(EventKind kind, Optional<String> cause) {
        static Fact of(Event event) {
            return new Fact(
                    event.kind(), event.kind().equals(Kinds.ALARM_AGAIN) ? event.detail("of") : Optional.empty());
        }
    }

    /** Who was at the desk. */
    @FunctionalInterface
    public interface Operators {
        /** What is done about an alarm; nothing for one that is not recorded. */
        Optional<Handling> handle(Rule rule, Event cause);
    }

    /**
     * What an operator does about an alarm.
     *
     * @param acknowledgedAfter since it was raised
     * @param finishedAfter since it was acknowledged; the alarm stays open for longer while its condition is active
     * @param text the operator's words; may be empty
     */
    public record Handling(
            Actor operator, Duration acknowledgedAfter, Duration finishedAfter, Outcome outcome, String text) {}

    /** One alarm from its first occurrence on. */
    private static final class Course {
        private final List<Detector.Raised> occurrences = new ArrayList<>();
        private final Handling handling;
        private Optional<Event> ended = Optional.empty();

        Course(Detector.Raised first, Handling handling) {
            this.handling = handling;
            occurrences.add(first);
        }

        Detector.Raised first() {
            return occurrences.get(0);
        }

        Instant acknowledged() {
            return first().at().plus(handling.acknowledgedAfter());
        }

        /** When it is finished if nothing else happens; nothing while its condition is active. */
        Optional<Instant> finished() {
            Instant earliest = acknowledged().plus(handling.finishedAfter());
            Instant latest = occurrences.get(occurrences.size() - 1).at();
            if (!first().rule().endedBy().isEmpty() && ended.isEmpty()) {
                return Optional.empty();
            }
            return Stream.of(earliest, latest, ended.map(Event::time).orElse(latest))
                    .max(Comparator.naturalOrder());
        }
    }

    private AlarmReplay(Collection<Rule> rules, EventLog log, EventIntake intake, Known known, Operators operators) {
        this.log = log;
        this.intake = intake;
        this.known = known;
        this.operators = operators;
        this.detector = new Detector(rules.stream().map(RuleTimeline::always).toList(), known, History.inTime(log));
    }

    /**
     * Records the alarms of a period.
     *
     * @param rules as they are by now
     * @param pause is run after each slice of events; it may wait, so that a replay leaves processor time to others
     * @return how many alarms were recorded or completed
     * @throws java.util.concurrent.CancellationException if it was cancelled
     * @throws org.custodia.core.event.EventLogException if the log cannot be read or written
     */
    public static int record(
            Collection<Rule> rules,
            Instant from,
            Instant to,
            EventLog log,
            EventIntake intake,
            Known known,
            Operators operators,
            Runnable pause,
            Cancellation cancellation) {
        AlarmReplay replay = new AlarmReplay(rules, log, intake, known, operators);
        replay.readRecorded(from, to, cancellation);
        EventQuery page = EventQuery.all().between(from, to).oldest(PAGE);
        List<Event> events = log.find(page, cancellation);
        while (!events.isEmpty()) {
            for (int i = 0; i < events.size(); i += EVENTS_PER_SLICE) {
                events.subList(i, Math.min(events.size(), i + EVENTS_PER_SLICE)).forEach(replay::take);
                cancellation.check();
                pause.run();
            }
            page = page.after(events.get(events.size() - 1));
            events = log.find(page, cancellation);
        }
        replay.finish(to);
        return replay.recorded;
    }

    private void readRecorded(Instant from, Instant to, Cancellation cancellation) {
        EventQuery page = EventQuery.all()
                .where(Filter.is(EventField.SYSTEM, SystemId.CUSTODIA))
                .kinds(AlarmBook.FACTS)
                .between(from, to)
                .oldest(PAGE);
        List<Event> facts = log.find(page, cancellation);
        while (!facts.isEmpty()) {
            facts.forEach(this::wasRecorded);
            page = page.after(facts.get(facts.size() - 1));
            facts = log.find(page, cancellation);
        }
    }

    private void wasRecorded(Event fact) {
        if (fact.detail(AlarmBook.REPLAYED).isPresent()) {
            fact.detail("of")
                    .flatMap(EventKey::parse)
                    .ifPresent(cause -> recordedBefore.put(
                            new AlarmBook.Found(fact.detail("rule").orElse(""), cause), fact.key()));
        } else {
            fact.detail("alarm").flatMap(EventKey::parse).ifPresent(alarm -> factsBefore
                    .computeIfAbsent(alarm, a -> new HashSet<>())
                    .add(Fact.of(fact)));
        }
    }

    private void take(Event event) {
        finish(event.time());
        Stream.concat(detector.tick(event.time()).stream(), detector.take(event).stream())
                .forEach(this::found);
    }

    private void found(Detector.Finding finding) {
        if (finding instanceof Detector.Raised raised) {
            Course course = open.get(raised.topic());
            if (course != null) {
                course.occurrences.add(raised);
                course.ended = Optional.empty();
            } else {
                operators
                        .handle(raised.rule(), raised.cause())
                        .ifPresent(h -> open.put(raised.topic(), new Course(raised, h)));
            }
        } else if (finding instanceof Detector.Ended ended) {
            open.values().stream()
                    .filter(c -> c.first().rule().id().equals(ended.rule().id())
                            && c.first().subject().equals(ended.subject()))
                    .forEach(c -> c.ended = Optional.of(ended.by()));
        }
    }

    /** Records those that are finished by an instant. */
    private void finish(Instant now) {
        List<Course> over = open.values().stream()
                .filter(c -> c.finished().filter(f -> f.isBefore(now)).isPresent())
                .toList();
        over.forEach(c -> {
            open.remove(c.first().topic());
            record(c);
        });
    }

    private void record(Course course) {
        Detector.Raised first = course.first();
        Optional<EventKey> before = Optional.ofNullable(recordedBefore.get(
                new AlarmBook.Found(first.rule().id(), first.cause().key())));
        Set<Fact> there = before.map(factsBefore::get).orElse(Set.of());
        if (there.contains(new Fact(Kinds.ALARM_FINISHED, Optional.empty()))) {
            return;
        }
        EventKey alarm =
                before.orElseGet(() -> await(intake.record(raised(first))).key());
        // The last one is stored last: an alarm that is finished is whole.
        List<CompletableFuture<Event>> storing = new ArrayList<>();
        for (Event.Builder fact : facts(course, alarm)) {
            if (!there.contains(Fact.of(fact.build()))) {
                storing.add(intake.record(fact));
            }
        }
        storing.forEach(AlarmReplay::await);
        recorded++;
    }

    private Event.Builder raised(Detector.Raised first) {
        Event.Builder fact = AlarmFacts.raised(
                        first, detector.sites(first.subject(), first.cause(), first.at()), first.at())
                // It was finished: no operator is to be called for it.
                .detail(AlarmBook.REPLAYED, "yes")
                .detail("forward", "no")
                .detail("sound", "no");
        return AlarmFacts.occurrence(fact, first, known);
    }

    /** What followed after an alarm was raised, in its order. */
    private List<Event.Builder> facts(Course course, EventKey alarm) {
        Detector.Raised first = course.first();
        List<Event.Builder> facts = new ArrayList<>();
        for (Detector.Raised again : course.occurrences.subList(1, course.occurrences.size())) {
            facts.add(AlarmFacts.occurrence(
                    AlarmFacts.fact(Kinds.ALARM_AGAIN, again.at()).detail("alarm", alarm.text()), again, known));
        }
        Handling handling = course.handling;
        facts.add(AlarmFacts.act(
                        Kinds.ALARM_ACKNOWLEDGED, alarm, first.subject(), handling.operator(), course.acknowledged())
                .detail(AlarmBook.SEEN, String.valueOf(course.occurrences.size())));
        course.ended.ifPresent(
                e -> facts.add(AlarmFacts.about(AlarmFacts.fact(Kinds.ALARM_ENDED, e.time()), first.subject())
                        .detail("alarm", alarm.text())
                        .detail("of", e.key().text())));
        facts.add(AlarmFacts.act(
                        Kinds.ALARM_FINISHED,
                        alarm,
                        first.subject(),
                        handling.operator(),
                        course.finished().orElseThrow())
                .detail(AlarmBook.SEEN, String.valueOf(course.occurrences.size()))
                .detail("outcome", handling.outcome().word())
                .detail("text", handling.text()));
        return facts;
    }

    private static Event await(CompletableFuture<Event> stored) {
        try {
            return stored.join();
        } catch (CompletionException e) {
            throw e.getCause() instanceof RuntimeException own ? own : e;
        }
    }
}
