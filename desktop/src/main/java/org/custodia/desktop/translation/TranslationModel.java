package org.custodia.desktop.translation;

import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.OptionalDouble;
import java.util.function.Consumer;
import java.util.stream.Stream;
import javafx.beans.property.ObjectProperty;
import javafx.beans.property.ReadOnlyObjectProperty;
import javafx.beans.property.ReadOnlyObjectWrapper;
import javafx.beans.property.SimpleObjectProperty;
import javafx.beans.property.SimpleStringProperty;
import javafx.beans.property.StringProperty;
import javafx.collections.FXCollections;
import javafx.collections.ObservableList;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.Provenance;
import org.custodia.core.event.SentWords;
import org.custodia.core.setup.LinkBook;
import org.custodia.core.setup.TranslationDesk;
import org.custodia.core.site.SystemId;
import org.custodia.core.workplace.PermittedTranslations;
import org.custodia.desktop.control.Rows;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.notice.Notice;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.words.Names;

/** What one system sent, by kind and code, and what that means here. Holds no nodes. */
final class TranslationModel {
    private static final Texts TEXTS = Texts.of(TranslationModel.class);
    private static final int MOST_UNREAD = 200;

    private final Desk desk;
    private final ObservableList<Sender> systems = FXCollections.observableArrayList();
    private final ObjectProperty<Sender> system = new SimpleObjectProperty<>();
    private final StringProperty search = new SimpleStringProperty("");
    private final ObjectProperty<Show> show = new SimpleObjectProperty<>(Show.ALL);
    private final Rows<TranslationDesk.Row> rows = new Rows<>();
    private final ReadOnlyObjectWrapper<State> state = new ReadOnlyObjectWrapper<>(new State.Loading());

    /** A system that sends events. */
    record Sender(SystemId id, String name) {}

    /** What is listed. */
    enum Show {
        ALL,
        /** What means nothing that is known here. */
        UNKNOWN,
        /** What somebody has said the meaning of. */
        SAID
    }

    /** What is known of it. */
    sealed interface State {
        /** Nothing yet. */
        record Loading() implements State {}

        /** Why it cannot be shown. */
        record Failed(String why) implements State {}

        /** There it is. */
        record Read(TranslationDesk.Table table, List<SentWords.Made> versions, SentWords.NotUnderstood notUnderstood)
                implements State {}
    }

    TranslationModel(Desk desk) {
        this.desk = desk;
        system.addListener((o, a, b) -> {
            state.set(new State.Loading());
            rows.fill(List.of());
            refresh();
        });
        search.addListener((o, a, b) -> fill());
        show.addListener((o, a, b) -> fill());
    }

    Desk desk() {
        return desk;
    }

    /** The systems that send events. */
    ObservableList<Sender> systems() {
        return systems;
    }

    /** Whose words are shown. */
    ObjectProperty<Sender> system() {
        return system;
    }

    StringProperty search() {
        return search;
    }

    ObjectProperty<Show> show() {
        return show;
    }

    Rows<TranslationDesk.Row> rows() {
        return rows;
    }

    ReadOnlyObjectProperty<State> state() {
        return state.getReadOnlyProperty();
    }

    /** Whether the operator may see this at all. */
    boolean mayLook() {
        return desk.services().workplace().setup().mayLook();
    }

    /** Whether the operator may change it. */
    boolean may() {
        return desk.services().workplace().setup().may();
    }

    private PermittedTranslations translations() {
        return desk.services().workplace().translations();
    }

    /** What is read of a system in one go. */
    private State read(SystemId of) {
        return new State.Read(
                translations().table(of),
                translations().versions(of),
                translations().notUnderstood(of, MOST_UNREAD));
    }

    /** Reads again which systems there are, and what the one that is shown sent. */
    void refresh() {
        if (!mayLook()) {
            return;
        }
        desk.work()
                .latest(
                        systems,
                        () -> desk.services().workplace().setup().links().stream()
                                .map(LinkBook.Kept::link)
                                .filter(l -> l.kind().equals("access"))
                                .map(l -> new Sender(l.system(), l.name()))
                                .toList(),
                        found -> {
                            if (!found.equals(systems)) {
                                systems.setAll(found);
                            }
                            if (!systems.contains(system.get())) {
                                system.set(systems.isEmpty() ? null : systems.get(0));
                            }
                        },
                        why -> state.set(new State.Failed(why)));
        if (system.get() != null) {
            Sender of = system.get();
            desk.work()
                    .latest(
                            this,
                            () -> read(of.id()),
                            now -> {
                                if (of.equals(system.get())) {
                                    state.set(now);
                                    fill();
                                }
                            },
                            why -> state.set(new State.Failed(why)));
        }
    }

    private Optional<State.Read> read() {
        return state.get() instanceof State.Read now ? Optional.of(now) : Optional.empty();
    }

    int count(Show which) {
        return read().map(r -> (int)
                        r.table().rows().stream().filter(x -> fits(x, which)).count())
                .orElse(0);
    }

    private static boolean fits(TranslationDesk.Row row, Show which) {
        return switch (which) {
            case ALL -> true;
            case UNKNOWN -> !row.sent().known();
            case SAID -> row.rule().isPresent();
        };
    }

    private void fill() {
        String[] wanted = search.get().toLowerCase(Texts.language()).strip().split("\\s+");
        List<TranslationDesk.Row> fitting = new ArrayList<>();
        read().ifPresent(r -> r.table().rows().stream()
                .filter(x -> fits(x, show.get()))
                .filter(x -> {
                    String words = (x.sent().kind() + " " + x.sent().code().orElse("") + " "
                                    + Names.kind(x.sent().means()) + " "
                                    + String.join(" ", x.sent().reasons()))
                            .toLowerCase(Texts.language());
                    return Stream.of(wanted).allMatch(words::contains);
                })
                .forEach(fitting::add));
        rows.fill(fitting);
    }

    /** The kinds that what a system sends can mean, by their names. */
    static List<EventKind> kinds() {
        return Kinds.all().stream()
                .filter(k -> !Provenance.own(k))
                .sorted((a, b) -> Names.kind(a).compareToIgnoreCase(Names.kind(b)))
                .toList();
    }

    /** Finds the latest events that were sent so. */
    void examples(TranslationDesk.Row row, Consumer<List<Event>> use) {
        SystemId of = system.get().id();
        desk.work().latest("examples", () -> translations().examples(of, row.sent()), use, desk.notices()::note);
    }

    /**
     * Says what something means, in the background, since all that is past gets its new meaning too.
     *
     * @param means nothing to take it as it is sent
     */
    void means(TranslationDesk.Row row, Optional<String> means, Optional<String> reason) {
        read().ifPresent(now ->
                inBackground(row.sent().events(), () -> translations().means(row.sent(), means, reason, now.table())));
    }

    /** Lets the translation be again what it was in a version. */
    void putBack(long version) {
        read().ifPresent(now -> inBackground(
                now.table().rows().stream().mapToLong(r -> r.sent().events()).sum(), () -> translations()
                        .putBack(now.table().system(), version, now.table().version())));
    }

    /** Does what changes a translation. */
    @FunctionalInterface
    private interface Change {
        long carryOut();
    }

    private void inBackground(long events, Change change) {
        desk.notices().inBackground(TEXTS.say("changing", events), progress -> change.carryOut(), version -> {
            refresh();
            desk.reread();
            return new Notice(
                    "translated",
                    Notice.Kind.NOTE,
                    TEXTS.say("changed", version),
                    OptionalDouble.empty(),
                    Optional.empty(),
                    List.of());
        });
    }

    /** What people call a kind, and its own name where that is another. */
    static String named(EventKind kind) {
        String name = Names.kind(kind);
        return name.toLowerCase(Locale.ROOT).equals(kind.id()) ? name : TEXTS.say("kind-named", name, kind.id());
    }
}
