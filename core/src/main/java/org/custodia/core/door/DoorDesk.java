package org.custodia.core.door;

import java.time.Clock;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.concurrent.TimeUnit;
import java.util.function.Function;
import java.util.function.Supplier;
import org.custodia.core.door.CommandProgress.Stage;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.EventLog;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Kinds;
import org.custodia.core.link.AccessLink;
import org.custodia.core.operator.Actor;
import org.custodia.core.operator.NotPermittedException;
import org.custodia.core.operator.Permission;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.SystemId;

/**
 * Where operators act on doors. The intent is in the log before it is sent; a door out of reach is refused at once and
 * nothing is queued; an outcome nobody heard of is not known, and is never sent again by itself.
 */
public final class DoorDesk implements AutoCloseable {
    /** A second press on the same door within this time is the same press. */
    static final Duration DOUBLE_PRESS = Duration.ofMillis(700);
    /** How long the door itself has to confirm. */
    static final Duration CONFIRM_WITHIN = Duration.ofSeconds(8);

    private final EventIntake intake;
    private final EventLog log;
    private final DoorBoard board;
    private final Supplier<SiteModel> sites;
    private final Function<SystemId, Optional<AccessLink>> links;
    private final Clock clock;
    private final List<Listener> listeners = new CopyOnWriteArrayList<>();
    private final Map<String, Pending> pending = new ConcurrentHashMap<>();
    private final Map<DoorId, CommandProgress> newest = new ConcurrentHashMap<>();
    private final EventIntake.Subscription subscription;

    /** Told of each stage of each command, on any thread; must return quickly. */
    @FunctionalInterface
    public interface Listener {
        void progressed(CommandProgress progress);
    }

    private record Pending(Actor actor, Door door, DoorCommand command, CompletableFuture<CommandProgress> done) {}

    public DoorDesk(
            EventIntake intake,
            EventLog log,
            DoorBoard board,
            Supplier<SiteModel> sites,
            Function<SystemId, Optional<AccessLink>> links,
            Clock clock) {
        this.intake = intake;
        this.log = log;
        this.board = board;
        this.sites = sites;
        this.links = links;
        this.clock = clock;
        this.subscription = intake.subscribe(events -> events.forEach(this::confirm));
    }

    public void listen(Listener listener) {
        listeners.add(listener);
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
     * @throws IllegalArgumentException if the door is not known or cannot do it
     */
    public CompletableFuture<CommandProgress> act(
            Actor actor, DoorId id, DoorCommand command, Optional<String> reason) {
        Door door =
                sites.get().door(id).orElseThrow(() -> new IllegalArgumentException("There is no door " + id + "."));
        if (!actor.may(Permission.ACT_ON_DOORS, door.site())) {
            intake.record(event(Kinds.REFUSED_TO_OPERATOR, actor, door).detail("command", command.word()));
        }
        actor.require(Permission.ACT_ON_DOORS, door.site());
        if (!command.supportedBy(door)) {
            throw new IllegalArgumentException(door.name() + " cannot do that: " + command.words() + ".");
        }
        CommandProgress last = newest.get(id);
        if (last != null
                && last.command().equals(command)
                && Duration.between(last.since(), clock.instant()).compareTo(DOUBLE_PRESS) < 0) {
            Pending same = pending.get(last.key());
            return same != null ? same.done() : CompletableFuture.completedFuture(last);
        }
        String key = UUID.randomUUID().toString();
        Pending entry = new Pending(actor, door, command, new CompletableFuture<>());
        pending.put(key, entry);
        tell(new CommandProgress(key, id, command, Stage.SENT, clock.instant(), command.words() + ": sent"));

        Event.Builder intent = event(Kinds.COMMAND_SENT, actor, door)
                .detail("command", command.word())
                .cause(key);
        reason.ifPresent(intent::reason);
        if (command instanceof DoorCommand.LeaveUnlocked leave) {
            leave.until().ifPresent(t -> intent.detail("until", t.toString()));
        }
        intake.record(intent).whenComplete((stored, failure) -> {
            if (failure != null) {
                end(key, Kinds.COMMAND_FAILED, Stage.FAILED, "not sent: it could not be written to the log first");
            } else {
                send(key, entry);
            }
        });
        return entry.done();
    }

    private void send(String key, Pending entry) {
        Door door = entry.door();
        DoorState state = board.now(door.id());
        Optional<AccessLink> link = links.apply(door.system());
        if (state.outOfReachSince().isPresent() || link.isEmpty()) {
            end(key, Kinds.COMMAND_FAILED, Stage.FAILED, "not sent: the door is out of reach; nothing was queued");
            return;
        }
        link.get().command(door.id(), entry.command(), key).whenComplete((answer, failure) -> {
            if (failure != null) {
                end(key, Kinds.COMMAND_UNKNOWN, Stage.NOT_KNOWN, "not known whether it arrived");
                return;
            }
            switch (answer.result()) {
                case DONE -> awaitDoor(key);
                case REFUSED, NOT_REACHED -> end(key, Kinds.COMMAND_FAILED, Stage.FAILED, answer.words());
                case NOT_KNOWN -> end(key, Kinds.COMMAND_UNKNOWN, Stage.NOT_KNOWN, answer.words());
            }
        });
    }

    private void awaitDoor(String key) {
        CompletableFuture.delayedExecutor(CONFIRM_WITHIN.toMillis(), TimeUnit.MILLISECONDS)
                .execute(() -> end(
                        key,
                        Kinds.COMMAND_UNKNOWN,
                        Stage.NOT_KNOWN,
                        "the system took it, but the door has not confirmed it"));
    }

    private void confirm(Event event) {
        if (event.cause().isPresent()
                && event.door().isPresent()
                && !event.kind().id().startsWith("command.")) {
            end(event.cause().get(), Kinds.COMMAND_DONE, Stage.CONFIRMED, "confirmed by the door");
        }
    }

    private void end(String key, EventKind kind, Stage stage, String words) {
        Pending entry = pending.remove(key);
        if (entry == null) {
            return;
        }
        String doing = stage == Stage.CONFIRMED
                ? ""
                : ". Now: "
                        + DoorWords.headline(
                                board.now(entry.door().id()),
                                entry.door(),
                                clock.instant(),
                                sites.get().zoneOf(entry.door().id()));
        intake.record(event(kind, entry.actor(), entry.door())
                .detail("command", entry.command().word())
                .detail("words", words)
                .cause(key));
        CommandProgress end = new CommandProgress(
                key,
                entry.door().id(),
                entry.command(),
                stage,
                clock.instant(),
                entry.command().words() + ": " + words + doing);
        tell(end);
        entry.done().complete(end);
    }

    private void tell(CommandProgress progress) {
        newest.put(progress.door(), progress);
        listeners.forEach(l -> l.progressed(progress));
    }

    /** Notes who it was and why, after an act or for a passage. */
    public CompletableFuture<Event> note(Actor actor, DoorId id, EventKey about, String who, String why) {
        Door door =
                sites.get().door(id).orElseThrow(() -> new IllegalArgumentException("There is no door " + id + "."));
        actor.require(Permission.ACT_ON_DOORS, door.site());
        return intake.record(event(Kinds.NOTE, actor, door)
                .detail("about", about.text())
                .detail("who", who)
                .reason(why.isBlank() ? null : why));
    }

    /** Commands of an earlier run that never got an answer are put down as not known. */
    public void closeUnanswered(Actor actor) {
        var recent = log.find(EventQuery.all()
                .kinds(Kinds.COMMAND_SENT, Kinds.COMMAND_DONE, Kinds.COMMAND_FAILED, Kinds.COMMAND_UNKNOWN)
                .newest(500));
        var answered = recent.stream()
                .filter(e -> !e.kind().equals(Kinds.COMMAND_SENT))
                .flatMap(e -> e.cause().stream())
                .collect(java.util.stream.Collectors.toSet());
        recent.stream()
                .filter(e -> e.kind().equals(Kinds.COMMAND_SENT))
                .filter(e -> e.cause().isPresent()
                        && !answered.contains(e.cause().get())
                        && !pending.containsKey(e.cause().get()))
                .forEach(e -> sites.get()
                        .door(e.door().orElseThrow())
                        .ifPresent(door -> intake.record(event(Kinds.COMMAND_UNKNOWN, actor, door)
                                .detail("command", e.detail("command").orElse(""))
                                .detail("words", "the program ended before an answer came; it was not sent again")
                                .cause(e.cause().get()))));
    }

    private Event.Builder event(EventKind kind, Actor actor, Door door) {
        return Event.of(Custodian.KEY, kind, clock.instant())
                .door(door.id())
                .operator(actor.operator())
                .detail("operator-name", actor.name())
                .detail("desk", actor.desk());
    }

    /** Key of what Custodia logs itself, until the intake gives it its own. */
    private static final class Custodian {
        static final EventKey KEY = new EventKey(new SystemId("custodia"), 1, 0);
    }

    @Override
    public void close() {
        subscription.close();
    }
}
