package org.custodia.link;

import java.io.IOException;
import java.net.URI;
import java.time.Clock;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.function.Consumer;
import org.custodia.core.link.Finding;
import org.custodia.core.link.SystemLink;
import org.custodia.core.mishap.Threads;
import org.custodia.core.setup.Connections;
import org.custodia.core.site.SystemId;
import org.custodia.wire.Fields;
import org.custodia.wire.LinksFile;

/**
 * Makes connections to one kind of system of one make. Who connects knows systems by these only: a system that speaks
 * something else than the link protocol is a factory more in {@link #ALL}.
 */
public abstract class LinkFactory {
    /** All there are. */
    public static final List<LinkFactory> ALL = List.of(new Access(), new Recorder());

    private final String kind;
    private final String make;

    LinkFactory(String kind, String make) {
        this.kind = kind;
        this.make = make;
    }

    /**
     * Where a system is and with what to sign in there.
     *
     * @param name as people call it
     * @param token never printed
     * @param certificate fingerprint of the only certificate that is taken, where somebody has confirmed one
     */
    public record Destination(SystemId system, String name, URI address, String token, Optional<String> certificate) {
        /** One whose certificate authorities vouch for. */
        public Destination(SystemId system, String name, URI address, String token) {
            this(system, name, address, token, Optional.empty());
        }

        @Override
        public String toString() {
            return system + " at " + address;
        }
    }

    /** The factory for a kind and a make; nothing if there is none. */
    public static Optional<LinkFactory> of(String kind, String make) {
        return ALL.stream()
                .filter(f -> f.kind.equals(kind) && f.make.equals(make))
                .findFirst();
    }

    /**
     * Asks who answers at an address, in the way that all makes so far have in common.
     *
     * @throws IOException if nobody does, or not with a name; {@link LinkException#saying} says it
     */
    public static Connections.Answer whoAnswers(URI address, String token, Optional<String> certificate)
            throws IOException {
        ExecutorService executor = Executors.newCachedThreadPool(Threads.factory("who answers"));
        Destination to = new Destination(new SystemId("unknown"), "", address, token, certificate);
        try (Requests requests = new Requests(to, executor)) {
            Fields hello = requests.fields("hello");
            return new Connections.Answer(
                    Counterpart.need(hello, "system", hello.text("system")),
                    hello.text("name").orElse(""));
        } finally {
            executor.shutdownNow();
        }
    }

    /**
     * Which certificate answers at an address that begins with https. Nothing is sent there but what shows it.
     *
     * @throws IOException if nothing answers, or not so; {@link LinkException#saying} says it
     */
    public static Connections.Shown certificate(URI address) throws IOException {
        return Certificates.shownBy(address);
    }

    /** What it speaks, in the word of links files. */
    public final String make() {
        return make;
    }

    /** What sort of system it connects to, in the word of links files. */
    public final String kind() {
        return kind;
    }

    /** Begins to connect; the link goes on by itself until it is closed. */
    public abstract SystemLink connect(Destination to, Surroundings around);

    /**
     * Prepares a walk through a system from outside.
     *
     * @param actOn a door of it that may be opened once, by the system's own id
     * @param told of each finding, on the thread that walks
     */
    public abstract SystemWalk walk(Destination to, Optional<String> actOn, Clock clock, Consumer<Finding> told);

    private static final class Access extends LinkFactory {
        Access() {
            super("access", LinksFile.LINK_PROTOCOL);
        }

        @Override
        public SystemLink connect(Destination to, Surroundings around) {
            return new HttpAccessLink(to, around);
        }

        @Override
        public SystemWalk walk(Destination to, Optional<String> actOn, Clock clock, Consumer<Finding> told) {
            return new AccessSystemWalk(to, actOn, clock, told);
        }
    }

    private static final class Recorder extends LinkFactory {
        Recorder() {
            super("recorder", LinksFile.LINK_PROTOCOL);
        }

        @Override
        public SystemLink connect(Destination to, Surroundings around) {
            return new HttpRecorderLink(to, around);
        }

        @Override
        public SystemWalk walk(Destination to, Optional<String> actOn, Clock clock, Consumer<Finding> told) {
            return new RecorderWalk(to, clock, told);
        }
    }
}
