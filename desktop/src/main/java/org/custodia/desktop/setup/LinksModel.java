package org.custodia.desktop.setup;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneId;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Consumer;
import java.util.stream.Collectors;
import javafx.beans.property.ReadOnlyObjectProperty;
import javafx.beans.property.ReadOnlyObjectWrapper;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventQuery;
import org.custodia.core.link.LinkStatus;
import org.custodia.core.operator.NotPermittedException;
import org.custodia.core.saying.Saying;
import org.custodia.core.setup.Found;
import org.custodia.core.setup.LinkBook;
import org.custodia.core.setup.LinkSetup;
import org.custodia.core.setup.SetupException;
import org.custodia.core.setup.SetupPlan;
import org.custodia.core.site.SystemId;
import org.custodia.core.site.Thing;
import org.custodia.core.workplace.PermittedSetup;
import org.custodia.desktop.Services;
import org.custodia.desktop.Work;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.text.Texts;

/** The connections that are set up, and how they do. Holds no nodes. */
final class LinksModel implements AutoCloseable {
    /** Figures are looked up anew that often while somebody looks. */
    private static final Duration EVERY = Duration.ofSeconds(10);
    /** How long events take to arrive is told from so many. */
    private static final int TOLD_FROM = 50;

    /** Bytes; more is no links file. */
    private static final long LARGEST_FILE = 4L * 1024 * 1024;

    private static final Texts TEXTS = Texts.of(LinksModel.class);

    private final Desk desk;
    private final Work trials = new Work("link trial", 2);
    private final ReadOnlyObjectWrapper<State> state = new ReadOnlyObjectWrapper<>(new State.Loading());
    private Instant askedAt = Instant.MIN;

    /** What is known of them. */
    sealed interface State {
        /** Nothing yet. */
        record Loading() implements State {}

        /** Why they cannot be shown. */
        record Failed(String why) implements State {}

        /** All of them. */
        record Read(List<Line> lines) implements State {}
    }

    /**
     * One connection.
     *
     * @param today how many events it sent today; nothing for a recorder, or where the operator may not know
     * @param delay how long its last events took to arrive; nothing where none came lately
     * @param notUnderstood how many different messages of it could not be understood
     * @param cameras how many a recorder has; nothing for an access system
     */
    record Line(
            LinkBook.Kept kept,
            Optional<Long> today,
            Optional<Duration> delay,
            long notUnderstood,
            Optional<Long> cameras) {
        LinkSetup link() {
            return kept.link();
        }
    }

    LinksModel(Desk desk) {
        this.desk = desk;
    }

    Desk desk() {
        return desk;
    }

    ReadOnlyObjectProperty<State> state() {
        return state.getReadOnlyProperty();
    }

    private PermittedSetup setup() {
        return desk.services().workplace().setup();
    }

    /** Whether the operator may see this at all. */
    boolean mayLook() {
        return setup().mayLook();
    }

    /** Whether the operator may change anything. */
    boolean may() {
        return setup().may();
    }

    /** How a link is doing; nothing for one that is only about to be. From any thread. */
    Optional<LinkStatus> status(LinkSetup link) {
        return desk.services().links().get().stream()
                .filter(s -> s.system().value().equals(link.id()))
                .findFirst();
    }

    /** One that is not there yet; what it speaks is what most do. */
    LinkDraft fresh() {
        return new LinkDraft(this, trials, setup(), Optional.empty());
    }

    /** One that is there, to be changed. */
    LinkDraft draft(LinkBook.Kept kept) {
        return new LinkDraft(this, trials, setup(), Optional.of(kept));
    }

    /** Reads them again, soon. */
    void refresh() {
        askedAt = desk.now();
        Instant now = desk.now();
        ZoneId zone = desk.zone();
        desk.work().latest(this, () -> read(now, zone), state::set, why -> state.set(new State.Failed(why)));
    }

    private State read(Instant now, ZoneId zone) {
        Instant midnight = LocalDate.ofInstant(now, zone).atStartOfDay(zone).toInstant();
        return new State.Read(
                setup().links().stream().map(k -> line(k, midnight, now)).toList());
    }

    private Line line(LinkBook.Kept kept, Instant midnight, Instant now) {
        SystemId system = kept.link().system();
        try {
            if (kept.link().kind().equals("access")) {
                EventQuery today = EventQuery.all().system(system).between(midnight, now.plusSeconds(1));
                // What is read of history after a cut tells nothing of how long it usually takes.
                Instant live = status(kept.link())
                        .filter(s -> s.state() == LinkStatus.State.UP)
                        .map(LinkStatus::since)
                        .orElse(now);
                List<Event> newest = desk.services().log().find(today.newest(TOLD_FROM)).stream()
                        .filter(e -> e.time().isAfter(live))
                        .toList();
                return new Line(
                        kept,
                        Optional.of(desk.services().log().count(today)),
                        delay(newest),
                        notUnderstood(system),
                        Optional.empty());
            }
        } catch (NotPermittedException e) {
            // Then that is not said.
            return new Line(kept, Optional.empty(), Optional.empty(), notUnderstood(system), Optional.empty());
        }
        long cameras = desk.services().sites().get().cameras().stream()
                .filter(c -> c.recorder().equals(system))
                .count();
        return new Line(kept, Optional.empty(), Optional.empty(), notUnderstood(system), Optional.of(cameras));
    }

    private long notUnderstood(SystemId system) {
        return desk.services()
                .workplace()
                .translations()
                .notUnderstood(system, 1)
                .messages();
    }

    /** Writes all that is set up into a file, without anything to sign in with. */
    void export(Path file) {
        Services services = desk.services();
        desk.work()
                .load(
                        () -> {
                            byte[] sheet = setup().write(services.siteName(), services.firstWatch());
                            try {
                                Files.write(file, sheet);
                            } catch (IOException e) {
                                throw new SetupException(Saying.of("sheet.not-written", file.toString()));
                            }
                            return file.getFileName().toString();
                        },
                        name -> desk.notices().note(TEXTS.say("exported-setup", name)),
                        desk.notices()::note);
    }

    /**
     * What a file would change.
     *
     * @param names of what systems have, also where it was left out
     */
    record Planned(SetupPlan plan, Map<Thing, String> names) {}

    /** Reads a links file and says what it would change. */
    void plan(Path file, Consumer<Planned> use) {
        desk.work()
                .load(
                        () -> {
                            try {
                                if (Files.size(file) > LARGEST_FILE) {
                                    throw new SetupException(Saying.of("sheet.too-large", LARGEST_FILE / 1024 / 1024));
                                }
                                SetupPlan plan = setup().plan(Files.readAllBytes(file));
                                return new Planned(
                                        plan,
                                        desk.services().workplace().devices().found().stream()
                                                .collect(Collectors.toMap(Found::thing, Found::name, (a, b) -> a)));
                            } catch (IOException e) {
                                throw new SetupException(Saying.of("sheet.not-read", file.toString()));
                            }
                        },
                        use,
                        desk.notices()::note);
    }

    /** Does what was planned. */
    void carryOut(SetupPlan plan, Runnable done, Consumer<String> failed) {
        desk.work()
                .load(
                        () -> {
                            setup().carryOut(plan);
                            return Boolean.TRUE;
                        },
                        well -> {
                            refresh();
                            done.run();
                        },
                        failed);
    }

    /** How long they took, in the middle. */
    private static Optional<Duration> delay(List<Event> newest) {
        List<Duration> took = newest.stream()
                .map(e -> Duration.between(e.time(), e.received()))
                .sorted()
                .toList();
        return took.isEmpty() ? Optional.empty() : Optional.of(took.get(took.size() / 2));
    }

    /** Called several times a second while it is in sight. */
    void tick() {
        if (askedAt.equals(Instant.MIN) || Duration.between(askedAt, desk.now()).compareTo(EVERY) > 0) {
            refresh();
        }
    }

    /** Called when somebody comes to look. */
    void look() {
        askedAt = Instant.MIN;
        if (!mayLook()) {
            state.set(new State.Read(List.of()));
        }
    }

    @Override
    public void close() {
        trials.close();
    }
}
