package org.custodia.bench;

import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.List;
import java.util.Random;
import javafx.stage.Stage;
import org.custodia.app.Console;
import org.custodia.app.DemoSite;
import org.custodia.app.Main;
import org.custodia.app.RandomWalk;
import org.custodia.app.Snapshots;

/** Presses whatever there is in the window of a demo for a long time, while links are lost and doors are forced. */
final class WalkBench {
    private static final List<String> ORDERS = List.of(
            "{\"act\":\"link-drop\",\"target\":\"tidewater\",\"seconds\":5}",
            "{\"act\":\"present\",\"door\":\"vault-ante\",\"badge\":\"20266\"}",
            "{\"act\":\"force\",\"door\":\"strongroom-corr\",\"seconds\":5}");

    private WalkBench() {}

    static void run(int minutes) throws Exception {
        Console.offscreen();
        Path data = Files.createTempDirectory("custodia-bench");
        long seed = new Random().nextLong();
        try (DemoSite demo = new DemoSite(data, false);
                Console console = new Console(demo.hub(), demo.siteName(), true, Main.demoOperator())) {
            String address = demo.site().address() + "/control/do";
            Stage stage = Snapshots.onFx(() -> (Stage) console.window().scene().getWindow());
            RandomWalk walk = new RandomWalk(stage, seed, r -> order(address, r));
            System.out.println("a random walk of " + minutes + " min, seed " + seed);
            try {
                walk.walk(Duration.ofMinutes(minutes), demo.hub()::mishaps);
            } catch (RandomWalk.FoundException e) {
                System.out.println(e.getMessage());
                // The directory is about to be deleted.
                Files.readAllLines(data.resolve("console/diagnostics/custodia.log"))
                        .forEach(System.out::println);
                throw e;
            }
            System.out.println(walk.steps() + " steps, nothing stumbled, nothing hung");
        } finally {
            TemporaryFiles.delete(data);
        }
    }

    /** Tells the practice site what to do. */
    private static void order(String address, Random random) {
        HttpRequest request = HttpRequest.newBuilder(URI.create(address))
                .POST(HttpRequest.BodyPublishers.ofString(ORDERS.get(random.nextInt(ORDERS.size()))))
                .build();
        try {
            HttpClient.newHttpClient().send(request, HttpResponse.BodyHandlers.discarding());
        } catch (IOException e) {
            // The site is busy; the walk goes on without it.
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }
}
