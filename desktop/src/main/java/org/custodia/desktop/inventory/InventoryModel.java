package org.custodia.desktop.inventory;

import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.EnumMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalDouble;
import java.util.function.Consumer;
import java.util.function.UnaryOperator;
import java.util.stream.Stream;
import javafx.beans.property.ObjectProperty;
import javafx.beans.property.ReadOnlyObjectProperty;
import javafx.beans.property.ReadOnlyObjectWrapper;
import javafx.beans.property.SimpleObjectProperty;
import javafx.beans.property.SimpleStringProperty;
import javafx.beans.property.StringProperty;
import org.custodia.core.event.Cancellation;
import org.custodia.core.link.LinkStatus;
import org.custodia.core.operator.NotPermittedException;
import org.custodia.core.setup.Found;
import org.custodia.core.setup.Neighbours;
import org.custodia.core.setup.SetupException;
import org.custodia.core.setup.Trial;
import org.custodia.core.site.Lookout;
import org.custodia.core.site.Placing;
import org.custodia.core.site.Site;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.SystemId;
import org.custodia.core.site.Thing;
import org.custodia.core.site.Walk;
import org.custodia.core.workplace.PermittedDevices;
import org.custodia.desktop.control.Rows;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.notice.Notice;
import org.custodia.desktop.text.Texts;

/** What systems have, as far as it fits what is looked for; and saying where it is. Holds no nodes. */
final class InventoryModel {
    private static final Texts TEXTS = Texts.of(InventoryModel.class);

    private final Desk desk;
    private final StringProperty search = new SimpleStringProperty("");
    private final ObjectProperty<Show> show = new SimpleObjectProperty<>(Show.ALL);
    private final Rows<Found> rows = new Rows<>();
    private final ReadOnlyObjectWrapper<State> state = new ReadOnlyObjectWrapper<>(new State.Loading());
    private List<Entry> all = List.of();
    private final Map<Show, Integer> counts = new EnumMap<>(Show.class);

    /** Which things are listed. */
    enum Show {
        ALL,
        NEW,
        CHANGED,
        GONE,
        LEFT_OUT
    }

    /** What is known of them. */
    sealed interface State {
        /** Nothing yet. */
        record Loading() implements State {}

        /** Why they cannot be shown. */
        record Failed(String why) implements State {}

        /** There they are. */
        record Read() implements State {}
    }

    /** A thing, and the words by which it is found. */
    private record Entry(Found found, String words) {}

    InventoryModel(Desk desk) {
        this.desk = desk;
        search.addListener((o, a, b) -> fill());
        show.addListener((o, a, b) -> fill());
    }

    Desk desk() {
        return desk;
    }

    StringProperty search() {
        return search;
    }

    ObjectProperty<Show> show() {
        return show;
    }

    /** What fits, by name. */
    Rows<Found> rows() {
        return rows;
    }

    ReadOnlyObjectProperty<State> state() {
        return state.getReadOnlyProperty();
    }

    /** How many things would be listed, whatever is searched for. */
    int count(Show which) {
        return counts.getOrDefault(which, 0);
    }

    private PermittedDevices devices() {
        return desk.services().workplace().devices();
    }

    /** Whether the operator may see any of this. */
    boolean mayLook() {
        return devices().mayLookSomewhere();
    }

    /** Whether the operator may say where a thing is. */
    boolean may(Found found) {
        return devices().may(found.site());
    }

    SiteModel sites() {
        return desk.services().sites().get();
    }

    /** All sites, by name. */
    List<Site> allSites() {
        return sites().sites().stream().sorted(Comparator.comparing(Site::name)).toList();
    }

    String siteName(SiteId site) {
        return sites().sites().stream()
                .filter(s -> s.id().equals(site))
                .findFirst()
                .map(Site::name)
                .orElse(site.value());
    }

    /** What people call a system; its id, where it is not connected to any more. */
    String systemName(SystemId system) {
        return desk.services().links().get().stream()
                .filter(l -> l.system().equals(system))
                .findFirst()
                .map(LinkStatus::name)
                .orElse(system.value());
    }

    /** What a thing is, in words. */
    static String sort(Found found) {
        if (found.said() instanceof Found.SaidDevice device) {
            String kind = device.device().kind();
            return kind.isEmpty()
                    ? TEXTS.say("sort.device")
                    : TEXTS.known("unit." + kind).orElse(kind);
        }
        return TEXTS.say("sort." + found.thing().sort().name().toLowerCase(Locale.ROOT));
    }

    /** Reads all of it again, soon. */
    void refresh() {
        if (!mayLook()) {
            return;
        }
        desk.work()
                .latest(
                        this,
                        () -> devices().found().stream()
                                .map(f -> new Entry(f, words(f)))
                                .toList(),
                        entries -> {
                            all = entries;
                            state.set(new State.Read());
                            count();
                            fill();
                        },
                        why -> state.set(new State.Failed(why)));
    }

    private String words(Found f) {
        return Stream.concat(
                        Stream.of(
                                f.name(),
                                f.said().name(),
                                f.ownId(),
                                sort(f),
                                systemName(f.thing().system()),
                                siteName(f.site())),
                        f.said().parts().stream())
                .reduce((a, b) -> a + " " + b)
                .orElse("")
                .toLowerCase(Texts.language());
    }

    private void count() {
        counts.clear();
        for (Entry entry : all) {
            for (Show which : Show.values()) {
                if (fits(entry.found(), which)) {
                    counts.merge(which, 1, Integer::sum);
                }
            }
        }
    }

    private static boolean fits(Found found, Show which) {
        return switch (which) {
            case ALL -> true;
            case NEW -> found.news() == Found.News.NEW;
            case CHANGED -> found.news() == Found.News.CHANGED;
            case GONE -> found.news() == Found.News.GONE;
            case LEFT_OUT -> found.placing().leftOut();
        };
    }

    private void fill() {
        String[] wanted = search.get().toLowerCase(Texts.language()).strip().split("\\s+");
        List<Found> fitting = new ArrayList<>();
        for (Entry entry : all) {
            if (fits(entry.found(), show.get()) && Stream.of(wanted).allMatch(entry.words()::contains)) {
                fitting.add(entry.found());
            }
        }
        rows.fill(fitting);
    }

    /** The thing as it stands now, if it is still there. */
    Optional<Found> now(Thing thing) {
        return all.stream()
                .map(Entry::found)
                .filter(f -> f.thing().equals(thing))
                .findFirst();
    }

    /**
     * Says of things where they are, and that they have been seen.
     *
     * @param how what is to be said of each, from what was said before
     */
    void place(List<Found> things, UnaryOperator<Placing> how, Runnable done, Consumer<String> failed) {
        desk.work()
                .load(
                        () -> {
                            devices()
                                    .place(
                                            things.stream()
                                                    .map(f -> how.apply(f.placing()))
                                                    .toList(),
                                            things);
                            devices().seen(things);
                            return Boolean.TRUE;
                        },
                        well -> {
                            refresh();
                            done.run();
                        },
                        why -> {
                            refresh();
                            failed.accept(why);
                        });
    }

    /** Marks what is new, changed or gone as seen. */
    void seen(Collection<Found> things, Consumer<String> failed) {
        change(() -> devices().seen(things), this::refresh, failed);
    }

    void addSite(String name, String zone, Consumer<Site> done, Consumer<String> failed) {
        desk.work().load(() -> devices().addSite(name, zone), done, failed);
    }

    /** Says of doors that they are neighbours. */
    void neighbours(Collection<Walk> walks, Runnable done, Consumer<String> failed) {
        change(() -> devices().neighbours(walks), done, failed);
    }

    void noNeighbours(Walk walk, Runnable done, Consumer<String> failed) {
        change(() -> devices().noNeighbours(walk), done, failed);
    }

    /** The cameras that show a device or a zone. */
    List<Lookout> lookouts(Lookout.Subject of) {
        return sites().lookouts(of);
    }

    /** The latest trial of a camera with what it shows, where the operator may see that. */
    Optional<Trial> trial(Lookout lookout) {
        try {
            return devices().trial(lookout);
        } catch (NotPermittedException | SetupException e) {
            return Optional.empty();
        }
    }

    void shows(Lookout lookout, Runnable done, Consumer<String> failed) {
        change(() -> devices().shows(lookout), done, failed);
    }

    void showsNoMore(Lookout lookout, Runnable done, Consumer<String> failed) {
        change(() -> devices().showsNoMore(lookout), done, failed);
    }

    /** Keeps what somebody said when a device was tripped. */
    void tried(Lookout lookout, Trial trial, Runnable done, Consumer<String> failed) {
        change(() -> devices().tried(lookout, trial).join(), done, failed);
    }

    private void change(Runnable how, Runnable done, Consumer<String> failed) {
        desk.work()
                .load(
                        () -> {
                            how.run();
                            return Boolean.TRUE;
                        },
                        well -> done.run(),
                        failed);
    }

    /**
     * Looks in history which doors are neighbours, in the background.
     *
     * @param look shows what was found, when somebody wants to see it
     */
    void proposeNeighbours(Consumer<List<Neighbours.Proposal>> look) {
        desk.notices()
                .inBackground(
                        TEXTS.say("looking-for-neighbours"),
                        progress -> devices().proposedNeighbours(progress::at, new Cancellation()),
                        found -> new Notice(
                                "neighbours",
                                Notice.Kind.NOTE,
                                TEXTS.say("neighbours-found", found.size()),
                                OptionalDouble.empty(),
                                Optional.empty(),
                                found.isEmpty()
                                        ? List.of()
                                        : List.of(new Notice.Action(
                                                TEXTS.say("neighbours-look"), () -> look.accept(found)))));
    }
}
