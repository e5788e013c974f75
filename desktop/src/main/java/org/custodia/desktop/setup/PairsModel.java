package org.custodia.desktop.setup;

import java.time.Duration;
import java.util.Arrays;
import java.util.Comparator;
import java.util.List;
import java.util.Locale;
import java.util.Set;
import java.util.function.Consumer;
import java.util.stream.Collectors;
import javafx.beans.property.BooleanProperty;
import javafx.beans.property.SimpleBooleanProperty;
import javafx.beans.property.SimpleStringProperty;
import javafx.beans.property.StringProperty;
import javafx.collections.FXCollections;
import javafx.collections.ObservableList;
import org.custodia.core.saying.Saying;
import org.custodia.core.setup.PairBook;
import org.custodia.core.setup.SetupException;
import org.custodia.core.site.Camera;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.Crop;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Pairing;
import org.custodia.core.site.Side;
import org.custodia.core.site.SiteModel;
import org.custodia.core.workplace.PermittedPairs;
import org.custodia.desktop.desk.Desk;

/** Which cameras show which doors: the doors that are looked for, and the cameras that may show one. Holds no nodes. */
final class PairsModel {
    /** More are not read by anybody; another letter finds the others. */
    static final int MOST_CAMERAS = 60;

    private final Desk desk;
    private final StringProperty search = new SimpleStringProperty("");
    private final BooleanProperty onlyWithout = new SimpleBooleanProperty();
    private final ObservableList<Door> doors = FXCollections.observableArrayList();

    PairsModel(Desk desk) {
        this.desk = desk;
        search.addListener((o, a, b) -> refresh());
        onlyWithout.addListener((o, a, b) -> refresh());
        refresh();
    }

    Desk desk() {
        return desk;
    }

    /** Words of which each must stand in the name of a door, or of its site. */
    StringProperty search() {
        return search;
    }

    /** Whether only doors are wanted that no camera shows. */
    BooleanProperty onlyWithout() {
        return onlyWithout;
    }

    /** The doors that fit, by site and name. */
    ObservableList<Door> doors() {
        return doors;
    }

    private SiteModel sites() {
        return desk.services().sites().get();
    }

    private PermittedPairs kept() {
        return desk.services().workplace().pairs();
    }

    /** How many doors no camera shows. */
    long without() {
        SiteModel sites = sites();
        return sites.doors().stream()
                .filter(d -> sites.pairings(d.id()).isEmpty())
                .count();
    }

    boolean mayPair(Door door) {
        return kept().may(door.site());
    }

    /** Looks again, since places or what is looked for have changed. */
    void refresh() {
        SiteModel sites = sites();
        List<String> wanted = words(search.get());
        List<Door> fitting = sites.doors().stream()
                .filter(d -> !onlyWithout.get() || sites.pairings(d.id()).isEmpty())
                .filter(d -> fits(wanted, d.name() + " " + siteName(d)))
                .sorted(Comparator.comparing(this::siteName)
                        .thenComparing(Door::name, String.CASE_INSENSITIVE_ORDER)
                        .thenComparing(d -> d.id().value()))
                .toList();
        if (!fitting.equals(doors)) {
            doors.setAll(fitting);
        }
    }

    /** What a door's site is called. */
    String siteName(Door door) {
        return sites().siteOf(door.id()).map(s -> s.name()).orElse("");
    }

    /** The cameras that show a door, the most telling first. */
    List<Pairing> pairings(Door door) {
        return sites().pairings(door.id());
    }

    String cameraName(CameraId camera) {
        return sites().camera(camera).map(Camera::name).orElse(camera.value());
    }

    /**
     * Cameras that may show a door, the likeliest first: not paired with it yet, of its site, of a like name. Names only put them in order; whoever
     * pairs looks at the picture.
     *
     * @param looked for, words of which each must stand in a camera's name
     */
    List<Camera> cameras(Door door, String looked) {
        List<String> wanted = words(looked);
        Set<String> like = Set.copyOf(words(door.name()));
        Set<CameraId> paired = pairings(door).stream().map(Pairing::camera).collect(Collectors.toSet());
        return sites().cameras().stream()
                .filter(c -> fits(wanted, c.name()))
                .sorted(Comparator.comparing((Camera c) -> paired.contains(c.id()))
                        .thenComparing(c -> !c.site().equals(door.site()))
                        .thenComparing(c ->
                                -words(c.name()).stream().filter(like::contains).count())
                        .thenComparing(c -> words(c.name()).size())
                        .thenComparing(Camera::name, String.CASE_INSENSITIVE_ORDER)
                        .thenComparing(c -> c.id().value()))
                .limit(MOST_CAMERAS)
                .toList();
    }

    private static List<String> words(String text) {
        return Arrays.stream(text.toLowerCase(Locale.ROOT).split("[\\s,.;:/-]+"))
                .filter(w -> !w.isEmpty())
                .collect(Collectors.toList());
    }

    private static boolean fits(List<String> wanted, String name) {
        String in = name.toLowerCase(Locale.ROOT);
        return wanted.stream().allMatch(in::contains);
    }

    /** Pairs a door with a camera that sees it in some way. */
    void pair(Door door, Camera camera, Pairing.View view, Runnable done, Consumer<String> failed) {
        // Whoever comes out is seen from inside.
        Side side = view == Pairing.View.INSIDE ? Side.EXIT : Side.ENTRY;
        Pairing pairing =
                new Pairing(door.id(), camera.id(), side, view, Pairing.DEFAULT_LEAD_IN, Crop.WHOLE, Duration.ZERO);
        desk.work().load(() -> kept().pair(pairing), version -> done.run(), failed);
    }

    /** Takes a pair off. */
    void unpair(Pairing pairing, Runnable done, Consumer<String> failed) {
        desk.work().load(() -> unpair(pairing.door(), pairing), gone -> done.run(), failed);
    }

    private Boolean unpair(DoorId door, Pairing pairing) {
        PairBook.Kept kept = kept().of(door).stream()
                .filter(k -> k.pairing().id().equals(pairing.id()))
                .findFirst()
                .orElseThrow(() -> new SetupException(Saying.of("setup.no-pair")));
        kept().unpair(kept.pairing(), kept.version());
        return Boolean.TRUE;
    }
}
