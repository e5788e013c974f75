package org.custodia.bench;

import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.concurrent.atomic.AtomicLong;
import javafx.scene.Scene;
import javafx.scene.control.Label;
import javafx.scene.control.ListView;
import javafx.scene.input.KeyCode;
import javafx.scene.input.KeyEvent;
import org.custodia.app.Console;
import org.custodia.app.Hub;
import org.custodia.app.Main;
import org.custodia.app.Snapshots;
import org.custodia.core.alarm.Alarm;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Kinds;
import org.custodia.core.operator.Actor;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.SystemId;
import org.custodia.desktop.desk.Desk;
import org.custodia.wire.LinksFile;
import org.custodia.wire.LinksFileForm;

/** How soon an alarm is seen, what thousands of them cost the window, and what a flood costs intake and keys. */
final class CalledBench {
    private static final SystemId SYSTEM = new SystemId("tidewater");
    private static final int ROUNDS = 150;
    private static final int MANY = 5_000;
    private static final int FLOOD = 1_000;
    private static final Duration FLOODED = Duration.ofSeconds(60);

    private final Hub hub;
    private final Actor odo;
    private final Console console;
    private final EventIntake.Feed feed;
    private long number;

    private CalledBench(Hub hub, Actor odo, Console console) {
        this.hub = hub;
        this.odo = odo;
        this.console = console;
        this.feed = hub.intake().feed(SYSTEM);
    }

    static void run() throws Exception {
        Console.offscreen();
        Path data = Files.createTempDirectory("custodia-bench");
        Actor odo = Main.demoOperator();
        LinksFileForm.Content nothing =
                new LinksFileForm().content(new LinksFile("Sternwick Museum", List.of(), List.of(), List.of()));
        try (Hub hub = new Hub(data, nothing, Clock.systemUTC(), odo)) {
            PairsBench.fill(hub);
            try (Console console = new Console(hub, "Sternwick Museum", true, odo)) {
                CalledBench bench = new CalledBench(hub, odo, console);
                bench.soon();
                bench.flood();
                bench.many();
            }
        } finally {
            TemporaryFiles.delete(data);
        }
    }

    private Event event(EventKind kind, int door) {
        Instant now = Instant.now();
        return Event.of(new EventKey(SYSTEM, 1, ++number), kind, now)
                .received(now, Duration.ZERO)
                .door(new DoorId("tidewater/d" + door))
                .build();
    }

    private void store(List<Event> some) {
        feed.accept(EventIntake.Batch.of(some, false)).join();
    }

    private Scene scene() {
        return console.window().scene();
    }

    private Desk desk() {
        return console.window().shell().desk();
    }

    /** From the commit of an event until the line of every view, and the card, show its alarm. */
    private void soon() throws Exception {
        Samples samples = new Samples();
        for (int round = 0; round < ROUNDS; round++) {
            int door = round;
            String name = hub.sites()
                    .get()
                    .door(new DoorId("tidewater/d" + door))
                    .orElseThrow()
                    .name();
            CompletableFuture<Long> shown = new CompletableFuture<>();
            Runnable look = () -> {
                boolean there = scene().getRoot().lookupAll(".alarm-line .label").stream()
                        .anyMatch(n -> n instanceof Label l
                                && name.equals(l.getText())
                                && n.getParent().isVisible());
                if (there) {
                    shown.complete(System.nanoTime());
                }
            };
            Snapshots.onFx(() -> {
                scene().addPostLayoutPulseListener(look);
                return null;
            });
            Event forced = event(Kinds.FORCED, door);
            store(List.of(forced));
            long stored = System.nanoTime();
            samples.add((shown.get() - stored) / 1e6);
            Snapshots.onFx(() -> {
                scene().removePostLayoutPulseListener(look);
                return null;
            });
            List<Alarm> open = hub.workplace(odo).alarms().open();
            hub.workplace(odo)
                    .alarms()
                    .acknowledge(open.stream().map(Alarm::seen).toList())
                    .join();
            StartBench.await(() -> Snapshots.onFx(() -> desk().alarms().unseen().isEmpty()));
        }
        System.out.println("stored until the alarm is drawn in the window (wanted: p95 under 250 ms): " + samples);
    }

    /** What a flood of alarms costs intake and keys, against the same without alarms in the same run. */
    private void flood() throws Exception {
        Load quiet = load(false);
        Load flooded = load(true);
        System.out.printf(
                Locale.ROOT,
                "intake while %,d alarms come in a minute: %,.0f events a second, without them %,.0f, ratio %.2f"
                        + " (wanted: 20,000); keys answered meanwhile (wanted: p95 under 100 ms): %s; without alarms: %s%n",
                FLOOD,
                flooded.perSecond,
                quiet.perSecond,
                flooded.perSecond / quiet.perSecond,
                flooded.keys,
                quiet.keys);
        StartBench.await(() -> hub.workplace(odo).alarms().open().size() >= FLOOD);
    }

    private record Load(double perSecond, Samples keys) {}

    private Load load(boolean alarms) throws Exception {
        AtomicBoolean ended = new AtomicBoolean();
        AtomicLong stored = new AtomicLong();
        long begun = System.nanoTime();
        Thread producer = new Thread(
                () -> {
                    int raised = 0;
                    while (!ended.get()) {
                        List<Event> batch = new ArrayList<>();
                        double share = (System.nanoTime() - begun) / (double) FLOODED.toNanos();
                        for (int i = 0; i < 2_000; i++) {
                            batch.add(event(i % 2 == 0 ? Kinds.GRANTED : Kinds.CLOSED, i % MANY));
                        }
                        while (alarms && raised < Math.min(1, share) * FLOOD) {
                            batch.add(event(Kinds.FORCED, ROUNDS + raised++));
                        }
                        store(batch);
                        stored.addAndGet(batch.size());
                    }
                },
                "bench flood");
        producer.start();
        Samples keys = new Samples();
        Snapshots.onFx(() -> {
            KeyEvent turn = new KeyEvent(KeyEvent.KEY_PRESSED, "", "", KeyCode.DIGIT2, false, true, false, false);
            javafx.event.Event.fireEvent(console.window().shell(), turn);
            return null;
        });
        while (System.nanoTime() - begun < FLOODED.toNanos()) {
            keys.add(PairsBench.drawn(scene(), () -> {
                ListView<?> queue = (ListView<?>) scene().lookup(".alarm-queue .list-view");
                javafx.event.Event.fireEvent(
                        queue, new KeyEvent(KeyEvent.KEY_PRESSED, "", "", KeyCode.DOWN, false, false, false, false));
            }));
            Thread.sleep(100);
        }
        ended.set(true);
        producer.join();
        return new Load(stored.get() / ((System.nanoTime() - begun) / 1e9), keys);
    }

    /** Thousands in the queue, scrolled from one end to the other. */
    private void many() throws Exception {
        List<Event> all = new ArrayList<>();
        for (int i = ROUNDS + FLOOD; i < MANY; i++) {
            all.add(event(Kinds.FORCED, i));
        }
        long begun = System.nanoTime();
        store(all);
        int before = ROUNDS + FLOOD;
        StartBench.await(() -> hub.workplace(odo).alarms().open().size() >= MANY);
        double took = (System.nanoTime() - begun) / 1e9;
        Samples bare = new Samples();
        Samples scrolled = new Samples();
        ListView<?> queue = Snapshots.onFx(() -> (ListView<?>) scene().lookup(".alarm-queue .list-view"));
        StartBench.await(() -> Snapshots.onFx(() -> queue.getItems().size() >= MANY));
        for (int i = 0; i < 300; i++) {
            int to = i * MANY / 300;
            bare.add(PairsBench.drawn(scene(), () -> {}));
            scrolled.add(PairsBench.drawn(scene(), () -> queue.scrollTo(to)));
        }
        System.out.printf(
                Locale.ROOT,
                "%,d more alarms raised one after the other in %.1f s; %,d in the queue, scrolled: %s; nothing scrolled: %s"
                        + " (wanted: no more than twice)%n",
                MANY - before,
                took,
                MANY,
                scrolled,
                bare);
    }
}
