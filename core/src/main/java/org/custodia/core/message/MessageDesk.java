package org.custodia.core.message;

import java.time.Clock;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import java.util.function.Predicate;
import org.custodia.core.alarm.Alarm;
import org.custodia.core.alarm.AlarmDesk;
import org.custodia.core.alarm.Escalation;
import org.custodia.core.alarm.Versions;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.OnRecord;
import org.custodia.core.operator.Actor;
import org.custodia.core.operator.Permission;
import org.custodia.core.saying.Saying;
import org.custodia.core.saying.SayingException;
import org.custodia.core.setup.Secrets;
import org.custodia.core.setup.SecretsException;

/** Where operators say who is told of alarms and when, and see what came of it. */
public final class MessageDesk {
    /** Receivers that a site can have. */
    public static final int MOST = 200;

    /** Characters of a password or a key. */
    public static final int LONGEST_SECRET = 1_000;

    /** Characters of a key at least: as many as a hash has bytes (RFC 2104, 3). */
    public static final int SHORTEST_KEY = 32;

    /** Under which the course of calling is kept. */
    static final String ESCALATION = "escalation";

    private final Receivers receivers;
    private final Versions<Escalation> escalations;
    private final AlarmDesk alarms;
    private final Outbox outbox;
    private final Dispatch dispatch;
    private final Secrets secrets;
    private final EventIntake intake;
    private final Clock clock;

    /** Has the course of calling hold as it was said last. */
    public MessageDesk(
            Receivers receivers,
            Versions<Escalation> escalations,
            AlarmDesk alarms,
            Outbox outbox,
            Dispatch dispatch,
            Secrets secrets,
            EventIntake intake,
            Clock clock) {
        this.receivers = receivers;
        this.escalations = escalations;
        this.alarms = alarms;
        this.outbox = outbox;
        this.dispatch = dispatch;
        this.secrets = secrets;
        this.intake = intake;
        this.clock = clock;
        escalate();
    }

    private void escalate() {
        alarms.escalation(Optional.ofNullable(escalations.newest().get(ESCALATION))
                .flatMap(Versions.Said::value)
                .orElse(Escalation.USUAL));
    }

    /**
     * A receiver as it stands.
     *
     * @param version by which an edit says what it changes
     * @param fares how messages to it fare
     */
    public record Standing(Receiver receiver, long version, Outbox.Fares fares) {}

    private static void maySee(Actor actor) {
        if (!actor.mayLookSomewhere(Permission.HANDLE_ALARMS)) {
            actor.requireToLookEverywhere(Permission.EDIT_RULES);
        }
    }

    // ---- Receivers

    /**
     * All receivers, by name.
     *
     * @throws org.custodia.core.operator.NotPermittedException if the operator may neither handle alarms nor see rules
     */
    public List<Standing> receivers(Actor actor) {
        maySee(actor);
        Map<String, Outbox.Fares> fares = outbox.fares();
        return receivers.all().stream()
                .map(r -> new Standing(
                        r,
                        r.version(),
                        fares.getOrDefault(r.id(), new Outbox.Fares(0, Optional.empty(), Optional.empty()))))
                .toList();
    }

    /**
     * What receivers are called, by id, in the order of their names. Nothing is read for that.
     *
     * @throws org.custodia.core.operator.NotPermittedException as for {@link #receivers}
     */
    public Map<String, String> names(Actor actor) {
        maySee(actor);
        Map<String, String> names = new LinkedHashMap<>();
        receivers.all().forEach(r -> names.put(r.id(), r.name()));
        return names;
    }

    /**
     * Keeps a new version of one, which holds from now on; what waits for it is tried at once.
     *
     * @param basedOn the version that was looked at; 0 for a new one
     * @param key to sign with from now on, for one at an address of the web; nothing to leave it as it is
     * @throws MessageException if there would be too many, or it lacks a key, or has one that is too short
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not edit rules everywhere
     * @throws org.custodia.core.event.EventLogException if somebody has changed it meanwhile, or it cannot be written
     */
    public synchronized void keep(Receiver receiver, long basedOn, Optional<String> key, Actor actor) {
        actor.requireEverywhere(Permission.EDIT_RULES);
        if (receivers.receiver(receiver.id()).isEmpty() && receivers.all().size() >= MOST) {
            throw new MessageException(Saying.of("message.too-many", MOST));
        }
        boolean web = receiver.way() instanceof Receiver.Web;
        if (web && key.isEmpty() && secrets.get(Keys.of(receiver.id())).isEmpty()) {
            throw new MessageException(Saying.of("message.key-missing"));
        }
        Optional<String> secret = key.filter(k -> web).map(String::strip);
        secret.ifPresent(k -> {
            if (k.length() < SHORTEST_KEY || k.length() > LONGEST_SECRET) {
                throw new MessageException(Saying.of("message.key-odd", SHORTEST_KEY, LONGEST_SECRET));
            }
        });
        both(Keys.of(receiver.id()), secret, versionOf(receivers.receivers(), receiver.id()) == basedOn, () -> receivers
                .receivers()
                .keep(
                        List.of(new Versions.Edit<>(receiver.id(), Optional.of(receiver), basedOn)),
                        actor,
                        List.of(changed("receiver", "kept", receiver.id(), receiver.name(), actor))));
        receivers.read();
        dispatch.hurry(receiver.id());
        if (!web) {
            forget(Keys.of(receiver.id())::equals);
        }
    }

    /** Takes one off; what waits for it is given up. Otherwise as {@link #keep}. */
    public synchronized void takeOff(String id, long basedOn, Actor actor) {
        actor.requireEverywhere(Permission.EDIT_RULES);
        String name = receivers.receiver(id).map(Receiver::name).orElse(id);
        receivers
                .receivers()
                .keep(
                        List.of(new Versions.Edit<>(id, Optional.empty(), basedOn)),
                        actor,
                        List.of(changed("receiver", "taken-off", id, name, actor)));
        receivers.read();
        dispatch.hurry(id);
        forget(Keys.of(id)::equals);
    }

    /**
     * Stores a secret and the record that uses it, or neither.
     *
     * @param current whether the record is unchanged since it was read; if not, the edit is refused and the secret not replaced
     */
    private void both(String name, Optional<String> secret, boolean current, Runnable edit) {
        Optional<String> put = secret.filter(s -> current);
        Optional<String> before = put.flatMap(s -> readable(name));
        put.ifPresent(s -> secrets.put(name, s));
        try {
            edit.run();
        } catch (SayingException e) {
            if (put.isPresent()) {
                before.ifPresentOrElse(b -> secrets.put(name, b), () -> secrets.remove(name));
            }
            throw e;
        }
    }

    /** A secret that is there and can be read; one that is damaged is replaced. */
    private Optional<String> readable(String name) {
        try {
            return secrets.get(name);
        } catch (SecretsException e) {
            return Optional.empty();
        }
    }

    private Event.Builder changed(String what, String change, String id, String name, Actor actor) {
        return OnRecord.setUp(what, change, actor, clock.instant())
                .detail(what, id)
                .detail("name", name);
    }

    /**
     * Sends a trial to one as it is kept, and waits for the answer.
     *
     * @return what is to be said though it went
     * @throws NotSentException if it did not go, or nobody knows
     * @throws MessageException if there is none of that id
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not edit rules everywhere
     */
    public Optional<Saying> trial(String id, Actor actor) throws NotSentException {
        actor.requireEverywhere(Permission.EDIT_RULES);
        Receiver receiver =
                receivers.receiver(id).orElseThrow(() -> new MessageException(Saying.of("message.receiver-gone")));
        intake.record(OnRecord.setUp("receiver", "tried", actor, clock.instant())
                .detail("receiver", id)
                .detail("name", receiver.name()));
        return dispatch.trial(receiver, UUID.randomUUID().toString());
    }

    /**
     * Takes a certificate from now on that nobody vouches for, and no other: that of the address of a receiver, or of the mail
     * server where it is told by mail. What waits is tried at once.
     *
     * @param fingerprint SHA-256, 64 hexadecimal digits, as somebody has compared it
     * @throws MessageException if there is none of that id, or no mail server
     * @throws org.custodia.core.operator.NotPermittedException as for keeping the one or the other
     */
    public synchronized void confirm(String id, String fingerprint, Actor actor) {
        Standing standing = receivers(actor).stream()
                .filter(s -> s.receiver().id().equals(id))
                .findFirst()
                .orElseThrow(() -> new MessageException(Saying.of("message.receiver-gone")));
        Receiver receiver = standing.receiver();
        if (receiver.way() instanceof Receiver.Web web) {
            Receiver.Way way = new Receiver.Web(web.address(), Optional.of(fingerprint));
            keep(
                    new Receiver(receiver.id(), 0, receiver.name(), receiver.on(), way),
                    standing.version(),
                    Optional.empty(),
                    actor);
        } else {
            MailServer server =
                    receivers.server().orElseThrow(() -> new MessageException(Saying.of("message.no-server")));
            // Whoever confirms it has compared it, so that the password may go there.
            keep(
                    server.certificate(Optional.of(fingerprint)),
                    server.version(),
                    secrets.get(Keys.password(server)),
                    actor);
        }
    }

    // ---- The mail server

    /**
     * The server that takes mail; nothing where none is set up.
     *
     * @throws org.custodia.core.operator.NotPermittedException as for {@link #receivers}
     */
    public Optional<MailServer> server(Actor actor) {
        maySee(actor);
        return receivers.server();
    }

    /**
     * Sets it up otherwise; all mail that waits is tried at once.
     *
     * @param basedOn the version that was looked at; 0 where there was none
     * @param password of its user; nothing to leave it as it is
     * @throws MessageException if the password has to be given, which goes nowhere else than where it was given for
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not set up everywhere
     * @throws org.custodia.core.event.EventLogException if somebody has changed it meanwhile, or it cannot be written
     */
    public synchronized void keep(MailServer server, long basedOn, Optional<String> password, Actor actor) {
        actor.requireEverywhere(Permission.SET_UP);
        Optional<String> given = password.or(() -> carried(server));
        if (server.user().isPresent() && given.isEmpty()) {
            throw new MessageException(Saying.of("message.password-missing"));
        }
        if (password.filter(p -> p.isEmpty() || p.length() > LONGEST_SECRET).isPresent()) {
            throw new MessageException(Saying.of("message.password-odd", LONGEST_SECRET));
        }
        String name = Keys.password(server);
        both(
                name,
                given.filter(p -> server.user().isPresent()),
                versionOf(receivers.servers(), MailServer.ID) == basedOn,
                () -> receivers
                        .servers()
                        .keep(
                                List.of(new Versions.Edit<>(MailServer.ID, Optional.of(server), basedOn)),
                                actor,
                                List.of(changed("mail-server", "kept", server.host(), server.host(), actor))));
        receivers.read();
        dispatch.hurry();
        forget(n -> n.startsWith(Keys.PASSWORDS)
                && !(n.equals(name) && server.user().isPresent()));
    }

    /** What cannot be forgotten now stays sealed, and is used for nothing. */
    private void forget(Predicate<String> which) {
        try {
            secrets.names().stream().filter(which).forEach(secrets::remove);
        } catch (SecretsException e) {
            // The change itself is stored.
        }
    }

    /**
     * The password to go on with: the one entered for exactly this server. If only the confirmed certificate was removed, an
     * authority must vouch for the server again, and the password stays valid.
     */
    private Optional<String> carried(MailServer server) {
        Optional<String> own = secrets.get(Keys.password(server));
        return own.isPresent() || server.certificate().isPresent()
                ? own
                : receivers.server().filter(server::sameSignIn).flatMap(s -> secrets.get(Keys.password(s)));
    }

    private static <T> long versionOf(Versions<T> register, String id) {
        return Optional.ofNullable(register.newest().get(id))
                .map(Versions.Said::version)
                .orElse(0L);
    }

    // ---- The course of calling

    /**
     * After how long an alarm calls louder, and whom then.
     *
     * @throws org.custodia.core.operator.NotPermittedException as for {@link #receivers}
     */
    public Escalation escalation(Actor actor) {
        maySee(actor);
        return alarms.escalation();
    }

    /**
     * Has another hold from now on.
     *
     * @param basedOn the version that was looked at
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not edit rules everywhere
     * @throws org.custodia.core.event.EventLogException if somebody has changed it meanwhile, or it cannot be written
     */
    public void keep(Escalation escalation, long basedOn, Actor actor) {
        actor.requireEverywhere(Permission.EDIT_RULES);
        escalations.keep(
                List.of(new Versions.Edit<>(ESCALATION, Optional.of(escalation), basedOn)),
                actor,
                List.of(changed("calling", "kept", ESCALATION, ESCALATION, actor)));
        escalate();
    }

    // ---- What is under way

    /**
     * A message, and the alarm that it is about.
     *
     * @param receiver what it is called; its id where it is gone
     * @param alarm as it stands; nothing for one that was finished long ago
     * @param late whether it waits for longer than it should
     */
    public record Sent(Outbox.Entry entry, String receiver, Optional<Alarm> alarm, boolean late) {}

    /**
     * Messages about alarms that the operator may see: those that wait, the oldest first, and then the others, the newest
     * first.
     *
     * @throws org.custodia.core.operator.NotPermittedException as for {@link #receivers}
     */
    public List<Sent> messages(int most, Actor actor) {
        maySee(actor);
        return seen(outbox.all(most), actor);
    }

    /** Those about one alarm; otherwise as {@link #messages}. */
    public List<Sent> about(Alarm alarm, Actor actor) {
        maySee(actor);
        return seen(outbox.of(alarm.id()), actor);
    }

    private List<Sent> seen(List<Outbox.Entry> entries, Actor actor) {
        return entries.stream()
                .map(e -> new Sent(
                        e,
                        receivers
                                .receiver(e.slip().receiver())
                                .map(Receiver::name)
                                .orElse(e.slip().receiver()),
                        alarms.atHand(e.slip().alarm()),
                        e.state() == Outbox.State.WAITING && Dispatch.isLate(e.made(), clock.instant())))
                .filter(s -> s.alarm()
                        .map(a -> alarms.sees(a, actor))
                        .orElse(actor.mayLookEverywhere(Permission.HANDLE_ALARMS)))
                .toList();
    }

    /**
     * Has all that waits tried at once.
     *
     * @throws org.custodia.core.operator.NotPermittedException if the operator may neither handle alarms nor edit rules
     */
    public void tryNow(Actor actor) {
        if (!actor.maySomewhere(Permission.HANDLE_ALARMS)) {
            actor.requireEverywhere(Permission.EDIT_RULES);
        }
        dispatch.hurry();
    }

    /**
     * Gives one up that is wanted no more.
     *
     * @throws MessageException if it does not wait, or is being sent just now
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not edit rules everywhere
     */
    public void drop(long number, Actor actor) {
        actor.requireEverywhere(Permission.EDIT_RULES);
        if (!dispatch.drop(number, Saying.of("message.dropped", actor.name()))) {
            throw new MessageException(Saying.of("message.not-waiting"));
        }
    }
}
