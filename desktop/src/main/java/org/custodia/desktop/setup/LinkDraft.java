package org.custodia.desktop.setup;

import java.net.URI;
import java.util.EnumMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.CancellationException;
import java.util.function.Consumer;
import java.util.function.Supplier;
import javafx.application.Platform;
import javafx.beans.property.BooleanProperty;
import javafx.beans.property.ReadOnlyObjectProperty;
import javafx.beans.property.ReadOnlyObjectWrapper;
import javafx.beans.property.SimpleBooleanProperty;
import javafx.beans.property.SimpleStringProperty;
import javafx.beans.property.StringProperty;
import javafx.collections.FXCollections;
import javafx.collections.ObservableList;
import org.custodia.core.link.Finding;
import org.custodia.core.saying.Saying;
import org.custodia.core.setup.Connections;
import org.custodia.core.setup.LinkBook;
import org.custodia.core.setup.LinkSetup;
import org.custodia.core.setup.LinkSetup.Part;
import org.custodia.core.workplace.PermittedSetup;
import org.custodia.desktop.Work;
import org.custodia.desktop.saying.SayingWords;
import org.custodia.desktop.text.Texts;

/** A connection that somebody enters or changes, what is wrong with it, and what a trial of it finds. Holds no nodes. */
final class LinkDraft {
    private static final Texts TEXTS = Texts.of(LinkDraft.class);
    /** Stands in for an address that is none; it has no host, so that it is found wanting. */
    private static final URI NO_ADDRESS = URI.create("none");

    private final LinksModel links;
    private final Work trials;
    private final PermittedSetup setup;
    private final Optional<LinkBook.Kept> kept;
    private final StringProperty kind = new SimpleStringProperty("access");
    private final StringProperty make = new SimpleStringProperty("");
    private final StringProperty id = new SimpleStringProperty("");
    private final StringProperty name = new SimpleStringProperty("");
    private final StringProperty address = new SimpleStringProperty("");
    private final StringProperty token = new SimpleStringProperty("");
    private final BooleanProperty openAllowed = new SimpleBooleanProperty();
    /** What somebody has confirmed; it goes with the address. */
    private Optional<String> certificate = Optional.empty();

    private final ReadOnlyObjectWrapper<Optional<Connections.Shown>> offered =
            new ReadOnlyObjectWrapper<>(Optional.empty());
    private final ObservableList<Finding> findings = FXCollections.observableArrayList();
    private final ReadOnlyObjectWrapper<Stage> stage = new ReadOnlyObjectWrapper<>(Stage.ENTERING);
    private final ReadOnlyObjectWrapper<String> said = new ReadOnlyObjectWrapper<>("");
    private final ReadOnlyObjectWrapper<Map<Part, String>> problems = new ReadOnlyObjectWrapper<>(Map.of());
    /** Counts trials and changes: what an earlier one still finds is passed over. */
    private int number;

    /** Where somebody stands with it. */
    enum Stage {
        ENTERING,
        TRYING,
        TRIED,
        SAVING,
        SAVED
    }

    LinkDraft(LinksModel links, Work trials, PermittedSetup setup, Optional<LinkBook.Kept> kept) {
        this.links = links;
        this.trials = trials;
        this.setup = setup;
        this.kept = kept;
        make.set(setup.makes().get(0).make());
        kept.map(LinkBook.Kept::link).ifPresent(l -> {
            kind.set(l.kind());
            make.set(l.make());
            id.set(l.id());
            name.set(l.name());
            address.set(l.address().toString());
            openAllowed.set(l.openAllowed());
            certificate = l.certificate();
        });
        for (StringProperty each : List.of(kind, make, id, name, address, token)) {
            each.addListener((o, a, b) -> changed());
        }
        openAllowed.addListener((o, a, b) -> changed());
        address.addListener((o, a, b) -> offered.set(Optional.empty()));
    }

    /** What was found of something else says nothing of this. */
    private void changed() {
        if (stage.get() == Stage.TRIED || stage.get() == Stage.TRYING) {
            number++;
            findings.clear();
            stage.set(Stage.ENTERING);
        }
        said.set("");
        problems.set(Map.of());
    }

    Optional<LinkBook.Kept> kept() {
        return kept;
    }

    List<Connections.Make> makes() {
        return setup.makes();
    }

    StringProperty kind() {
        return kind;
    }

    StringProperty make() {
        return make;
    }

    /** As the system calls itself; may be left empty, and is then asked for. */
    StringProperty id() {
        return id;
    }

    StringProperty name() {
        return name;
    }

    StringProperty address() {
        return address;
    }

    /** What to sign in with; empty to leave it as it is. */
    StringProperty token() {
        return token;
    }

    BooleanProperty openAllowed() {
        return openAllowed;
    }

    /** What a trial has found so far. */
    ObservableList<Finding> findings() {
        return findings;
    }

    ReadOnlyObjectProperty<Stage> stage() {
        return stage.getReadOnlyProperty();
    }

    /** What came of it last, or what keeps it; empty while there is nothing to say. */
    ReadOnlyObjectProperty<String> said() {
        return said.getReadOnlyProperty();
    }

    /** What is wrong with what was entered, part by part. */
    ReadOnlyObjectProperty<Map<Part, String>> problems() {
        return problems.getReadOnlyProperty();
    }

    /** Whether others on the way could read what passes, so that somebody has to allow it. */
    boolean asksToBeOpen() {
        return openAllowed.get()
                || link().problems().stream().anyMatch(p -> p.saying().equals(Saying.of("setup.address-open")));
    }

    private LinkSetup link() {
        return new LinkSetup(
                id.get().strip(),
                kind.get(),
                make.get(),
                name.get().strip(),
                parsed(address.get().strip()),
                kept.map(k -> k.link().paused()).orElse(false),
                openAllowed.get(),
                certificate,
                kept.map(k -> k.link().clockLimit()).orElse(LinkSetup.CLOCK_LIMIT));
    }

    private static URI parsed(String text) {
        try {
            return URI.create(text);
        } catch (IllegalArgumentException e) {
            return NO_ADDRESS;
        }
    }

    private Optional<String> typedToken() {
        return Optional.of(token.get().strip()).filter(t -> !t.isEmpty());
    }

    /** Whether nothing is wrong, but for parts that may be missing so far. */
    private boolean fine(Part... missing) {
        Map<Part, String> found = new EnumMap<>(Part.class);
        link().problems().forEach(p -> found.putIfAbsent(p.part(), SayingWords.of(p.saying())));
        if (kept.isEmpty() || typedToken().isPresent()) {
            LinkSetup.problems(token.get().strip())
                    .forEach(p -> found.putIfAbsent(p.part(), SayingWords.of(p.saying())));
        }
        for (Part part : missing) {
            found.remove(part);
        }
        problems.set(Map.copyOf(found));
        return found.isEmpty();
    }

    /** A certificate that somebody is to confirm, or that took the place of one that was confirmed. */
    ReadOnlyObjectProperty<Optional<Connections.Shown>> offered() {
        return offered.getReadOnlyProperty();
    }

    /** Whether another one was confirmed before. */
    boolean certificateChanged() {
        return certificate.isPresent();
    }

    /** Takes it that the certificate is the right one, and goes on to try. */
    void confirm() {
        offered.get().ifPresent(shown -> {
            certificate = Optional.of(shown.fingerprint());
            offered.set(Optional.empty());
            changed();
            tryIt();
        });
    }

    /** Looks first who it is, where that can be seen before anything is sent. */
    private void secure(Runnable then) {
        LinkSetup link = link();
        if (link.open()) {
            certificate = Optional.empty();
            then.run();
            return;
        }
        int mine = ++number;
        inBackground(mine, () -> setup.certificate(link), shown -> {
            boolean known = certificate.map(shown.fingerprint()::equals).orElse(shown.vouchedFor());
            if (known) {
                then.run();
            } else {
                offered.set(Optional.of(shown));
                stage.set(Stage.TRIED);
                said.set(TEXTS.say(certificateChanged() ? "certificate-changed" : "certificate-unknown"));
            }
        });
    }

    /** Tries it: asks who answers if that is not known yet, then walks through the system. */
    void tryIt() {
        boolean unnamed = id.get().isBlank();
        if (!fine(unnamed ? new Part[] {Part.ID, Part.NAME} : new Part[] {Part.NAME})) {
            return;
        }
        findings.clear();
        said.set("");
        stage.set(Stage.TRYING);
        offered.set(Optional.empty());
        secure(() -> {
            if (unnamed && kept.isEmpty()) {
                ask(this::walk);
            } else {
                walk();
            }
        });
    }

    private void ask(Runnable then) {
        int mine = ++number;
        LinkSetup link = link();
        String with = token.get().strip();
        inBackground(mine, () -> setup.whoAnswers(link, with), answer -> {
            id.set(answer.id());
            if (name.get().isBlank()) {
                name.set(answer.name().isBlank() ? answer.id() : answer.name());
            }
            then.run();
        });
    }

    private void walk() {
        int mine = ++number;
        stage.set(Stage.TRYING);
        LinkSetup link = link();
        LinkSetup named = link.name().isEmpty() ? link.named(link.id()) : link;
        Optional<String> with = typedToken();
        inBackground(
                mine,
                () -> {
                    setup.walk(
                            named,
                            with,
                            f -> Platform.runLater(() -> {
                                if (mine == number) {
                                    findings.add(f);
                                }
                            }));
                    return Boolean.TRUE;
                },
                done -> {
                    stage.set(Stage.TRIED);
                    said.set(verdict());
                });
    }

    private String verdict() {
        long notMet = findings.stream()
                .filter(f -> f.verdict() == Finding.Verdict.NOT_MET)
                .count();
        return notMet == 0 ? TEXTS.say("trial-well") : TEXTS.say("trial-not-met", notMet);
    }

    /** Something that waits for a system. */
    private interface Waits<T> {
        T get() throws InterruptedException;
    }

    private <T> void inBackground(int mine, Waits<T> waits, Consumer<T> then) {
        Supplier<T> task = () -> {
            try {
                return waits.get();
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
                throw new CancellationException();
            }
        };
        trials.load(
                task,
                result -> {
                    if (mine == number) {
                        then.accept(result);
                    }
                },
                why -> {
                    if (mine == number) {
                        stage.set(Stage.TRIED);
                        said.set(why);
                    }
                });
    }

    /** Whether a trial of just this has found nothing that is not as it should be. */
    boolean tried() {
        return stage.get() == Stage.TRIED
                && !findings.isEmpty()
                && findings.stream().noneMatch(f -> f.verdict() == Finding.Verdict.NOT_MET);
    }

    /** Nobody waits for what is being tried any more. */
    void forget() {
        number++;
    }

    /** Keeps it; whoever is not known by name yet is asked first. */
    void save() {
        if (id.get().isBlank() && kept.isEmpty()) {
            if (fine(Part.ID, Part.NAME)) {
                stage.set(Stage.TRYING);
                secure(() -> ask(this::save));
            }
            return;
        }
        if (fine()) {
            keep(link());
        }
    }

    private void keep(LinkSetup link) {
        Optional<String> with = typedToken();
        doing(() -> kept.isPresent()
                ? setup.change(link, with, kept.get().version())
                : setup.add(link, with.orElseThrow()));
    }

    /** Connects to it no more for a while, or again. */
    void pause(boolean paused) {
        kept.ifPresent(k -> doing(() -> setup.change(k.link().paused(paused), Optional.empty(), k.version())));
    }

    /** Takes it off. */
    void remove() {
        kept.ifPresent(k -> doing(() -> {
            setup.remove(k.link().system(), k.version());
            return 0L;
        }));
    }

    private void doing(Supplier<Long> what) {
        int mine = ++number;
        stage.set(Stage.SAVING);
        trials.load(
                what,
                version -> {
                    if (mine == number) {
                        stage.set(Stage.SAVED);
                    }
                    links.refresh();
                },
                why -> {
                    if (mine == number) {
                        stage.set(Stage.ENTERING);
                        said.set(why);
                    }
                    links.refresh();
                });
    }
}
