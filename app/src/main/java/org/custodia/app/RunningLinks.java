package org.custodia.app;

import java.io.IOException;
import java.time.Clock;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Consumer;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Kinds;
import org.custodia.core.link.ClockSource;
import org.custodia.core.link.Finding;
import org.custodia.core.link.LinkStatus;
import org.custodia.core.link.SystemLink;
import org.custodia.core.saying.Saying;
import org.custodia.core.saying.Says;
import org.custodia.core.setup.Connections;
import org.custodia.core.setup.LinkSetup;
import org.custodia.core.setup.SetupException;
import org.custodia.core.site.SystemId;
import org.custodia.link.LinkException;
import org.custodia.link.LinkFactory;
import org.custodia.link.Surroundings;
import org.custodia.link.SystemWalk;

/** The connections that there are, each opened and closed while the others go on. Safe for use by several threads. */
final class RunningLinks implements Connections, AutoCloseable {
    /** What is known of one: the link itself, or why there is none. */
    private record Running(LinkSetup setup, Optional<SystemLink> link, LinkStatus otherwise) {
        LinkStatus status() {
            return link.map(SystemLink::status).orElse(otherwise);
        }
    }

    private final Surroundings around;
    private final Consumer<SystemId> gone;
    private final Clock clock;
    private final Map<SystemId, Running> running = new HashMap<>();
    private boolean closed;

    /**
     * @param gone told of a system that is connected to no more
     */
    RunningLinks(Surroundings around, Consumer<SystemId> gone) {
        this.around = around;
        this.gone = gone;
        this.clock = around.clock();
    }

    /** A system's link, if there is one. */
    synchronized Optional<SystemLink> link(SystemId system) {
        return Optional.ofNullable(running.get(system)).flatMap(Running::link);
    }

    /** How each is doing, by kind and name. */
    synchronized List<LinkStatus> statuses() {
        return running.values().stream()
                .sorted(Comparator.comparing((Running r) -> r.setup().kind())
                        .thenComparing(r -> r.setup().name())
                        .thenComparing(r -> r.setup().id()))
                .map(Running::status)
                .toList();
    }

    @Override
    public List<Make> makes() {
        return LinkFactory.ALL.stream().map(f -> new Make(f.kind(), f.make())).toList();
    }

    @Override
    public Optional<ClockSource> clockSource(SystemId system) {
        return link(system).flatMap(SystemLink::clockSource);
    }

    @Override
    public void syncClock(SystemId system) {
        SystemLink link =
                link(system).orElseThrow(() -> new SetupException(Saying.of("setup.no-link", system.value())));
        try {
            link.syncClock();
        } catch (IOException e) {
            throw new SetupException(Says.of(e, Saying.of("link.broke")));
        }
    }

    private static LinkFactory factory(LinkSetup setup) {
        return LinkFactory.of(setup.kind(), setup.make()).orElseThrow();
    }

    private static LinkFactory.Destination destination(LinkSetup setup, String token) {
        return new LinkFactory.Destination(setup.system(), setup.name(), setup.address(), token, setup.certificate());
    }

    @Override
    public void open(LinkSetup setup, String token) {
        take(setup.system()).ifPresent(SystemLink::close);
        SystemLink link = factory(setup).connect(destination(setup, token), around);
        if (!keep(new Running(setup, Optional.of(link), link.status()))) {
            link.close();
        }
    }

    @Override
    public void cannotOpen(LinkSetup setup, Saying why) {
        take(setup.system()).ifPresent(SystemLink::close);
        LinkStatus status = LinkStatus.starting(setup.system(), setup.name(), clock.instant())
                .failed(why);
        keep(new Running(setup, Optional.empty(), status));
        gone(Kinds.LINK_LOST, setup.system(), why);
        around.statusListener().accept(status);
    }

    private synchronized boolean keep(Running one) {
        if (!closed) {
            running.put(one.setup().system(), one);
        }
        return !closed;
    }

    private synchronized Optional<SystemLink> take(SystemId system) {
        return Optional.ofNullable(running.remove(system)).flatMap(Running::link);
    }

    @Override
    public void leave(LinkSetup setup) {
        LinkStatus status = LinkStatus.starting(setup.system(), setup.name(), clock.instant())
                .closed();
        keep(new Running(setup, Optional.empty(), status));
        around.statusListener().accept(status);
    }

    @Override
    public void pause(LinkSetup setup, Saying why) {
        take(setup.system()).ifPresent(SystemLink::close);
        leave(setup);
        gone(Kinds.LINK_CLOSED, setup.system(), why);
    }

    /** Nobody knows from now on what its doors do. */
    private void gone(EventKind kind, SystemId system, Saying why) {
        around.intake()
                .recordInOrder(Event.of(new EventKey(SystemId.CUSTODIA, 1, 0), kind, clock.instant())
                        .detail("system", system.value())
                        .reason(why.code())
                        .detail("said", why.text()));
    }

    @Override
    public void end(SystemId system, Saying why) {
        take(system).ifPresent(SystemLink::close);
        gone(Kinds.LINK_CLOSED, system, why);
        gone.accept(system);
    }

    @Override
    public Shown certificate(LinkSetup setup) {
        try {
            return LinkFactory.certificate(setup.address());
        } catch (IOException e) {
            throw new SetupException(LinkException.saying(e));
        }
    }

    @Override
    public Answer whoAnswers(LinkSetup setup, String token) throws InterruptedException {
        try {
            return LinkFactory.whoAnswers(setup.address(), token, setup.certificate());
        } catch (IOException e) {
            throw new SetupException(LinkException.saying(e));
        }
    }

    @Override
    public void walk(LinkSetup setup, String token, Consumer<Finding> told) throws InterruptedException {
        try (SystemWalk walk = factory(setup).walk(destination(setup, token), Optional.empty(), clock, told)) {
            walk.walk();
        }
    }

    @Override
    public void close() {
        List<Running> all;
        synchronized (this) {
            closed = true;
            all = List.copyOf(running.values());
        }
        all.forEach(r -> r.link().ifPresent(SystemLink::close));
    }
}
