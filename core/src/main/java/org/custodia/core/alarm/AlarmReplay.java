package org.custodia.core.alarm;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CompletionException;
import java.util.stream.Stream;
import org.custodia.core.event.Cancellation;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventLog;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Kinds;
import org.custodia.core.operator.Actor;

/**
 * Records the alarms that rules would have raised in the past, and what made-up operators did about them, for a site that is
 * practised on: its past is as a real one's. All facts bear the time of then, so that figures and lists are of then. Recipients
 * are not notified, and doors are given no orders. An alarm is recorded once it was finished.
 */
public final class AlarmReplay {
    private static final int PAGE = 10_000;

    private final EventLog log;
    private final EventIntake intake;
    private final Known known;
    private final Operators operators;
    private final Map<Topic, Course> open = new HashMap<>();
    private final Detector detector;
    private int recorded;

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
     * @return how many
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
            Cancellation cancellation) {
        AlarmReplay replay = new AlarmReplay(rules, log, intake, known, operators);
        EventQuery page = EventQuery.all().between(from, to).oldest(PAGE);
        List<Event> events = log.find(page, cancellation);
        while (!events.isEmpty()) {
            events.forEach(replay::take);
            page = page.after(events.get(events.size() - 1));
            events = log.find(page, cancellation);
        }
        replay.finish(to);
        return replay.recorded;
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
        Event.Builder raised = AlarmFacts.raised(
                        first, detector.sites(first.subject(), first.cause(), first.at()), first.at())
                // It was finished: no operator is to be called for it.
                .detail(AlarmBook.REPLAYED, "yes")
                .detail("forward", "no")
                .detail("sound", "no");
        EventKey alarm = await(intake.record(AlarmFacts.occurrence(raised, first, known)))
                .key();
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
        facts.stream().map(intake::record).toList().forEach(AlarmReplay::await);
        recorded++;
    }

    private static Event await(CompletableFuture<Event> stored) {
        try {
            return stored.join();
        } catch (CompletionException e) {
            throw e.getCause() instanceof RuntimeException own ? own : e;
        }
    }
}
