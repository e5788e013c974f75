package org.custodia.core.command;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.concurrent.Executors;
import java.util.concurrent.RejectedExecutionException;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.TimeUnit;
import java.util.function.Function;
import java.util.stream.Collectors;
import org.custodia.core.command.CommandProgress.Stage;
import org.custodia.core.door.CommandAnswer;
import org.custodia.core.door.DoorBoard;
import org.custodia.core.door.DoorCommand;
import org.custodia.core.door.DoorState;
import org.custodia.core.door.LockMode;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventField;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.EventLog;
import org.custodia.core.event.EventLogException;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Filter;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.Provenance;
import org.custodia.core.link.AccessLink;
import org.custodia.core.mishap.Threads;
import org.custodia.core.operator.Actor;
import org.custodia.core.operator.NotPermittedException;
import org.custodia.core.operator.Permission;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Sites;
import org.custodia.core.site.SystemId;

/**
 * Where operators act on doors. The intent is in the log before it is sent; a door out of reach is refused at once and
 * nothing is queued; an outcome nobody heard of is not known, and is never sent again by itself. A command is confirmed by
 * the door it was sent to and by nothing else, however late that comes. Safe for use by several threads.
 */
public final class DoorDesk implements AutoCloseable {
    /** A second press by the same operator on the same door within this time of the first is the same press. */
    static final Duration DOUBLE_PRESS = Duration.ofMillis(700);
    /** How long the door itself has to confirm. */
    static final Duration CONFIRM_WITHIN = Duration.ofSeconds(8);
    /** The detail that says why a command ended as it did: a {@link Saying}. */
    public static final String SAID = "said";

    /** Commands whose outcome is not known that are remembered, since the door may confirm them yet. */
    private static final int OPEN_ENDS = 500;

    private final EventIntake intake;
    private final EventLog log;
    private final DoorBoard board;
    private final Sites sites;
    private final Function<SystemId, Optional<AccessLink>> links;
    private final Clock clock;
    private final ScheduledExecutorService timer;
    private final List<Listener> listeners = new CopyOnWriteArrayList<>();
    /** Guards the three maps below. */
    private final Object lock = new Object();

    private final Map<String, Given> underWay = new HashMap<>();
    private final Map<String, Given> openEnds = new LinkedHashMap<>();
    private final Map<DoorId, Press> presses = new HashMap<>();
    private final EventIntake.Subscription subscription;

    /** Told of each stage of each command, on any thread; must return quickly. */
    @FunctionalInterface
    public interface Listener {
        void progressed(CommandProgress progress);
    }

    /** Who gave a command: an operator, or Custodia by a rule. All events about the command name the giver. */
    private record Giver(String operator, String name, String desk) {
        static Giver of(Actor actor) {
            return new Giver(actor.operator(), actor.name(), actor.desk());
        }

        /** The giver as named by the event that recorded the command. */
        static Giver of(Event sent) {
            String operator = sent.operator().orElse("");
            return new Giver(
                    operator,
                    sent.detail("operator-name").orElse(operator),
                    sent.detail("desk").orElse(""));
        }
    }

    /** A command that was given. */
    private record Given(
            String key,
            Giver giver,
            DoorId door,
            SystemId system,
            DoorCommand command,
            CompletableFuture<CommandProgress> done) {}

    /** The newest press at a door. */
    private record Press(Actor actor, DoorCommand command, Instant at, CompletableFuture<CommandProgress> done) {
        boolean isTheSameAs(Actor who, DoorCommand what, Instant when) {
            return actor.operator().equals(who.operator())
                    && actor.desk().equals(who.desk())
                    && command.equals(what)
                    && Duration.between(at, when).compareTo(DOUBLE_PRESS) < 0;
        }
    }

    public DoorDesk(
            EventIntake intake,
            EventLog log,
            DoorBoard board,
            Sites sites,
            Function<SystemId, Optional<AccessLink>> links,
            Clock clock) {
        this(
                intake,
                log,
                board,
                sites,
                links,
                clock,
                Executors.newSingleThreadScheduledExecutor(Threads.factory("door commands")));
    }

    /**
     * @param timer runs what follows from answers and what waits for an end; is shut down with this
     */
    DoorDesk(
            EventIntake intake,
            EventLog log,
            DoorBoard board,
            Sites sites,
            Function<SystemId, Optional<AccessLink>> links,
            Clock clock,
            ScheduledExecutorService timer) {
        this.intake = intake;
        this.log = log;
        this.board = board;
        this.sites = sites;
        this.links = links;
        this.clock = clock;
        this.timer = timer;
        this.subscription = intake.subscribe(events -> events.forEach(this::confirm));
    }

    /** Asks to be told of progress until that is ended. */
    public EventIntake.Subscription listen(Listener listener) {
        listeners.add(listener);
        return () -> listeners.remove(listener);
    }

    /** The commands that this door can do and this operator may give. */
    public List<DoorCommand> offered(Actor actor, Door door) {
        if (!actor.may(Permission.ACT_ON_DOORS, door.site())) {
            return List.of();
        }
        return List.<DoorCommand>of(
                        new DoorCommand.LetThrough(),
                        new DoorCommand.LeaveUnlocked(Optional.empty()),
                        new DoorCommand.LockNow(),
                        new DoorCommand.BackToTimetable())
                .stream()
                .filter(c -> c.supportedBy(door))
                .toList();
    }

    /**
     * Gives a command.
     *
     * @param reason why, where the operator said so
     * @return how it ended; never fails for what the door or its system does
     * @throws NotPermittedException if the actor may not act on doors there; that attempt is in the log
     * @throws NoSuchCommandException if the door is not known or cannot do it
     */
    public CompletableFuture<CommandProgress> act(
            Actor actor, DoorId id, DoorCommand command, Optional<String> reason) {
        Door door = known(id);
        if (!actor.may(Permission.ACT_ON_DOORS, door.site())) {
            intake.record(event(Kinds.REFUSED_TO_OPERATOR, Giver.of(actor), id).detail("command", command.word()));
        }
        actor.require(Permission.ACT_ON_DOORS, door.site());
        if (!command.supportedBy(door)) {
            throw new NoSuchCommandException(Saying.of("command.door-cannot", door.name()));
        }
        Given given = new Given(
                UUID.randomUUID().toString(), Giver.of(actor), id, door.system(), command, new CompletableFuture<>());
        Instant now = clock.instant();
        synchronized (lock) {
            Press last = presses.get(id);
            if (last != null && last.isTheSameAs(actor, command, now)) {
                return last.done();
            }
            presses.put(id, new Press(actor, command, now, given.done()));
            underWay.put(given.key(), given);
        }
        report(given, Stage.ACCEPTED);
        write(intent(given, reason)).whenComplete((stored, failure) -> {
            if (failure != null) {
                end(given.key(), Kinds.COMMAND_FAILED, Stage.FAILED, Saying.of("command.not-logged"));
            } else {
                later(() -> send(given));
            }
        });
        return given.done();
    }

    private Door known(DoorId id) {
        return sites.get()
                .door(id)
                .orElseThrow(() -> new NoSuchCommandException(Saying.of("command.no-such-door", id.value())));
    }

    private Event.Builder intent(Given given, Optional<String> reason) {
        Event.Builder intent = event(Kinds.COMMAND_SENT, given.giver(), given.door())
                .detail("command", given.command().word())
                .cause(given.key());
        reason.ifPresent(intent::reason);
        if (given.command() instanceof DoorCommand.ShowText show) {
            intent.detail("text", show.text());
        }
        if (given.command() instanceof DoorCommand.LeaveUnlocked leave) {
            leave.until().ifPresent(t -> intent.detail("until", t.toString()));
        }
        return intent;
    }

    /** Writes to the log; whatever goes wrong is in the answer. */
    private CompletableFuture<Event> write(Event.Builder event) {
        try {
            return intake.record(event);
        } catch (RuntimeException e) {
            return CompletableFuture.failedFuture(e);
        }
    }

    private void later(Runnable work) {
        try {
            timer.execute(() -> {
                try {
                    work.run();
                } catch (RuntimeException e) {
                    Threads.stumbled(e);
                }
            });
        } catch (RejectedExecutionException e) {
            // Closing: what was sent and not answered is put down as not known at the next start.
        }
    }

    private void send(Given given) {
        Optional<AccessLink> link = links.apply(given.system());
        // While history is read, what is known of the door is old; its system knows better.
        boolean current = link.isPresent() && link.get().current();
        // Where its state cannot be read its system decides.
        boolean lost =
                current && now(given.door()).flatMap(DoorState::outOfReachSince).isPresent();
        if (link.isEmpty() || lost) {
            end(given.key(), Kinds.COMMAND_FAILED, Stage.FAILED, Saying.of("command.out-of-reach"));
            return;
        }
        report(given, Stage.SENT);
        CompletableFuture<CommandAnswer> answered;
        try {
            answered = link.get().command(given.door(), given.command(), given.key());
        } catch (RuntimeException e) {
            answered = CompletableFuture.failedFuture(e);
        }
        answered.whenComplete((answer, failure) -> later(() -> answered(given.key(), answer, failure)));
    }

    private void answered(String key, CommandAnswer answer, Throwable failure) {
        if (failure != null) {
            end(key, Kinds.COMMAND_UNKNOWN, Stage.NOT_KNOWN, Saying.of("command.not-known"));
            return;
        }
        switch (answer.result()) {
            case DONE ->
                timer.schedule(
                        () -> end(key, Kinds.COMMAND_UNKNOWN, Stage.NOT_KNOWN, Saying.of("command.not-confirmed")),
                        CONFIRM_WITHIN.toMillis(),
                        TimeUnit.MILLISECONDS);
            case REFUSED, NOT_REACHED -> end(key, Kinds.COMMAND_FAILED, Stage.FAILED, answer.why());
            case NOT_KNOWN -> end(key, Kinds.COMMAND_UNKNOWN, Stage.NOT_KNOWN, answer.why());
        }
    }

    /** Takes in what may be a door's confirmation. */
    private void confirm(Event event) {
        if (event.cause().isEmpty()) {
            return;
        }
        Given given;
        synchronized (lock) {
            given = underWay.getOrDefault(
                    event.cause().get(), openEnds.get(event.cause().get()));
        }
        if (given != null
                && confirms(event, given.door(), given.system(), given.command().word())) {
            end(given.key(), Kinds.COMMAND_DONE, Stage.CONFIRMED, Saying.of("command.confirmed"));
        }
    }

    /** Whether an event is what this command makes this door do. */
    private static boolean confirms(Event event, DoorId door, SystemId system, String command) {
        if (!event.key().system().equals(system)
                || event.door().filter(door::equals).isEmpty()) {
            return false;
        }
        LockMode mode = LockMode.told(event);
        boolean moded = event.kind().equals(Kinds.MODE);
        return switch (command) {
            case "let-through" -> event.kind().equals(Kinds.RELEASED);
            case "leave-unlocked" -> moded && mode == LockMode.UNLOCKED;
            case "lock" -> moded && mode == LockMode.LOCKED;
            case "block" -> moded && mode == LockMode.BLOCKED;
            case "timetable" ->
                moded && event.detail("by").map("timetable"::equals).orElse(true);
            case "show-text" -> event.kind().equals(Kinds.DISPLAY_TEXT);
            default -> false;
        };
    }

    private void end(String key, EventKind kind, Stage stage, Saying why) {
        Given given;
        synchronized (lock) {
            given = underWay.remove(key);
            if (stage == Stage.CONFIRMED) {
                Given open = openEnds.remove(key);
                given = given != null ? given : open;
            }
            if (given == null) {
                return;
            }
            if (stage == Stage.NOT_KNOWN) {
                openEnd(given);
            }
        }
        Given ended = given;
        later(() -> finish(ended, kind, stage, why));
    }

    private void openEnd(Given given) {
        openEnds.put(given.key(), given);
        if (openEnds.size() > OPEN_ENDS) {
            openEnds.remove(openEnds.keySet().iterator().next());
        }
    }

    private void finish(Given given, EventKind kind, Stage stage, Saying why) {
        CommandProgress end = new CommandProgress(
                given.key(),
                given.door(),
                given.command(),
                stage,
                clock.instant(),
                Optional.of(why),
                stage == Stage.CONFIRMED ? Optional.empty() : now(given.door()));
        write(event(kind, given.giver(), given.door())
                .detail("command", given.command().word())
                .detail(SAID, why.text())
                .cause(given.key()));
        tell(end);
        given.done().complete(end);
    }

    private Optional<DoorState> now(DoorId id) {
        try {
            return Optional.of(board.now(id));
        } catch (RuntimeException e) {
            // The log cannot be read, which is said elsewhere.
            return Optional.empty();
        }
    }

    private void report(Given given, Stage stage) {
        tell(new CommandProgress(given.key(), given.door(), given.command(), stage, clock.instant(), Optional.empty()));
    }

    private void tell(CommandProgress progress) {
        for (Listener listener : listeners) {
            try {
                listener.progressed(progress);
            } catch (RuntimeException e) {
                // Whoever shows it does not decide whether a command is given.
                Threads.stumbled(e);
            }
        }
    }

    /**
     * Notes for whom a command was given, and why. Reads the log.
     *
     * @return the note; fails with {@link EventLogException} if no such command is in the log
     * @throws NotPermittedException if the actor may not act on doors there
     * @throws NoSuchCommandException if the door is not known
     */
    public CompletableFuture<Event> note(Actor actor, CommandProgress about, String who, String why) {
        DoorId id = about.door();
        Door door = known(id);
        actor.require(Permission.ACT_ON_DOORS, door.site());
        Optional<Event> sent = log
                .find(EventQuery.all()
                        .doors(Set.of(id))
                        .kinds(Kinds.COMMAND_SENT)
                        .where(Filter.is(EventField.CAUSE, about.key()))
                        .newest(1))
                .stream()
                .findFirst();
        if (sent.isEmpty()) {
            return CompletableFuture.failedFuture(
                    new EventLogException(Saying.of("command.no-such-given", door.name()), null));
        }
        return intake.record(event(Kinds.NOTE, Giver.of(actor), id)
                .detail("about", sent.get().key().text())
                .detail("who", who)
                .reason(why.isBlank() ? null : why));
    }

    /**
     * Ends the commands of an earlier run. Those that their door has confirmed meanwhile are recorded as done; the others as
     * unknown, until the door confirms them. Each of these events names the operator who gave the command.
     */
    public void closeUnanswered() {
        List<Event> recent = log
                .find(EventQuery.all()
                        .kinds(Kinds.COMMAND_SENT, Kinds.COMMAND_DONE, Kinds.COMMAND_FAILED, Kinds.COMMAND_UNKNOWN)
                        .newest(OPEN_ENDS))
                .stream()
                .filter(e -> Provenance.trusted(e)
                        && e.cause().isPresent()
                        && e.door().isPresent())
                .toList();
        Map<String, EventKind> ended = recent.stream()
                .filter(e -> !e.kind().equals(Kinds.COMMAND_SENT))
                .collect(Collectors.toMap(
                        e -> e.cause().get(), Event::kind, (a, b) -> a.equals(Kinds.COMMAND_UNKNOWN) ? b : a));
        for (Event sent : recent) {
            EventKind end = ended.get(sent.cause().get());
            boolean open = sent.kind().equals(Kinds.COMMAND_SENT) && (end == null || end.equals(Kinds.COMMAND_UNKNOWN));
            if (open && !isUnderWay(sent.cause().get())) {
                closeUnanswered(sent, end == null);
            }
        }
    }

    private boolean isUnderWay(String key) {
        synchronized (lock) {
            return underWay.containsKey(key);
        }
    }

    private void closeUnanswered(Event sent, boolean withoutEnd) {
        Giver giver = Giver.of(sent);
        DoorId door = sent.door().orElseThrow();
        String word = sent.detail("command").orElse("");
        int slash = door.value().indexOf('/');
        Optional<DoorCommand> command = DoorCommand.of(word, sent.detail("until"), sent.detail("text"));
        String key = sent.cause().orElseThrow();
        if (slash < 1 || command.isEmpty()) {
            if (withoutEnd) {
                leftUnanswered(giver, door, word, key);
            }
            return;
        }
        Given given = new Given(
                key,
                giver,
                door,
                new SystemId(door.value().substring(0, slash)),
                command.get(),
                new CompletableFuture<>());
        synchronized (lock) {
            openEnd(given);
        }
        boolean confirmed = log
                .find(EventQuery.all()
                        .between(sent.time().minus(MARGIN), sent.time().plus(ANSWERED_BY))
                        .doors(Set.of(door))
                        .kinds(Kinds.RELEASED, Kinds.MODE, Kinds.DISPLAY_TEXT))
                .stream()
                .anyMatch(e -> e.cause().equals(sent.cause()) && confirms(e, door, given.system(), word));
        if (confirmed) {
            end(key, Kinds.COMMAND_DONE, Stage.CONFIRMED, Saying.of("command.confirmed"));
        } else if (withoutEnd) {
            leftUnanswered(giver, door, word, key);
        }
    }

    private void leftUnanswered(Giver giver, DoorId door, String word, String key) {
        write(event(Kinds.COMMAND_UNKNOWN, giver, door)
                .detail("command", word)
                .detail(SAID, Saying.of("command.ended-before").text())
                .cause(key));
    }

    /** A door's clock may be behind by what was not measured yet. */
    private static final Duration MARGIN = Duration.ofMinutes(10);
    /** A confirmation that comes by itself later than this after its command is not looked for. */
    private static final Duration ANSWERED_BY = Duration.ofDays(2);

    private Event.Builder event(EventKind kind, Giver giver, DoorId door) {
        return Event.of(new EventKey(SystemId.CUSTODIA, 1, 0), kind, clock.instant())
                .door(door)
                .operator(giver.operator())
                .detail("operator-name", giver.name())
                .detail("desk", giver.desk());
    }

    @Override
    public void close() {
        subscription.close();
        timer.shutdownNow();
        try {
            timer.awaitTermination(3, TimeUnit.SECONDS);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }
}
