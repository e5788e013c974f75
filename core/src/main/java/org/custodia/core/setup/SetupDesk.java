package org.custodia.core.setup;

import java.time.Clock;
import java.util.Collection;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Consumer;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.OnRecord;
import org.custodia.core.link.ClockSource;
import org.custodia.core.link.Finding;
import org.custodia.core.operator.Actor;
import org.custodia.core.operator.Permission;
import org.custodia.core.saying.Saying;
import org.custodia.core.saying.SayingException;
import org.custodia.core.site.SystemId;

/**
 * Where systems are connected to and taken off, while everything else goes on. Each change is a version in the book and a line
 * in the log. Changes come one after the other; two that set out from the same version do not both get through.
 */
public final class SetupDesk {
    private final LinkBook book;
    private final Secrets secrets;
    private final Connections connections;
    private final EventIntake intake;
    private final Clock clock;

    public SetupDesk(LinkBook book, Secrets secrets, Connections connections, EventIntake intake, Clock clock) {
        this.book = book;
        this.secrets = secrets;
        this.connections = connections;
        this.intake = intake;
        this.clock = clock;
    }

    /** Opens all connections that are set up; done once. What cannot be opened says why and keeps nobody else waiting. */
    public synchronized void begin() {
        forgetOthers();
        book.all().stream().map(LinkBook.Kept::link).forEach(this::connect);
    }

    /** Forgets tokens of connections that are gone or lead elsewhere now; a process that ended in the middle left them. */
    private void forgetOthers() {
        Set<String> wanted = book.all().stream().map(k -> k.link().secretName()).collect(Collectors.toSet());
        try {
            secrets.names().stream()
                    .filter(n -> n.startsWith("link/") && !wanted.contains(n))
                    .forEach(secrets::remove);
        } catch (SecretsException e) {
            // Each connection says for itself that its token cannot be read.
        }
    }

    /**
     * Takes over what a links file has, before {@link #begin} or after it.
     *
     * @param tokens with what to sign in, by the systems' ids; not for each
     */
    public synchronized void take(Collection<LinkSetup> ofFile, Map<String, String> tokens) {
        Map<String, LinkSetup> before = byId();
        book.take(ofFile);
        Map<String, LinkSetup> now = byId();
        forgetOthers();
        for (LinkSetup link : ofFile) {
            String token = tokens.get(link.id());
            // If an operator has changed the destination, the token of the file is not used for it.
            boolean meant = Optional.ofNullable(now.get(link.id()))
                    .filter(link::sameDestination)
                    .isPresent();
            if (token != null && meant) {
                keepSecret(link.secretName(), token);
            }
        }
        before.keySet().stream()
                .filter(id -> !now.containsKey(id))
                .forEach(id -> connections.end(new SystemId(id), Saying.of("link.removed")));
    }

    private Map<String, LinkSetup> byId() {
        return book.all().stream().map(LinkBook.Kept::link).collect(Collectors.toMap(LinkSetup::id, l -> l));
    }

    private void connect(LinkSetup link) {
        if (link.paused()) {
            connections.leave(link);
            return;
        }
        try {
            Optional<String> token = secrets.get(link.secretName());
            if (token.isPresent()) {
                connections.open(link, token.get());
            } else {
                connections.cannotOpen(link, Saying.of("link.token-missing"));
            }
        } catch (SecretsException e) {
            connections.cannotOpen(link, e.saying());
        }
    }

    private void keepSecret(String name, String token) {
        if (!readable(name).equals(Optional.of(token))) {
            secrets.put(name, token);
        }
    }

    /** A secret that is there and can be read. */
    private Optional<String> readable(String name) {
        try {
            return secrets.get(name);
        } catch (SecretsException e) {
            return Optional.empty();
        }
    }

    /** Whether there is a token that may be sent to where a connection leads. */
    boolean hasToken(LinkSetup link) {
        return readable(link.secretName()).isPresent();
    }

    /** What can be connected to. */
    public List<Connections.Make> makes() {
        return connections.makes();
    }

    /**
     * The connections that are set up.
     *
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not see that
     */
    public List<LinkBook.Kept> links(Actor actor) {
        actor.requireToLookEverywhere(Permission.SET_UP);
        return book.all();
    }

    /**
     * Connects to a system that was not connected to.
     *
     * @return its version
     * @throws SetupException if that cannot be, or one of that id is set up
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not set up
     */
    public synchronized long add(LinkSetup link, String token, Actor actor) {
        actor.requireEverywhere(Permission.SET_UP);
        check(link, Optional.of(token));
        if (byId().containsKey(link.id())) {
            throw new SetupException(Saying.of("setup.link-there", link.id()));
        }
        long version = save(link, Optional.of(token), book.version(link.system()), actor, "added");
        connect(link);
        return version;
    }

    /**
     * Changes a connection, which is closed and opened again where that makes a difference.
     *
     * @param token nothing to leave it as it is
     * @param basedOn the version that was looked at
     * @return the new version
     * @throws SetupException if that cannot be, or there is none
     * @throws org.custodia.core.event.EventLogException if somebody has changed it meanwhile
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not set up
     */
    public synchronized long change(LinkSetup link, Optional<String> token, long basedOn, Actor actor) {
        actor.requireEverywhere(Permission.SET_UP);
        check(link, token);
        LinkSetup before = there(link.id());
        if (before.equals(link) && token.isEmpty()) {
            return basedOn;
        }
        String change = before.paused() == link.paused() ? "changed" : link.paused() ? "paused" : "resumed";
        long version = save(link, token, basedOn, actor, change);
        if (link.paused()) {
            if (!before.paused()) {
                connections.pause(link, Saying.of("link.paused", actor.name()));
            }
        } else {
            connect(link);
        }
        return version;
    }

    /**
     * Takes a connection off. What its system told stays in the log; its doors and cameras are gone from now on.
     *
     * @throws SetupException if there is none
     * @throws org.custodia.core.event.EventLogException if somebody has changed it meanwhile
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not set up
     */
    public synchronized void remove(SystemId system, long basedOn, Actor actor) {
        actor.requireEverywhere(Permission.SET_UP);
        LinkSetup before = there(system.value());
        book.end(system, basedOn, actor, fact("removed", before, actor));
        forgetSecret(before.secretName());
        connections.end(system, Saying.of("link.removed"));
    }

    /**
     * Puts a connection back as it was before a change. One that was taken off comes back without what it signed in with,
     * which has to be entered again; one that moved to another address likewise.
     *
     * @param before nothing to take it off
     * @param basedOn the version that is taken back
     * @throws org.custodia.core.event.EventLogException if somebody has changed it meanwhile
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not set up
     */
    synchronized void putBack(String id, Optional<LinkSetup> before, long basedOn, Actor actor) {
        actor.requireEverywhere(Permission.SET_UP);
        if (before.isEmpty()) {
            remove(new SystemId(id), basedOn, actor);
            return;
        }
        LinkSetup link = before.get();
        put(link, basedOn, "taken-back", actor);
    }

    /**
     * Connects as a file says, which has nothing to sign in with: where a connection goes elsewhere than it did, or is new,
     * that has to be entered before it connects.
     *
     * @throws SetupException if that cannot be
     * @throws org.custodia.core.event.EventLogException if somebody has changed it meanwhile
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not set up
     */
    synchronized void takeIn(LinkSetup link, long basedOn, Actor actor) {
        actor.requireEverywhere(Permission.SET_UP);
        check(link, Optional.empty());
        put(link, basedOn, byId().containsKey(link.id()) ? "changed" : "added", actor);
    }

    private void put(LinkSetup link, long basedOn, String what, Actor actor) {
        Optional<LinkSetup> now = Optional.ofNullable(byId().get(link.id()));
        book.keep(link, basedOn, actor, fact(what, link, actor));
        forget(now, link);
        if (link.paused()) {
            connections.pause(link, Saying.of("link.paused", actor.name()));
        } else {
            connect(link);
        }
    }

    /** What is wrong with a connection; nothing if it can be. */
    Optional<Saying> problem(LinkSetup link) {
        try {
            check(link, Optional.empty());
            return Optional.empty();
        } catch (SetupException e) {
            return Optional.of(e.saying());
        }
    }

    /** The number of the newest version of a connection; 0 if there never was one. */
    long version(SystemId system) {
        return book.version(system);
    }

    /**
     * Tries a connection without making it. Waits for the end.
     *
     * @param token nothing to use what is kept for that system at that address; what is kept is sent nowhere else
     * @throws SetupException if it cannot be tried
     * @throws InterruptedException if whoever waits is interrupted, which ends it
     */
    public void walk(LinkSetup link, Optional<String> token, Actor actor, Consumer<Finding> told)
            throws InterruptedException {
        actor.requireEverywhere(Permission.SET_UP);
        check(link, token);
        connections.walk(link, token.orElseGet(() -> kept(link)), told);
    }

    /**
     * Who answers at an address that somebody is about to connect to; what the system is called need not be known for that.
     *
     * @throws SetupException if nobody does; it says why
     */
    public Connections.Answer whoAnswers(LinkSetup link, String token, Actor actor) throws InterruptedException {
        actor.requireEverywhere(Permission.SET_UP);
        Stream.concat(
                        link.problems().stream().filter(p -> p.part() == LinkSetup.Part.ADDRESS),
                        LinkSetup.problems(token).stream())
                .findFirst()
                .ifPresent(p -> {
                    throw new SetupException(p.saying());
                });
        return connections.whoAnswers(link, token);
    }

    /**
     * Which certificate answers at an address, before anything is sent there.
     *
     * @throws SetupException if nothing answers there, or not by https; it says why
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not set up
     */
    public Connections.Shown certificate(LinkSetup link, Actor actor) {
        actor.requireEverywhere(Permission.SET_UP);
        link.problems().stream()
                .filter(p -> p.part() == LinkSetup.Part.ADDRESS)
                .findFirst()
                .ifPresent(p -> {
                    throw new SetupException(p.saying());
                });
        return connections.certificate(link);
    }

    /**
     * Where a system's clock takes the time from, as it said last; nothing where it does not say or is not connected to.
     *
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not see that
     */
    public Optional<ClockSource> clockSource(SystemId system, Actor actor) {
        actor.requireToLookEverywhere(Permission.SET_UP);
        return connections.clockSource(system);
    }

    /**
     * Has a system set its clock now. Waits for that.
     *
     * @throws SetupException if there is no link to it, or it does not; it says why
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not set up
     */
    public void syncClock(SystemId system, Actor actor) {
        actor.requireEverywhere(Permission.SET_UP);
        LinkSetup link = there(system.value());
        intake.record(fact("clock-set", link, actor));
        connections.syncClock(system);
    }

    /** What is kept for a system, which goes to where it is kept for and nowhere else. */
    private String kept(LinkSetup link) {
        LinkSetup known = there(link.id());
        if (!known.sameDestination(link)) {
            throw new SetupException(Saying.of("setup.token-again"));
        }
        return secrets.get(link.secretName()).orElseThrow(() -> new SetupException(Saying.of("setup.token-missing")));
    }

    private LinkSetup there(String id) {
        return Optional.ofNullable(byId().get(id))
                .orElseThrow(() -> new SetupException(Saying.of("setup.no-link", id)));
    }

    private void check(LinkSetup link, Optional<String> token) {
        Map<LinkSetup.Part, Saying> wrong = new HashMap<>();
        link.problems().forEach(p -> wrong.putIfAbsent(p.part(), p.saying()));
        token.map(LinkSetup::problems).orElse(List.of()).forEach(p -> wrong.putIfAbsent(p.part(), p.saying()));
        if (!connections.makes().contains(new Connections.Make(link.kind(), link.make()))) {
            wrong.put(LinkSetup.Part.MAKE, Saying.of("setup.make-unknown", link.make()));
        }
        for (LinkSetup.Part part : LinkSetup.Part.values()) {
            if (wrong.containsKey(part)) {
                throw new SetupException(wrong.get(part));
            }
        }
    }

    /** Keeps both, or, where one cannot be kept, neither. */
    private long save(LinkSetup link, Optional<String> token, long basedOn, Actor actor, String change) {
        Optional<LinkSetup> now = Optional.ofNullable(byId().get(link.id()));
        if (now.isPresent() && now.filter(link::sameDestination).isEmpty() && token.isEmpty()) {
            throw new SetupException(Saying.of("setup.token-again"));
        }
        String name = link.secretName();
        Optional<String> before = token.flatMap(t -> readable(name));
        boolean putToken = token.isPresent() && book.version(link.system()) == basedOn;
        if (putToken) {
            secrets.put(name, token.get());
        }
        long version;
        try {
            version = book.keep(link, basedOn, actor, fact(change, link, actor));
        } catch (SayingException e) {
            if (putToken) {
                before.ifPresentOrElse(b -> secrets.put(name, b), () -> secrets.remove(name));
            }
            throw e;
        }
        forget(now, link);
        return version;
    }

    /** Forgets the token of a destination to which a connection no longer leads. */
    private void forget(Optional<LinkSetup> before, LinkSetup now) {
        before.filter(b -> !b.sameDestination(now)).ifPresent(b -> forgetSecret(b.secretName()));
    }

    private void forgetSecret(String name) {
        try {
            secrets.remove(name);
        } catch (SecretsException e) {
            // It is sent nowhere else, and the next start forgets it.
        }
    }

    private Event.Builder fact(String change, LinkSetup link, Actor actor) {
        return OnRecord.setUp("link", change, actor, clock.instant())
                .detail("system", link.id())
                .detail("name", link.name())
                .detail("address", link.address().toString());
    }
}
