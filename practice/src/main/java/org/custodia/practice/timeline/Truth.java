package org.custodia.practice.timeline;

import java.time.Instant;
import java.util.ArrayList;
import java.util.List;

/** What really happened, beside what devices said of it; for tests and measurements only, no link tells it. */
public final class Truth {
    private final List<Happening> all = new ArrayList<>();

    /**
     * Something that went wrong.
     *
     * @param incident which incident of the file
     * @param where the door, controller, camera or site
     * @param people the ids of those whose badges were used or who were there; empty where nobody on file was
     * @param harm whether somebody meant harm
     */
    public record Happening(Instant at, String incident, String where, List<String> people, boolean harm) {}

    synchronized void add(long at, Incident incident, String where, List<String> who) {
        all.add(new Happening(
                Instant.ofEpochMilli(at),
                incident.id(),
                where,
                List.copyOf(who),
                Boolean.TRUE.equals(incident.harm())));
    }

    /** All of it so far, in the order in which it began. */
    public synchronized List<Happening> all() {
        return List.copyOf(all);
    }
}
