package org.custodia.core.evidence;

import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import org.custodia.core.event.EventLogException;
import org.custodia.core.evidence.EvidenceSearch.Result;
import org.custodia.core.site.DoorId;

/** What was found of which camera shows which door, beside the log, so that it outlives the process. */
public interface Findings {
    /**
     * Keeps what was found of doors; what was known of them before is forgotten.
     *
     * @throws EventLogException if it cannot be written
     */
    void keep(Map<DoorId, Result> found);

    /**
     * All that was kept.
     *
     * @throws EventLogException if it cannot be read
     */
    Map<DoorId, Result> all();

    /** Some that are gone with the process. */
    static Findings inMemory() {
        Map<DoorId, Result> all = new ConcurrentHashMap<>();
        return new Findings() {
            @Override
            public void keep(Map<DoorId, Result> found) {
                all.putAll(found);
            }

            @Override
            public Map<DoorId, Result> all() {
                return Map.copyOf(all);
            }
        };
    }
}
