package org.custodia.bench;

import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import org.custodia.app.DemoSite;
import org.custodia.core.evidence.Candidate;
import org.custodia.core.evidence.EvidenceSearch;
import org.custodia.core.evidence.Findings;
import org.custodia.core.link.LinkStatus;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorCapability;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Pairing;
import org.custodia.core.site.SiteModel;

/** How often evidence finds the right camera without looking at names, and how many stills it takes. */
final class EvidenceBench {
    private EvidenceBench() {}

    static void run() throws Exception {
        Path data = Files.createTempDirectory("custodia-bench");
        try (DemoSite demo = new DemoSite(data, false)) {
            StartBench.await(() -> demo.hub().links().stream().allMatch(s -> s.state() == LinkStatus.State.UP));
            StartBench.await(() -> demo.hub().sites().get().cameras().size() > 50);
            measure(demo, false);
            measure(demo, true);
        } finally {
            TemporaryFiles.delete(data);
        }
    }

    private static void measure(DemoSite demo, boolean byNames) throws Exception {
        SiteModel sites = demo.hub().sites().get();
        // The truth is what the demo's links file says; the search does not look at it.
        Map<DoorId, List<Pairing>> truth =
                sites.doors().stream().collect(Collectors.toMap(Door::id, d -> sites.pairings(d.id())));
        List<DoorId> doors = sites.doors().stream()
                .filter(d -> d.can(DoorCapability.CONTACT) && !truth.get(d.id()).isEmpty())
                .map(Door::id)
                .toList();
        try (EvidenceSearch search = new EvidenceSearch(
                demo.hub().log(),
                demo.hub().sites(),
                demo.hub().peeks(),
                Findings.inMemory(),
                demo.hub().clock(),
                Duration.ZERO,
                byNames)) {
            long begun = System.nanoTime();
            search.look(doors);
            StartBench.await(() -> !search.progress().running());
            double seconds = (System.nanoTime() - begun) / 1e9;
            tell(search, truth, doors, sites, byNames, seconds);
        }
    }

    private static void tell(
            EvidenceSearch search,
            Map<DoorId, List<Pairing>> truth,
            List<DoorId> doors,
            SiteModel sites,
            boolean byNames,
            double seconds) {
        int first = 0;
        int sure = 0;
        int wrong = 0;
        int views = 0;
        int viewsRight = 0;
        int all = 0;
        int allFound = 0;
        List<String> missed = new ArrayList<>();
        for (DoorId door : doors) {
            Set<CameraId> right = truth.get(door).stream().map(Pairing::camera).collect(Collectors.toSet());
            all += right.size();
            EvidenceSearch.Result result = search.of(door).orElseThrow();
            Optional<Candidate> best = result.cameras().stream().findFirst();
            if (best.filter(c -> right.contains(c.camera())).isPresent()) {
                first++;
            } else {
                missed.add(door.value() + " (" + result.outcome() + ", " + result.openings() + " openings)");
            }
            for (Candidate c : result.cameras()) {
                if (c.confidence() == Candidate.Confidence.SURE) {
                    sure++;
                    if (!right.contains(c.camera())) {
                        wrong++;
                        missed.add(door.value() + " called sure of " + c);
                    }
                }
                if (right.contains(c.camera()) && c.weight() > 0) {
                    allFound++;
                    if (c.view().isPresent()) {
                        views++;
                        boolean so = truth.get(door).stream()
                                .anyMatch(p -> p.camera().equals(c.camera())
                                        && (p.view() == c.view().get() || p.view() == Pairing.View.OVERVIEW));
                        viewsRight += so ? 1 : 0;
                    }
                }
            }
        }
        long stills = search.progress().stills();
        long exhaustive = 3L * 12 * doors.size() * sites.cameras().size();
        System.out.printf(
                "evidence, names %s: %d doors, %d cameras; right camera first %d (%.0f %%); called sure %d, of these wrong %d;"
                        + " pairs found %d of %d; views right %d of %d told; %d stills, %.1f %% of all cameras at 12"
                        + " openings; %.0f s without pacing%n",
                byNames ? "used for the order" : "not looked at",
                doors.size(),
                sites.cameras().size(),
                first,
                100.0 * first / doors.size(),
                sure,
                wrong,
                allFound,
                all,
                viewsRight,
                views,
                stills,
                100.0 * stills / exhaustive,
                seconds);
        missed.forEach(m -> System.out.println("  not first: " + m));
    }
}
