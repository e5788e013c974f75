package org.custodia.app;

import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.BooleanSupplier;
import java.util.function.Predicate;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import javafx.event.ActionEvent;
import javafx.scene.Node;
import javafx.scene.control.Button;
import javafx.scene.control.Label;
import javafx.scene.control.ListView;
import javafx.scene.control.ScrollPane;
import javafx.scene.control.TextField;
import javafx.scene.control.ToggleButton;
import javafx.scene.input.KeyCode;
import javafx.scene.input.KeyEvent;
import org.custodia.core.alarm.Alarm;
import org.custodia.core.alarm.Escalation;
import org.custodia.core.alarm.RuleDesk;
import org.custodia.core.event.Cancellation;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.Priority;
import org.custodia.core.link.LinkStatus;
import org.custodia.core.setup.DeviceDesk;
import org.custodia.core.setup.Found;
import org.custodia.core.setup.Neighbours;
import org.custodia.core.setup.PairDesk;
import org.custodia.core.setup.TranslationDesk;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.Thing;
import org.custodia.core.workplace.PermittedAlarms;
import org.custodia.core.workplace.PermittedMessages;
import org.custodia.desktop.settings.Settings;
import org.custodia.desktop.shell.ConsoleWindow;
import org.custodia.desktop.strip.StripSize;
import org.custodia.desktop.watch.WatchModel;
import org.custodia.desktop.watch.WatchView;

/** Drives the demo through its main views and takes a picture of each. */
final class ScreenShots {
    private static final Duration PATIENCE = Duration.ofSeconds(240);

    private final DemoSite demo;
    private final ConsoleWindow window;
    private final Path to;

    private ScreenShots(DemoSite demo, ConsoleWindow window, Path to) {
        this.demo = demo;
        this.window = window;
        this.to = to;
    }

    /** Makes a demo in a directory of its own and takes all pictures. */
    static void take(Path to) throws IOException, InterruptedException {
        Path data = Files.createTempDirectory("custodia-shots");
        try (DemoSite demo = new DemoSite(data, false)) {
            try (Console console = new Console(demo.hub(), demo.siteName(), true, Main.demoOperator())) {
                new ScreenShots(demo, console.window(), to).all();
            }
            Settings.load(demo.hub().data()).window(0, 0, 1920, 1080, false);
            try (Console console = new Console(demo.hub(), demo.siteName(), true, Main.demoOperator())) {
                new ScreenShots(demo, console.window(), to).large();
            }
        } finally {
            try (Stream<Path> files = Files.walk(data)) {
                files.sorted(Comparator.reverseOrder()).forEach(f -> f.toFile().delete());
            }
        }
    }

    private void all() throws IOException, InterruptedException {
        size(1280, 800);
        until(() -> demo.hub().links().stream().allMatch(s -> s.state() == LinkStatus.State.UP));
        happen("{\"act\":\"hold\",\"door\":\"print-room-north\",\"seconds\":260}");
        happen("{\"act\":\"present\",\"door\":\"staff-lobby\",\"badge\":\"20153\"}");
        until(() -> log(Kinds.HELD).isPresent());
        happen("{\"act\":\"force\",\"door\":\"strongroom-corr\",\"seconds\":200}");
        happen("{\"act\":\"present\",\"door\":\"vault-ante\",\"badge\":\"20388\"}");
        until(() -> window.shell().view(WatchView.class).livePictures() >= 5
                && window.shell().view(WatchView.class).doorstepComplete());
        settle(4);
        shot("watch-night");
        Snapshots.onFx(() -> {
            window.theme().dark(false);
            return null;
        });
        settle(1);
        shot("watch-day");
        Snapshots.onFx(() -> {
            window.theme().dark(true);
            return null;
        });
        alarms();
        Event refused = log(Kinds.REFUSED).orElseThrow();
        Snapshots.onFx(() -> {
            window.shell().view(WatchView.class).play(refused);
            return null;
        });
        settle(9);
        shot("watch-playing");
        Snapshots.onFx(() -> window.shell().view(WatchView.class).back());
        Snapshots.onFx(() -> {
            window.shell().desk().lookBack(demo.hub().clock().instant().minus(Duration.ofMinutes(95)));
            return null;
        });
        settle(3);
        shot("watch-looking-back");
        Snapshots.onFx(() -> {
            window.shell().desk().returnToNow();
            window.shell().find("thistle");
            return null;
        });
        settle(2);
        shot("find");
        Snapshots.onFx(() -> {
            window.shell().closePanel();
            return null;
        });
        panels();
        manyDoors();
        setup();
    }

    /** What is connected to, and which cameras show a door. */
    private void setup() throws InterruptedException {
        turnTo("Setup");
        settle(3);
        shot("setup-links");
        inventory();
        turnTo("Pairs");
        Snapshots.onFx(() -> {
            TextField search = (TextField) window.scene().lookup(".pairs-search .text-field");
            search.setText("vault ante");
            search.fireEvent(new ActionEvent());
            return null;
        });
        settle(5);
        shot("setup-pairs");
        evidence();
        clocks();
        turnTo("Footage");
        settle(7);
        shot("setup-footage");
        turnTo("Changes");
        settle(2);
        shot("setup-changes");
        turnTo("Watch");
    }

    /** What systems have, with a door that is called otherwise here and its neighbours; and what they mean. */
    private void inventory() throws InterruptedException {
        DeviceDesk devices = demo.hub().devices();
        List<Found> found = devices.found(Main.demoOperator());
        devices.seen(found, Main.demoOperator());
        Found lobby = found.stream()
                .filter(f -> f.thing().equals(Thing.of(new DoorId("tidewater/staff-lobby"))))
                .findFirst()
                .orElseThrow();
        devices.place(
                List.of(lobby.placing().name(Optional.of("Porter's lodge"))), List.of(lobby), Main.demoOperator());
        devices.neighbours(
                devices.proposedNeighbours((done, of) -> {}, new Cancellation(), Main.demoOperator()).stream()
                        .map(Neighbours.Proposal::walk)
                        .toList(),
                Main.demoOperator());
        turnTo("Inventory");
        settle(2);
        choose(f -> f instanceof Found one && one.thing().equals(lobby.thing()));
        settle(3);
        shot("setup-inventory");
        devices.place(
                List.of(lobby.placing()),
                devices.found(Main.demoOperator()).stream()
                        .filter(f -> f.thing().equals(lobby.thing()))
                        .toList(),
                Main.demoOperator());
        turnTo("Meanings");
        settle(2);
        choose(r -> r instanceof TranslationDesk.Row row && row.sent().kind().equals("controller.battery-low"));
        settle(3);
        shot("setup-meanings");
    }

    /** Chooses in the list that is shown. */
    private void choose(Predicate<Object> which) {
        Snapshots.onFx(() -> {
            window.scene().getRoot().lookupAll(".pairs").stream()
                    .filter(ListView.class::isInstance)
                    .map(n -> (ListView<?>) n)
                    .forEach(list -> {
                        for (int i = 0; i < list.getItems().size(); i++) {
                            if (which.test(list.getItems().get(i))) {
                                list.getSelectionModel().clearAndSelect(i);
                                list.scrollTo(Math.max(0, i - 4));
                                return;
                            }
                        }
                    });
            return null;
        });
    }

    /** What is proposed for a door whose cameras were taken off. */
    private void evidence() throws InterruptedException {
        PairDesk pairs = demo.hub().pairs();
        DoorId vault = new DoorId("tidewater/vault-ante");
        pairs.pairs(vault, Main.demoOperator())
                .forEach(k -> pairs.unpair(k.pairing(), k.version(), Main.demoOperator()));
        settle(1);
        pairs.look(List.of(vault), Main.demoOperator());
        until(() -> window.scene().getRoot().lookupAll(".candidate").size() >= 2
                && !pairs.looking(Main.demoOperator()).running());
        settle(4);
        shot("setup-evidence");
    }

    private void clocks() throws InterruptedException {
        demo.hub().pairs().measureClocks(Main.demoOperator());
        turnTo("Clocks");
        until(() -> window.scene().getRoot().lookupAll(".clocks-by-pictures .label").stream()
                .anyMatch(n -> n instanceof Label l && l.getText().contains("agree:")));
        settle(2);
        shot("setup-clocks");
        demo.hub().pairs().stopLooking(Main.demoOperator());
    }

    /** The queue, with the door that was forced; afterwards somebody has seen all of it. */
    private void alarms() throws InterruptedException {
        view(KeyCode.DIGIT2);
        settle(9);
        shot("alarms");
        rules();
        messages();
        PermittedAlarms alarms = demo.hub().workplace(Main.demoOperator()).alarms();
        alarms.acknowledge(alarms.open().stream().map(Alarm::seen).toList()).join();
        view(KeyCode.DIGIT1);
        settle(2);
    }

    /** A rule that was tried on the last days. */
    private void rules() throws InterruptedException {
        turnTo("Rules");
        until(() ->
                list(".rules .list-view").filter(l -> l.getItems().size() > 4).isPresent());
        Snapshots.onFx(() -> {
            ListView<?> rules = list(".rules .list-view").orElseThrow();
            for (int i = 0; i < rules.getItems().size(); i++) {
                if (rules.getItems().get(i) instanceof RuleDesk.Standing standing
                        && standing.rule().id().equals("held")) {
                    rules.getSelectionModel().clearAndSelect(i);
                }
            }
            return null;
        });
        settle(1);
        press("Try on the last 7 days");
        until(() -> list(".rule-editor .list-view")
                .filter(l -> !l.getItems().isEmpty())
                .isPresent());
        Snapshots.onFx(() -> {
            ListView<?> called = list(".rule-editor .list-view").orElseThrow();
            called.getSelectionModel().select(called.getItems().size() - 1);
            return null;
        });
        settle(6);
        shot("alarms-rules");
        turnTo("Queue");
    }

    /** Who is told: one who has been reached, and one whose server does not answer. */
    private void messages() throws InterruptedException {
        Instant now = demo.hub().clock().instant();
        demo.site().post().down(false, now.plus(Duration.ofMinutes(10)));
        PermittedMessages messages = demo.hub().workplace(Main.demoOperator()).messages();
        Escalation before = messages.escalation();
        messages.keep(
                new Escalation(
                        0,
                        Map.of(
                                Priority.URGENT,
                                List.of(new Escalation.Step(
                                        Duration.ofSeconds(5), List.of("duty-manager", "phones"))))),
                before.version());
        until(() -> messages.messages(10).stream().anyMatch(m -> m.entry().attempts() > 1));
        messages.keep(before, messages.escalation().version());
        turnTo("Messages");
        until(() -> list(".alarm-queue .list-view")
                .filter(l -> l.getItems().size() > 3)
                .isPresent());
        Snapshots.onFx(() -> {
            window.scene().getRoot().lookupAll(".alarm-queue .list-view").stream()
                    .filter(n -> n instanceof ListView<?> l && l.getItems().size() > 3 && shown(n))
                    .forEach(n -> ((ListView<?>) n).getSelectionModel().select(2));
            return null;
        });
        settle(3);
        shot("alarms-messages");
        turnTo("Queue");
    }

    private static boolean shown(Node node) {
        return node == null || node.isVisible() && shown(node.getParent());
    }

    private Optional<ListView<?>> list(String selector) {
        return Optional.ofNullable((ListView<?>) window.scene().lookup(selector));
    }

    private void press(String words) {
        Snapshots.onFx(() -> {
            window.scene().getRoot().lookupAll(".button").stream()
                    .filter(n -> n instanceof Button b && words.equals(b.getText()))
                    .forEach(n -> ((Button) n).fire());
            return null;
        });
    }

    private void view(KeyCode figure) {
        Snapshots.onFx(() -> {
            javafx.event.Event.fireEvent(
                    window.shell(), new KeyEvent(KeyEvent.KEY_PRESSED, "", "", figure, false, true, false, false));
            return null;
        });
    }

    private void turnTo(String words) {
        Snapshots.onFx(() -> {
            window.scene().getRoot().lookupAll(".toggle-button").stream()
                    .filter(n -> n instanceof ToggleButton b && b.getText().equals(words))
                    .forEach(n -> ((ToggleButton) n).fire());
            return null;
        });
    }

    /** Small strips, with all the doors of the largest site that a camera looks at. */
    private void manyDoors() throws InterruptedException {
        SiteModel sites = demo.hub().sites().get();
        Map<SiteId, List<DoorId>> bySite = sites.doors().stream()
                .filter(d -> !sites.pairings(d.id()).isEmpty())
                .collect(Collectors.groupingBy(
                        Door::site, LinkedHashMap::new, Collectors.mapping(Door::id, Collectors.toList())));
        List<DoorId> most = bySite.values().stream()
                .max(Comparator.comparingInt(List::size))
                .orElseThrow();
        WatchModel watch = window.shell().view(WatchView.class).model();
        List<DoorId> before = Snapshots.onFx(() -> {
            List<DoorId> chosen = watch.onWatch();
            watch.watch(most);
            watch.size().set(StripSize.SMALL);
            ((ScrollPane) window.scene().lookup(".strips")).setVvalue(0);
            return chosen;
        });
        settle(8);
        shot("watch-small");
        Snapshots.onFx(() -> {
            watch.size().set(StripSize.MIDDLE);
            watch.watch(before);
            return null;
        });
    }

    /** The sheet of keys, which lies over the console. */
    private void panels() throws InterruptedException {
        press("Keys");
        settle(1);
        shot("keys");
        Snapshots.onFx(() -> {
            window.shell().closePanel();
            return null;
        });
    }

    private void large() throws InterruptedException {
        until(() -> window.shell().view(WatchView.class).livePictures() >= 5);
        settle(4);
        shot("watch-1920x1080");
    }

    private Optional<Event> log(org.custodia.core.event.EventKind kind) {
        List<Event> found = demo.hub().log().find(EventQuery.all().kinds(kind).newest(1));
        return found.stream()
                .filter(e -> e.time().isAfter(demo.hub().clock().instant().minusSeconds(150)))
                .findFirst();
    }

    private void size(double width, double height) {
        Snapshots.onFx(() -> {
            window.stage().setWidth(width);
            window.stage().setHeight(height);
            return null;
        });
    }

    private void shot(String name) {
        Snapshots.write(window.scene(), to.resolve(name + ".png"));
        System.out.println("Wrote " + to.resolve(name + ".png"));
    }

    private static void settle(int seconds) throws InterruptedException {
        Thread.sleep(seconds * 1000L);
    }

    private static void until(BooleanSupplier condition) throws InterruptedException {
        long end = System.nanoTime() + PATIENCE.toNanos();
        while (!Snapshots.onFx(condition::getAsBoolean)) {
            if (System.nanoTime() > end) {
                throw new IllegalStateException("The demo did not get ready in " + PATIENCE.toSeconds() + " s.");
            }
            Thread.sleep(100);
        }
    }

    private void happen(String order) throws IOException, InterruptedException {
        HttpRequest request = HttpRequest.newBuilder(URI.create(demo.site().address() + "/control/do"))
                .POST(HttpRequest.BodyPublishers.ofString(order))
                .build();
        HttpResponse<String> answer = HttpClient.newHttpClient().send(request, HttpResponse.BodyHandlers.ofString());
        if (answer.statusCode() != 204) {
            throw new IllegalStateException("The practice site would not: " + answer.body());
        }
    }
}
