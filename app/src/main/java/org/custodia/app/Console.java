package org.custodia.app;

import java.nio.file.Path;
import java.time.Duration;
import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.TimeUnit;
import java.util.logging.Level;
import java.util.logging.Logger;
import javafx.application.Platform;
import javafx.geometry.Insets;
import javafx.scene.Scene;
import javafx.scene.control.Button;
import javafx.scene.control.Label;
import javafx.scene.control.ListView;
import javafx.scene.layout.VBox;
import javafx.stage.Stage;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.Kinds;
import org.custodia.core.mishap.Threads;
import org.custodia.core.operator.Actor;
import org.custodia.core.site.SystemId;
import org.custodia.core.workplace.Workplace;
import org.custodia.desktop.Services;
import org.custodia.desktop.call.CommandHerald;
import org.custodia.desktop.call.LineSpeaker;
import org.custodia.desktop.call.Outside;
import org.custodia.desktop.settings.Settings;
import org.custodia.desktop.shell.ConsoleWindow;
import org.custodia.desktop.theme.Theme;
import org.custodia.desktop.watch.WatchView;
import org.custodia.video.Pictures;

/** A desk on a hub in the same process: the window, until it is closed. */
public final class Console implements AutoCloseable {
    /** Held so that the level set on it is not forgotten. */
    private static final Logger JAVAFX = Logger.getLogger("javafx");

    private static final Object TOOLKIT = new Object();
    private static RuntimeException failure;

    private final ConsoleWindow window;
    private final CountDownLatch closed = new CountDownLatch(1);
    private final ExecutorService settingsWriter = Executors.newSingleThreadExecutor(Threads.factory("settings"));
    private final EventIntake.Subscription places;
    private volatile boolean stopped;

    /** Starts the toolkit and opens the window. */
    public Console(Hub hub, String siteName, boolean practiceTime, Actor actor) {
        startToolkit();
        hub.intake()
                .record(Event.of(
                                new EventKey(SystemId.CUSTODIA, 1, 0),
                                Kinds.SIGNED_IN,
                                hub.clock().instant())
                        .operator(actor.operator())
                        .detail("operator-name", actor.name())
                        .detail("desk", actor.desk()));
        Workplace workplace = hub.workplace(actor);
        Services services = new Services(
                workplace,
                new Pictures(hub.video(), workplace.permit()),
                siteName,
                practiceTime,
                hub.clock(),
                hub.clocks(),
                hub.firstWatch(),
                hub::links,
                hub::trouble,
                () -> hub.intake().trouble().isEmpty(),
                hub::mishaps,
                hub::saveDiagnostics,
                outside());
        Settings settings = Settings.load(hub.data(), settingsWriter);
        CompletableFuture<ConsoleWindow> opened = new CompletableFuture<>();
        Platform.runLater(() -> {
            try {
                Stage stage = new Stage();
                stage.setOnHidden(e -> closed.countDown());
                opened.complete(new ConsoleWindow(stage, services, settings));
            } catch (RuntimeException e) {
                opened.completeExceptionally(e);
            }
        });
        window = opened.join();
        places = hub.sites().listen(window::placesChanged);
        window.placesChanged();
    }

    /**
     * Starts JavaFX once; further calls wait until it is up.
     *
     * @throws RuntimeException if there is no display for it, each time it is asked for
     */
    public static void startToolkit() {
        synchronized (TOOLKIT) {
            if (failure != null) {
                throw failure;
            }
            JAVAFX.setLevel(Level.SEVERE);
            CountDownLatch up = new CountDownLatch(1);
            try {
                Platform.startup(up::countDown);
            } catch (IllegalStateException e) {
                // It runs already.
                return;
            } catch (RuntimeException e) {
                failure = e;
                throw e;
            }
            Platform.setImplicitExit(false);
            try {
                up.await();
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
            }
        }
    }

    /** What {@link #prepare} began, if it was. */
    private static volatile Thread preparing;

    private static final Duration PREPARES_WITHIN = Duration.ofSeconds(10);

    /** Begins in the background with what a first window has to wait for: most of it is the loading of classes. */
    public static void prepare() {
        Thread thread = new Thread(
                () -> {
                    try {
                        startToolkit();
                    } catch (RuntimeException e) {
                        // Whoever opens the window is told.
                        return;
                    }
                    Platform.runLater(() -> {
                        Scene scene = new Scene(new VBox(new Label(), new Button(), new ListView<String>()));
                        new Theme().dress(scene);
                        scene.getRoot().applyCss();
                        scene.getRoot().layout();
                    });
                },
                "prepare the toolkit");
        thread.setDaemon(true);
        preparing = thread;
        thread.start();
    }

    /** Waits until what was begun in the background is done: the toolkit cannot start while the process ends. */
    static void prepared() {
        Thread thread = preparing;
        if (thread == null) {
            return;
        }
        try {
            thread.join(PREPARES_WITHIN.toMillis());
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }

    /** Says in a small window why the console cannot open, where there is a display that somebody can see; waits until it is read. */
    static void tell(String problem) {
        boolean display = System.getenv("DISPLAY") != null
                || System.getenv("WAYLAND_DISPLAY") != null
                || !System.getProperty("os.name").equals("Linux");
        boolean unseen =
                System.getenv("CUSTODIA_UNSEEN") != null || "Monocle".equals(System.getProperty("glass.platform"));
        if (!display || unseen) {
            return;
        }
        startToolkit();
        CountDownLatch read = new CountDownLatch(1);
        Platform.runLater(() -> {
            Stage stage = new Stage();
            Label words = new Label(problem);
            words.setWrapText(true);
            words.setMaxWidth(460);
            Button close = new Button("Close");
            close.setDefaultButton(true);
            close.setOnAction(e -> stage.hide());
            VBox box = new VBox(18, words, close);
            box.setPadding(new Insets(22));
            stage.setTitle("Custodia cannot open");
            stage.setScene(new Scene(box));
            stage.setOnHidden(e -> read.countDown());
            stage.show();
        });
        try {
            read.await();
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }

    /** Draws without a display: with the toolkit's headless platform. Must be called before it starts. */
    public static void offscreen() {
        System.setProperty("glass.platform", "Monocle");
        System.setProperty("monocle.platform", "Headless");
        System.setProperty("headless.geometry", "1920x1080-32");
        System.setProperty("prism.order", "sw");
        System.setProperty("java.awt.headless", "true");
    }

    /** Without a screen there is nobody to be reached. */
    private static Outside outside() {
        return "Monocle".equals(System.getProperty("glass.platform"))
                ? Outside.NOBODY
                : new Outside(new LineSpeaker(), new CommandHerald());
    }

    public ConsoleWindow window() {
        return window;
    }

    /** The process is being stopped from outside, and the toolkit with it: it is too late to hide the window. */
    void stop() {
        stopped = true;
        closed.countDown();
    }

    /** Waits until the operator closes the window. */
    void awaitClosed() throws InterruptedException {
        closed.await();
    }

    /** Writes a picture of the window once live pictures and faces are in, or after a while without them. */
    void pictureWhenReady(Path file) throws InterruptedException {
        long end = System.nanoTime() + 90_000_000_000L;
        int ready = 0;
        // For a second without a break: somebody may be arriving just now.
        while (System.nanoTime() < end && ready < 5) {
            ready = Snapshots.onFx(this::ready) ? ready + 1 : 0;
            Thread.sleep(200);
        }
        Snapshots.write(window.scene(), file);
    }

    private Boolean ready() {
        return window.shell().view(WatchView.class).livePictures() >= 3
                && window.shell().view(WatchView.class).doorstepComplete();
    }

    @Override
    public void close() {
        places.close();
        try {
            if (stopped) {
                closeIfTheToolkitStillCan();
            } else {
                closeWindow();
            }
        } finally {
            keepSettings();
        }
    }

    /** What was changed last is written before the process ends. */
    private void keepSettings() {
        settingsWriter.shutdown();
        try {
            settingsWriter.awaitTermination(2, TimeUnit.SECONDS);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }

    private void closeWindow() {
        Optional<RuntimeException> problem = Snapshots.onFx(() -> {
            try {
                window.close();
                window.stage().hide();
                return Optional.<RuntimeException>empty();
            } catch (RuntimeException e) {
                return Optional.of(e);
            }
        });
        problem.ifPresent(e -> {
            throw e;
        });
    }

    /** A toolkit that is being stopped may not do anything more, and says nothing; what the hub has open is not its. */
    private void closeIfTheToolkitStillCan() {
        CountDownLatch done = new CountDownLatch(1);
        Platform.runLater(() -> {
            window.close();
            done.countDown();
        });
        try {
            done.await(500, TimeUnit.MILLISECONDS);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }
}
