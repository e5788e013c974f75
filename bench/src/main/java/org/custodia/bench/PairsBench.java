package org.custodia.bench;

import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Clock;
import java.time.Duration;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.CompletableFuture;
import javafx.application.Platform;
import javafx.event.ActionEvent;
import javafx.scene.Node;
import javafx.scene.Scene;
import javafx.scene.control.TextField;
import javafx.scene.control.ToggleButton;
import javafx.scene.input.KeyCode;
import javafx.scene.input.KeyEvent;
import org.custodia.app.Console;
import org.custodia.app.Hub;
import org.custodia.app.Main;
import org.custodia.app.Snapshots;
import org.custodia.core.operator.Actor;
import org.custodia.core.setup.PairPlan;
import org.custodia.core.setup.PairSheets;
import org.custodia.core.site.Camera;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.Crop;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorCapability;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Pairing;
import org.custodia.core.site.Side;
import org.custodia.core.site.Site;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SystemId;
import org.custodia.wire.LinksFile;
import org.custodia.wire.LinksFileForm;
import org.custodia.wire.PairSheetForms;

/** Pairs with thousands of doors and cameras: how soon a search answers a key, and how long a sheet of all pairs takes. */
final class PairsBench {
    private static final int MANY = 5_000;
    private static final SystemId SYSTEM = new SystemId("tidewater");
    private static final SystemId RECORDER = new SystemId("quayside");
    private static final List<String> ROOMS =
            List.of("Reading room", "Gallery", "Print store", "North stair", "Loading bay", "Workshop", "Plant room");

    private PairsBench() {}

    static void run() throws Exception {
        Console.offscreen();
        Path data = Files.createTempDirectory("custodia-bench");
        Actor odo = Main.demoOperator();
        LinksFileForm.Content nothing =
                new LinksFileForm().content(new LinksFile("Sternwick Museum", List.of(), List.of(), List.of()));
        try (Hub hub = new Hub(data, nothing, Clock.systemUTC(), odo)) {
            fill(hub);
            sheet(hub, odo);
            try (Console console = new Console(hub, "Sternwick Museum", true, odo)) {
                search(console);
            }
        } finally {
            TemporaryFiles.delete(data);
        }
    }

    /** Five thousand doors with a camera each. */
    static void fill(Hub hub) {
        List<Site> sites = new ArrayList<>();
        List<Door> doors = new ArrayList<>();
        List<Camera> cameras = new ArrayList<>();
        for (int s = 0; s < 20; s++) {
            sites.add(new Site(new SiteId("house-" + s), "House " + s, ZoneId.of("Europe/London")));
        }
        for (int i = 0; i < MANY; i++) {
            SiteId site = sites.get(i % sites.size()).id();
            String name = ROOMS.get(i % ROOMS.size()) + " " + i;
            doors.add(new Door(
                    new DoorId("tidewater/d" + i),
                    SYSTEM,
                    new ControllerId("tidewater/c" + i / 8),
                    name,
                    site,
                    "0",
                    "",
                    "",
                    Duration.ofSeconds(30),
                    Set.of(DoorCapability.CONTACT)));
            cameras.add(new Camera(new CameraId("quayside/k" + i), RECORDER, name + " outside", site));
        }
        hub.sites().places(SYSTEM, sites, doors, List.of(), List.of());
        hub.sites().cameras(RECORDER, cameras);
    }

    private static void sheet(Hub hub, Actor odo) throws InterruptedException {
        List<PairSheets.Row> rows = new ArrayList<>();
        for (int i = 0; i < MANY; i++) {
            rows.add(new PairSheets.Row(
                    i + 2, "tidewater/d" + i, "", "quayside/k" + i, "", "entry", "outside", "10", "", "", "", "", "0"));
        }
        byte[] csv = new PairSheetForms().write(rows, PairSheets.Form.CSV);
        long begun = System.nanoTime();
        PairPlan plan = hub.pairs().plan(csv, odo);
        double planned = (System.nanoTime() - begun) / 1e9;
        int done = hub.pairs().carryOut(plan, false, odo);
        double all = (System.nanoTime() - begun) / 1e9;
        double busy = single(hub, odo, "quayside/k2");
        long written = hub.log().newestPosition();
        StartBench.await(() -> hub.log().newestPosition() >= MANY);
        double quiet = single(hub, odo, "quayside/k3");
        System.out.printf(
                "import of %d pairs: %.2f s, of which %.2f s to say what it would change (wanted: under 3 s); one pair by hand"
                        + " right after it, with %d of them told in the log, %.0f ms, and when all are %.0f ms%n",
                done, all, planned, written, busy, quiet);
    }

    /** How long one pair by hand takes, in milliseconds. */
    private static double single(Hub hub, Actor odo, String camera) {
        long begun = System.nanoTime();
        hub.pairs()
                .pair(
                        new Pairing(
                                new DoorId("tidewater/d1"),
                                new CameraId(camera),
                                Side.EXIT,
                                Pairing.View.INSIDE,
                                Duration.ofSeconds(10),
                                Crop.WHOLE,
                                Duration.ZERO),
                        odo);
        return (System.nanoTime() - begun) / 1e6;
    }

    private static void search(Console console) throws Exception {
        Scene scene = console.window().scene();
        Snapshots.onFx(() -> {
            KeyEvent turn = new KeyEvent(KeyEvent.KEY_PRESSED, "", "", KeyCode.DIGIT8, false, true, false, false);
            javafx.event.Event.fireEvent(console.window().shell(), turn);
            return null;
        });
        StartBench.await(() -> Snapshots.onFx(() -> toggle(scene, "Pairs").isPresent()));
        Snapshots.onFx(() -> {
            toggle(scene, "Pairs").orElseThrow().fire();
            return null;
        });
        Samples doors = type(scene, ".pairs-search .text-field");
        System.out.println(
                "Pairs, 5,000 doors, each key of a search to its list drawn (wanted: p95 under 50 ms): " + doors);
        Snapshots.onFx(() -> {
            TextField field = (TextField) scene.lookup(".pairs-search .text-field");
            field.setText("workshop 4737");
            field.fireEvent(new ActionEvent());
            return null;
        });
        StartBench.await(() -> Snapshots.onFx(() -> toggle(scene, "By hand").isPresent()));
        Snapshots.onFx(() -> {
            toggle(scene, "By hand").orElseThrow().fire();
            return null;
        });
        StartBench.await(() -> Snapshots.onFx(() -> scene.lookup(".pair-another .text-field") != null));
        Samples cameras = type(scene, ".pair-another .text-field");
        System.out.println("the same for 5,000 cameras of a door: " + cameras);
        System.out.printf("resident memory %d MB (wanted: under 1,200)%n", PanesBench.resident() / 1024);
    }

    private static Optional<ToggleButton> toggle(Scene scene, String words) {
        for (Node node : scene.getRoot().lookupAll(".toggle-button")) {
            if (node instanceof ToggleButton b && words.equals(b.getText())) {
                return Optional.of(b);
            }
        }
        return Optional.empty();
    }

    private static Samples type(Scene scene, String selector) throws Exception {
        Samples samples = new Samples();
        for (int round = 0; round < 3; round++) {
            for (String words : List.of("reading room 47", "gallery 12", "plant 4999", "outside house", "zz")) {
                for (int i = 1; i <= words.length(); i++) {
                    String typed = words.substring(0, i);
                    double took = drawn(scene, () -> ((TextField) scene.lookup(selector)).setText(typed));
                    if (round > 0) {
                        samples.add(took);
                    }
                }
            }
        }
        return samples;
    }

    /** How long something takes until the window has laid it out. */
    static double drawn(Scene scene, Runnable act) throws Exception {
        CompletableFuture<Long> done = new CompletableFuture<>();
        Runnable[] pulse = new Runnable[1];
        pulse[0] = () -> {
            scene.removePostLayoutPulseListener(pulse[0]);
            done.complete(System.nanoTime());
        };
        long begun = System.nanoTime();
        Platform.runLater(() -> {
            act.run();
            scene.addPostLayoutPulseListener(pulse[0]);
            Platform.requestNextPulse();
        });
        return (done.get() - begun) / 1e6;
    }
}
