package org.custodia.core.alarm;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Stream;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.Priority;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.SiteId;

/**
 * An alarm as it stands.
 *
 * @param origin how it came about, which does not change
 * @param condition whether it still is so
 * @param times how often it happened since
 * @param latest when it happened last
 * @param newest the occurrence that was found last
 * @param calling the occurrence for which it calls
 * @param answers how long each call that was acknowledged waited
 * @param acknowledged who has seen it
 * @param owner who has it in hand
 * @param shelved why and until when it is put aside
 * @param finished what it turned out to be
 * @param notes what was noted, the oldest first
 * @param ticks the steps of its procedure that are done
 * @param call since when it calls for somebody, and how far that has gone
 */
public record Alarm(
        Origin origin,
        Condition condition,
        int times,
        Instant latest,
        Occurrence newest,
        Occurrence calling,
        Optional<By> acknowledged,
        Optional<Owner> owner,
        Optional<Shelved> shelved,
        Optional<Finished> finished,
        List<Note> notes,
        List<Tick> ticks,
        Call call,
        List<Answer> answers) {
    /** Whoever has one in hand and does nothing about it for so long is not taken to be at it, where it happens again. */
    public static final Duration LEFT_ALONE = Duration.ofHours(1);

    /** What happens again sooner is taken to go on. */
    public static final Duration QUIET = Duration.ofMinutes(5);

    /** Queue order: unacknowledged alarms first, then by priority, then by age. */
    public static final Comparator<Alarm> BY_URGENCY = Comparator.comparing(
                    (Alarm a) -> a.acknowledged().isPresent())
            .thenComparing(a -> a.origin().priority(), Comparator.reverseOrder())
            .thenComparing(a -> a.origin().raised())
            .thenComparing(a -> a.origin().position());

    public Alarm {
        notes = List.copyOf(notes);
        ticks = List.copyOf(ticks);
        answers = List.copyOf(answers);
    }

    /** Answers of one alarm that are held; of more, the first are dropped. */
    private static final int MOST_ANSWERS = 500;

    /**
     * What an operator sees of an alarm when acting on it. What has happened since is not covered by the act.
     *
     * @param times how many occurrences were seen
     */
    public record Seen(EventKey alarm, int times) {}

    /** The alarm as it stands, as seen by an operator. */
    public Seen seen() {
        return new Seen(id(), times);
    }

    /**
     * One occurrence.
     *
     * @param number counts from 1 within the alarm
     * @param cause the key of the event by which it was found
     * @param person whom it names
     * @param at when it happened
     * @param latestFresh number of the latest occurrence, up to this one, that calls though all before it was acknowledged:
     *     the condition was over, or it was quiet
     */
    public record Occurrence(
            int number, EventKey cause, Subject subject, Optional<PersonId> person, Instant at, int latestFresh) {}

    /**
     * A call that was acknowledged.
     *
     * @param since when it began
     * @param by who acknowledged it, and when
     */
    public record Answer(Instant since, By by) {
        /** When it was acknowledged. */
        public Instant acknowledged() {
            return by.when();
        }

        /** How long it took; never negative, whatever a clock was set to. */
        public Duration waited() {
            Duration waited = Duration.between(since, acknowledged());
            return waited.isNegative() ? Duration.ZERO : waited;
        }
    }

    /**
     * How it came about.
     *
     * @param id the key of the fact that raised it
     * @param position of that fact in the log
     * @param rule the id of the rule that raised it, in its version of then
     * @param name what the rule was called then
     * @param cause the key of the event that raised it
     * @param since when what it is about happened
     * @param forward whether its pictures come forward
     * @param sound whether it is heard
     * @param person whom what raised it names
     * @param topic with what it is joined
     * @param sites where it belonged when it was raised; none for what is of no site
     */
    public record Origin(
            EventKey id,
            long position,
            String rule,
            long ruleVersion,
            String name,
            Priority priority,
            Subject subject,
            EventKey cause,
            Instant since,
            Instant raised,
            boolean forward,
            boolean sound,
            Optional<PersonId> person,
            Topic topic,
            Set<SiteId> sites) {
        public Origin {
            sites = Set.copyOf(sites);
        }

        private Origin since(Instant earlier) {
            return new Origin(
                    id,
                    position,
                    rule,
                    ruleVersion,
                    name,
                    priority,
                    subject,
                    cause,
                    earlier,
                    raised,
                    forward,
                    sound,
                    person,
                    topic,
                    sites);
        }
    }

    /** Whether what it is about lasts. */
    public enum Condition {
        /** It is still so. */
        ON,
        /** It is no more. */
        ENDED,
        /** It was over as soon as it happened. */
        MOMENT,
        /** It may be so or not: the rule that would find out is gone, switched off or watches something else by now. */
        UNWATCHED,
        /** It was not so: an event that was stored later contradicts what the alarm was raised for. */
        CONTRADICTED
    }

    /** How far it has been dealt with. */
    public enum State {
        NEW,
        ACKNOWLEDGED,
        IN_HAND,
        SHELVED,
        FINISHED
    }

    /** Who did something, and when. */
    public record By(String operator, String name, Instant when) {}

    /** Who has it in hand. */
    public record Owner(String operator, String name, Instant since) {}

    /**
     * That it calls for somebody.
     *
     * @param since when it began to call, last time
     * @param steps how often it was called louder, or others too, since nobody came
     * @param number how often it has begun to call, this one included
     */
    public record Call(Instant since, int steps, int number) {
        /** The next one. */
        Call next(Instant from) {
            return new Call(from, 0, number + 1);
        }
    }

    /** A step that is done. */
    public record Tick(String step, By by) {}

    /** Put aside. */
    public record Shelved(By by, Instant until, String reason) {}

    /** Done with. */
    public record Finished(By by, Outcome outcome, String text) {}

    /** Something that was noted. */
    public record Note(By by, String text) {}

    /** As it stands once it has been raised. */
    static Alarm of(Origin origin, Condition condition, Instant at) {
        Occurrence first = new Occurrence(1, origin.cause(), origin.subject(), origin.person(), at, 1);
        return new Alarm(
                origin,
                condition,
                1,
                at,
                first,
                first,
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                Optional.empty(),
                List.of(),
                List.of(),
                new Call(origin.raised(), 0, 1),
                List.of());
    }

    public EventKey id() {
        return origin.id();
    }

    /** How far it has been dealt with, at an instant: one that is put aside comes back when its time is over. */
    public State state(Instant now) {
        if (finished.isPresent()) {
            return State.FINISHED;
        }
        if (shelved.filter(s -> s.until().isAfter(now)).isPresent()) {
            return State.SHELVED;
        }
        if (owner.isPresent()) {
            return State.IN_HAND;
        }
        return acknowledged.isPresent() && shelved.isEmpty() ? State.ACKNOWLEDGED : State.NEW;
    }

    /** Whether it is not finished. */
    public boolean open() {
        return finished.isEmpty();
    }

    /** When it began to call, each time. */
    List<Instant> calls() {
        List<Instant> all = new ArrayList<>();
        answers.forEach(a -> all.add(a.since()));
        if (acknowledged.isEmpty()) {
            all.add(call.since());
        }
        return all;
    }

    // ---- What happens to it

    /** Whether what it was about was over, as far as anybody watched. */
    boolean over() {
        return condition == Condition.ENDED || condition == Condition.UNWATCHED || condition == Condition.CONTRADICTED;
    }

    /** Whether what happens at an instant is new: the condition was over, or nothing happened for {@link #QUIET}. */
    private boolean isFresh(Instant at) {
        return over() || condition == Condition.MOMENT && !at.isBefore(latest.plus(QUIET));
    }

    /**
     * Whether it calls once more if it happens again: where it was over, somebody has seen it, and nobody has it in hand, or
     * whoever has did nothing about it for {@link #LEFT_ALONE}. What nobody has seen calls as it is, since when it did. What
     * is over as soon as it happens is over once it has not happened for {@link #QUIET}.
     *
     * @param at when it happens again
     * @param told when that is known
     */
    boolean callsIfAgain(Instant at, Instant told) {
        if (!isFresh(at) || shelved.isPresent() || acknowledged.isEmpty()) {
            return false;
        }
        return owner.isEmpty() || !told.isBefore(doneLast().plus(LEFT_ALONE));
    }

    /** Whether it begins anew if it happens again, so that what was said of it before says nothing of it then. */
    boolean beginsIfAgain(Instant at, Instant told) {
        return over() && owner.isEmpty() || callsIfAgain(at, told);
    }

    /** When somebody did something about it last. */
    private Instant doneLast() {
        return Stream.of(
                        acknowledged.map(By::when).stream(),
                        owner.map(Owner::since).stream(),
                        ticks.stream().map(t -> t.by().when()),
                        notes.stream().map(n -> n.by().when()))
                .flatMap(s -> s)
                .max(Comparator.naturalOrder())
                .orElse(Instant.MIN);
    }

    /**
     * It happened again, and may call for that.
     *
     * @param since when what was counted together began
     * @param begins the condition where it was over before
     */
    Alarm again(
            EventKey cause,
            Subject subject,
            Optional<PersonId> person,
            Instant at,
            Instant since,
            Instant told,
            Condition begins) {
        boolean anew = over();
        boolean calls = callsIfAgain(at, told);
        Occurrence now =
                new Occurrence(times + 1, cause, subject, person, at, isFresh(at) ? times + 1 : newest.latestFresh());
        return new Alarm(
                since.isBefore(origin.since()) ? origin.since(since) : origin,
                anew ? begins : condition,
                times + 1,
                at.isAfter(latest) ? at : latest,
                now,
                calls ? now : calling,
                calls ? Optional.empty() : acknowledged,
                calls ? Optional.empty() : owner,
                shelved,
                finished,
                notes,
                ticks,
                calls ? call.next(told) : call,
                answers);
    }

    Alarm ended() {
        return condition(Condition.ENDED);
    }

    /** Nobody watches any more whether it is still so. */
    Alarm unwatched() {
        return condition(Condition.UNWATCHED);
    }

    /** What it was raised for last was not so, by an event that was stored later. */
    Alarm contradicted() {
        return condition(Condition.CONTRADICTED);
    }

    private Alarm condition(Condition now) {
        boolean changes = condition == Condition.ON || now == Condition.CONTRADICTED;
        return changes
                ? new Alarm(
                        origin,
                        now,
                        times,
                        latest,
                        newest,
                        calling,
                        acknowledged,
                        owner,
                        shelved,
                        finished,
                        notes,
                        ticks,
                        call,
                        answers)
                : this;
    }

    /**
     * An operator has seen some of its occurrences. Where one that was not among them would call by itself, it calls for that
     * one, as it would had it come after the acknowledgement.
     *
     * @param seen how many were seen
     */
    Alarm acknowledged(By by, int seen) {
        if (acknowledged.isPresent() || newest.latestFresh() > seen) {
            return this;
        }
        return answered(by).life(Optional.of(by), owner, shelved, finished, notes);
    }

    /** The call that is under way has an answer. */
    private Alarm answered(By by) {
        if (acknowledged.isPresent()) {
            return this;
        }
        List<Answer> all = new ArrayList<>(answers);
        all.add(new Answer(call.since(), by));
        return new Alarm(
                origin,
                condition,
                times,
                latest,
                newest,
                calling,
                acknowledged,
                owner,
                shelved,
                finished,
                notes,
                ticks,
                call,
                all.subList(Math.max(0, all.size() - MOST_ANSWERS), all.size()));
    }

    /** Whoever has it in hand has seen it. */
    Alarm taken(Owner by, By told) {
        return answered(told).life(acknowledged.or(() -> Optional.of(told)), Optional.of(by), shelved, finished, notes);
    }

    Alarm shelved(Shelved now) {
        return answered(now.by())
                .life(acknowledged.or(() -> Optional.of(now.by())), owner, Optional.of(now), finished, notes);
    }

    /** It is put aside no more, and calls again. */
    Alarm back(Instant told) {
        return shelved.isEmpty()
                ? this
                : life(Optional.empty(), owner, Optional.empty(), finished, notes)
                        .calling(call.next(told));
    }

    Alarm noted(Note note) {
        List<Note> all = new ArrayList<>(notes);
        all.add(note);
        return life(acknowledged, owner, shelved, finished, all);
    }

    Alarm finished(Finished now) {
        return answered(now.by())
                .life(acknowledged.or(() -> Optional.of(now.by())), owner, Optional.empty(), Optional.of(now), notes);
    }

    /** A step is done, or after all is not; whoever does the first one has it in hand. */
    Alarm ticked(String step, boolean done, By by) {
        List<Tick> all = new ArrayList<>(ticks);
        all.removeIf(t -> t.step().equals(step));
        if (done) {
            all.add(new Tick(step, by));
        }
        Alarm answered = answered(by);
        return new Alarm(
                origin,
                condition,
                times,
                latest,
                newest,
                calling,
                acknowledged.or(() -> Optional.of(by)),
                owner.or(() -> Optional.of(new Owner(by.operator(), by.name(), by.when()))),
                shelved,
                finished,
                notes,
                all,
                call,
                answered.answers());
    }

    /** Nobody came so far. */
    Alarm escalated(int step) {
        return step > call.steps() ? calling(new Call(call.since(), step, call.number())) : this;
    }

    private Alarm calling(Call now) {
        return new Alarm(
                origin,
                condition,
                times,
                latest,
                newest,
                calling,
                acknowledged,
                owner,
                shelved,
                finished,
                notes,
                ticks,
                now,
                answers);
    }

    private Alarm life(
            Optional<By> seen, Optional<Owner> has, Optional<Shelved> aside, Optional<Finished> done, List<Note> said) {
        return new Alarm(
                origin, condition, times, latest, newest, calling, seen, has, aside, done, said, ticks, call, answers);
    }
}
