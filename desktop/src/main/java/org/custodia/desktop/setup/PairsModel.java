package org.custodia.desktop.setup;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.Arrays;
import java.util.Collection;
import java.util.Comparator;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.Set;
import java.util.function.Consumer;
import java.util.stream.Collectors;
import javafx.beans.property.ObjectProperty;
import javafx.beans.property.SimpleObjectProperty;
import javafx.beans.property.SimpleStringProperty;
import javafx.beans.property.StringProperty;
import javafx.collections.FXCollections;
import javafx.collections.ObservableList;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Kinds;
import org.custodia.core.evidence.Candidate;
import org.custodia.core.evidence.EvidenceSearch;
import org.custodia.core.operator.NotPermittedException;
import org.custodia.core.saying.Saying;
import org.custodia.core.setup.PairBook;
import org.custodia.core.setup.PairDesk;
import org.custodia.core.setup.PairPlan;
import org.custodia.core.setup.PairSheets;
import org.custodia.core.setup.SetupException;
import org.custodia.core.setup.Trial;
import org.custodia.core.site.Camera;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Pairing;
import org.custodia.core.site.SiteModel;
import org.custodia.core.workplace.PermittedPairs;
import org.custodia.desktop.desk.Desk;

/** Which cameras show which doors: the doors that are looked for, and the cameras that may show one. Holds no nodes. */
final class PairsModel {
    /** More are not read by anybody; another letter finds the others. */
    static final int MOST_CAMERAS = 60;
    /** Nobody waits longer for what is played to begin. */
    static final Duration MOST_LEAD = Duration.ofMinutes(2);

    private static final int MOST_PASSAGES = 40;
    /** Bytes. */
    private static final int LARGEST_SHEET = 32 * 1024 * 1024;

    /** Which doors are listed. */
    enum Show {
        ALL,
        /** Those that no camera shows. */
        WITHOUT,
        /** Doors with an undecided proposal. */
        PROPOSED,
        /** Doors with a pair that is untested, was changed since its test, or failed it. */
        UNTRIED,
        /** Those with a pair in whose picture nothing moves any more. */
        DOUBTED
    }

    private final Desk desk;
    private final StringProperty search = new SimpleStringProperty("");
    private final ObjectProperty<Show> show = new SimpleObjectProperty<>(Show.ALL);
    private final ObjectProperty<How> how = new SimpleObjectProperty<>(How.EVIDENCE);
    private final ObservableList<Door> doors = FXCollections.observableArrayList();
    private List<PairDesk.Proposal> proposed = List.of();
    private Index index = new Index(SiteModel.EMPTY, List.of(), List.of());
    private Likely likely = new Likely(index, new DoorId("custodia/none"), List.of(), List.of());

    PairsModel(Desk desk) {
        this.desk = desk;
        search.addListener((o, a, b) -> refresh());
        show.addListener((o, a, b) -> refresh());
        refresh();
    }

    Desk desk() {
        return desk;
    }

    /** Words of which each must stand in the name of a door, or of its site. */
    StringProperty search() {
        return search;
    }

    /** How a camera is chosen; the same for the next door. */
    enum How {
        EVIDENCE,
        HAND
    }

    ObjectProperty<How> how() {
        return how;
    }

    /** Which doors are listed. */
    ObjectProperty<Show> show() {
        return show;
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

    /** Reads undecided proposals. */
    void readProposed(Runnable changed) {
        desk.work()
                .latest(
                        "proposed",
                        () -> kept().proposed(),
                        now -> {
                            if (!now.equals(proposed)) {
                                proposed = now;
                                changed.run();
                            }
                        },
                        failed -> {});
    }

    /** How many of the proposed pairs are sure. */
    long sure() {
        return proposed.stream()
                .filter(p -> p.candidate().confidence() == Candidate.Confidence.SURE)
                .count();
    }

    /** Pairs all that is proposed and sure. */
    void takeSure(Consumer<Integer> done, Consumer<String> failed) {
        desk.work().load(() -> kept().takeSure(), done, failed);
    }

    /** How many doors would be listed. */
    long count(Show which) {
        return sites().doors().stream().filter(d -> shows(d, which)).count();
    }

    private boolean shows(Door door, Show which) {
        return switch (which) {
            case ALL -> true;
            case WITHOUT -> pairings(door).isEmpty();
            case PROPOSED -> proposed.stream().anyMatch(p -> p.door().equals(door.id()));
            case UNTRIED -> pairings(door).stream().anyMatch(p -> standing(p) != Standing.RIGHT);
            case DOUBTED -> pairings(door).stream().anyMatch(this::doubted);
        };
    }

    /** What came of trying a pair. */
    enum Standing {
        NEVER,
        RIGHT,
        WRONG,
        /** It was right, and was changed since. */
        CHANGED
    }

    Standing standing(Pairing pairing) {
        return trial(pairing)
                .map(t -> !t.passed() ? Standing.WRONG : t.holds(pairing) ? Standing.RIGHT : Standing.CHANGED)
                .orElse(Standing.NEVER);
    }

    /** The latest trial of a pair, where the operator may see that. */
    Optional<Trial> trial(Pairing pairing) {
        try {
            return kept().trial(pairing.door(), pairing.id());
        } catch (NotPermittedException | SetupException e) {
            return Optional.empty();
        }
    }

    /** Whether nothing moves any more in a pair's picture when its door opens. */
    boolean doubted(Pairing pairing) {
        try {
            return kept().doubted(pairing.door(), pairing.camera());
        } catch (NotPermittedException | SetupException e) {
            return false;
        }
    }

    /** What the latest look at a pair said, if it was looked at. */
    Optional<EvidenceSearch.Check> checked(Pairing pairing) {
        try {
            return kept().checked(pairing.door(), pairing.camera());
        } catch (NotPermittedException | SetupException e) {
            return Optional.empty();
        }
    }

    /** Looks now, in the background, whether all pairs still hold. */
    void check(Runnable begun, Consumer<String> failed) {
        desk.work()
                .load(
                        () -> {
                            kept().check();
                            return Boolean.TRUE;
                        },
                        asked -> begun.run(),
                        failed);
    }

    /** Keeps what somebody said of a pair. */
    void tried(Trial trial, DoorId door, Runnable done, Consumer<String> failed) {
        desk.work().load(() -> kept().tried(door, trial).join(), e -> done.run(), failed);
    }

    boolean mayPair(Door door) {
        return kept().may(door.site());
    }

    /** Looks again, since places or what is looked for have changed. */
    void refresh() {
        List<String> wanted = words(search.get());
        Show which = show.get();
        List<Door> fitting = index().doors().stream()
                .filter(d -> fits(wanted, d.in()) && shows(d.door(), which))
                .map(Index.OfDoor::door)
                .toList();
        if (!fitting.equals(doors)) {
            doors.setAll(fitting);
        }
    }

    /**
     * Doors in order and cameras, with what is looked for in their names, made once for as long as places stay.
     *
     * @param of what it was made from
     */
    private record Index(SiteModel of, List<OfDoor> doors, List<OfCamera> cameras) {
        /**
         * A door.
         *
         * @param in where words are looked for
         */
        record OfDoor(Door door, String in) {}

        /** A camera, likewise. */
        record OfCamera(Camera camera, String in, Set<String> words) {}
    }

    private Index index() {
        SiteModel now = sites();
        if (index.of() != now) {
            List<Index.OfDoor> ofDoors = now.doors().stream()
                    .sorted(Comparator.comparing(this::siteName)
                            .thenComparing(Door::name, String.CASE_INSENSITIVE_ORDER)
                            .thenComparing(d -> d.id().value()))
                    .map(d -> new Index.OfDoor(d, (d.name() + " " + siteName(d)).toLowerCase(Locale.ROOT)))
                    .toList();
            List<Index.OfCamera> ofCameras = now.cameras().stream()
                    .sorted(Comparator.comparing(Camera::name, String.CASE_INSENSITIVE_ORDER)
                            .thenComparing(c -> c.id().value()))
                    .map(c -> new Index.OfCamera(c, c.name().toLowerCase(Locale.ROOT), Set.copyOf(words(c.name()))))
                    .toList();
            index = new Index(now, ofDoors, ofCameras);
        }
        return index;
    }

    /** What a door's site is called. */
    String siteName(Door door) {
        return sites().siteOf(door.id()).map(s -> s.name()).orElse("");
    }

    /** The cameras that show a door, the most telling first. */
    List<Pairing> pairings(Door door) {
        return pairingsOf(door.id());
    }

    List<Pairing> pairingsOf(DoorId door) {
        return sites().pairings(door);
    }

    String cameraName(CameraId camera) {
        return camera(camera).map(Camera::name).orElse(camera.value());
    }

    Optional<Camera> camera(CameraId camera) {
        return sites().camera(camera);
    }

    String doorName(DoorId door) {
        return sites().door(door).map(Door::name).orElse(door.value());
    }

    /** Looks for the cameras of doors by evidence, in the background. */
    void look(Collection<Door> some, Runnable begun, Consumer<String> failed) {
        List<DoorId> ids = some.stream().map(Door::id).toList();
        desk.work()
                .load(
                        () -> {
                            kept().look(ids);
                            return Boolean.TRUE;
                        },
                        asked -> begun.run(),
                        failed);
    }

    /** How far looking has come. */
    EvidenceSearch.Progress looking() {
        return kept().looking();
    }

    void pauseLooking(boolean paused) {
        kept().pauseLooking(paused);
    }

    void stopLooking() {
        kept().stopLooking();
    }

    /** Reads what was found for a door; of several that wait only the last is read. */
    void found(Door door, Consumer<Optional<EvidenceSearch.Result>> use, Consumer<String> failed) {
        desk.work().latest("found " + door.id(), () -> kept().found(door.id()), use, failed);
    }

    /** Keeps that a camera does not show a door. */
    void refuse(Door door, CameraId camera, Runnable done, Consumer<String> failed) {
        desk.work().load(() -> kept().refuse(door.id(), camera).join(), e -> done.run(), failed);
    }

    /**
     * Cameras that may show a door, the likeliest first: not paired with it yet, of its site, of a like name. Names only put them in order; whoever
     * pairs looks at the picture.
     *
     * @param looked for, words of which each must stand in a camera's name
     */
    List<Camera> cameras(Door door, String looked) {
        List<String> wanted = words(looked);
        return likely(door).order().stream()
                .filter(c -> fits(wanted, c.in()))
                .limit(MOST_CAMERAS)
                .map(Index.OfCamera::camera)
                .toList();
    }

    /** The cameras in the order in which they may show a door, which is the same for each key of a search. */
    private record Likely(Index of, DoorId door, List<Pairing> paired, List<Index.OfCamera> order) {}

    private Likely likely(Door door) {
        Index now = index();
        List<Pairing> pairs = pairings(door);
        if (likely.of() != now
                || !likely.door().equals(door.id())
                || !likely.paired().equals(pairs)) {
            Set<String> like = Set.copyOf(words(door.name()));
            Set<CameraId> paired = pairs.stream().map(Pairing::camera).collect(Collectors.toSet());
            // By name already; what counts more comes by one number, so that thousands are put in order at once.
            record Ranked(Index.OfCamera camera, int rank) {}
            List<Index.OfCamera> order = now.cameras().stream()
                    .map(c -> {
                        long alike = c.words().stream().filter(like::contains).count();
                        boolean elsewhere = !c.camera().site().equals(door.site());
                        int rank = (paired.contains(c.camera().id()) ? 1_000_000 : 0)
                                + (elsewhere ? 100_000 : 0)
                                + (int) (100 - Math.min(100, alike)) * 100
                                + Math.min(99, c.words().size());
                        return new Ranked(c, rank);
                    })
                    .sorted(Comparator.comparingInt(Ranked::rank))
                    .map(Ranked::camera)
                    .toList();
            likely = new Likely(now, door.id(), pairs, order);
        }
        return likely;
    }

    private static List<String> words(String text) {
        return Arrays.stream(text.toLowerCase(Locale.ROOT).split("[\\s,.;:/-]+"))
                .filter(w -> !w.isEmpty())
                .collect(Collectors.toList());
    }

    private static boolean fits(List<String> wanted, String in) {
        for (String word : wanted) {
            if (!in.contains(word)) {
                return false;
            }
        }
        return true;
    }

    /** Pairs a door with a camera that sees it in some way. */
    void pair(Door door, Camera camera, Pairing.View view, Runnable done, Consumer<String> failed) {
        Pairing pairing = Pairing.of(door.id(), camera.id(), view);
        desk.work().load(() -> kept().pair(pairing), version -> done.run(), failed);
    }

    /** Whether footage can be played from so long before an event, or a head looked for so long after it. */
    static boolean mayLead(Duration d) {
        return !d.isNegative() && d.compareTo(MOST_LEAD) <= 0;
    }

    /** Reads a pair as it stands, with its version. */
    void kept(Pairing pairing, Consumer<PairBook.Kept> use, Consumer<String> failed) {
        desk.work().load(() -> find(pairing), use, failed);
    }

    /** Reads who passed a pair's door lately on its side, the latest first. */
    void passages(Pairing pairing, Consumer<List<Event>> use, Consumer<String> failed) {
        EventQuery granted = EventQuery.all()
                .kinds(Kinds.GRANTED)
                .doors(Set.of(pairing.door()))
                .newest(MOST_PASSAGES);
        desk.work()
                .load(
                        () -> desk.services().log().find(granted).stream()
                                .filter(e ->
                                        e.side().filter(pairing.side()::equals).isPresent())
                                .toList(),
                        use,
                        failed);
    }

    /** Changes a pair, unless somebody else did meanwhile. */
    void change(Pairing changed, long basedOn, Runnable done, Consumer<String> failed) {
        desk.work().load(() -> kept().change(changed, basedOn), version -> done.run(), failed);
    }

    /** Reads a file and says what it would change. */
    void plan(Path file, Consumer<PairPlan> use, Consumer<String> failed) {
        desk.work()
                .load(
                        () -> {
                            try {
                                if (Files.size(file) > LARGEST_SHEET) {
                                    throw new SetupException(Saying.of("sheet.too-large", LARGEST_SHEET / 1024 / 1024));
                                }
                                return kept().plan(Files.readAllBytes(file));
                            } catch (IOException e) {
                                throw new SetupException(Saying.of("sheet.not-read", file.toString()));
                            }
                        },
                        use,
                        failed);
    }

    /** Does what was planned. */
    void carryOut(PairPlan plan, boolean alsoAbsent, Consumer<Integer> done, Consumer<String> failed) {
        desk.work().load(() -> kept().carryOut(plan, alsoAbsent), done, failed);
    }

    /** Writes all pairs into a file. */
    void export(Path file, PairSheets.Form form, Runnable done, Consumer<String> failed) {
        desk.work()
                .load(
                        () -> {
                            byte[] sheet = kept().sheet(form);
                            try {
                                return Files.write(file, sheet);
                            } catch (IOException e) {
                                throw new SetupException(Saying.of("sheet.not-written", file.toString()));
                            }
                        },
                        written -> done.run(),
                        failed);
    }

    /** Puts a pair before the others of its door. */
    void first(Pairing pairing, Runnable done, Consumer<String> failed) {
        desk.work()
                .load(
                        () -> {
                            kept().first(pairing);
                            return Boolean.TRUE;
                        },
                        well -> done.run(),
                        failed);
    }

    /** Takes a pair off. */
    void unpair(Pairing pairing, Runnable done, Consumer<String> failed) {
        desk.work().load(() -> unpair(pairing), gone -> done.run(), failed);
    }

    private PairBook.Kept find(Pairing pairing) {
        return kept().of(pairing.door()).stream()
                .filter(k -> k.pairing().id().equals(pairing.id()))
                .findFirst()
                .orElseThrow(() -> new SetupException(Saying.of("setup.no-pair")));
    }

    private Boolean unpair(Pairing pairing) {
        PairBook.Kept kept = find(pairing);
        kept().unpair(kept.pairing(), kept.version());
        return Boolean.TRUE;
    }
}
