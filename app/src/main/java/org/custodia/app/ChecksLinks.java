package org.custodia.app;

import java.io.PrintWriter;
import java.time.Clock;
import java.util.EnumMap;
import java.util.Map;
import java.util.Optional;
import org.custodia.core.link.Finding;
import org.custodia.core.link.Finding.Verdict;
import org.custodia.core.setup.LinkSetup;
import org.custodia.desktop.saying.SayingWords;
import org.custodia.link.SystemWalk;
import org.custodia.wire.LinksFileForm;

/** Walks through the systems of a links file and prints what it finds, each requirement with what was seen. */
final class ChecksLinks {
    private static final Map<Verdict, String> WORDS = Map.of(
            Verdict.MET, "met", Verdict.NOT_MET, "NOT MET", Verdict.ADVICE, "advice", Verdict.NOT_TRIED, "not tried");

    private final PrintWriter out;
    private final Map<Verdict, Integer> counts = new EnumMap<>(Verdict.class);

    ChecksLinks(PrintWriter out) {
        this.out = out;
    }

    /**
     * Walks through all of them.
     *
     * @param actOn a door that may be opened once, as system/door
     * @return 0 if everything is met, 1 if something is not
     */
    int check(LinksFileForm.Content links, Optional<String> actOn) throws InterruptedException {
        actOn.ifPresent(door -> {
            int slash = door.indexOf('/');
            boolean known = links.setup().links().stream()
                    .anyMatch(l -> l.kind().equals("access") && slash > 0 && l.id().equals(door.substring(0, slash)));
            if (!known) {
                throw new Main.CannotStartException(
                        "The door " + door + " is not written system/door with an access system of the links file.");
            }
        });
        for (LinkSetup link : links.setup().links()) {
            out.println(link.name() + " (" + link.kind() + " " + link.id() + ", " + link.address() + ")");
            Optional<String> door = actOn.filter(d -> d.startsWith(link.id() + "/"))
                    .map(d -> d.substring(link.id().length() + 1));
            try (SystemWalk walk = LinksFiles.factory(link)
                    .walk(
                            LinksFiles.destination(link, links.tokens().get(link.id())),
                            door,
                            Clock.systemUTC(),
                            this::told)) {
                walk.walk();
            }
            out.println();
            out.flush();
        }
        int notMet = counts.getOrDefault(Verdict.NOT_MET, 0);
        out.println(counts.getOrDefault(Verdict.MET, 0) + " requirements met, " + notMet + " not met, "
                + counts.getOrDefault(Verdict.ADVICE, 0) + " met with advice, "
                + counts.getOrDefault(Verdict.NOT_TRIED, 0) + " not tried. "
                + (notMet == 0
                        ? "A console can work with these systems."
                        : "What is not met is described in docs/link-protocol.md."));
        out.flush();
        return notMet == 0 ? 0 : 1;
    }

    private void told(Finding finding) {
        counts.merge(finding.verdict(), 1, Integer::sum);
        out.printf(
                "  %-9s  %s%n             %s%n",
                WORDS.get(finding.verdict()), finding.requirement(), SayingWords.of(finding.seen()));
        out.flush();
    }
}
