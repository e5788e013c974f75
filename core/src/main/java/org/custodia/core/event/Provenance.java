package org.custodia.core.event;

import java.util.List;
import java.util.Locale;
import org.custodia.core.site.SystemId;

/** Who may write what: facts about operators, commands, links, the log and alarms are Custodia's own. */
public final class Provenance {
    private static final List<String> OWN =
            List.of("operator.", "command.", "link.", "log.", "camera.", "alarm.", "custodia.");
    /** Details whose names begin so are marks that Custodia puts on an event; nobody else's are taken for them. */
    public static final String MARK = "~";

    private Provenance() {}

    /** Whether a kind is one that only Custodia writes. */
    public static boolean own(EventKind kind) {
        return OWN.stream().anyMatch(kind.id().toLowerCase(Locale.ROOT)::startsWith);
    }

    /** Whether a system may say that something of this kind happened. */
    public static boolean mayWrite(SystemId system, EventKind kind) {
        return system.equals(SystemId.CUSTODIA) || !own(kind);
    }

    /** Whether an event of Custodia's own kinds was really written by Custodia. */
    public static boolean trusted(Event event) {
        return mayWrite(event.key().system(), event.kind());
    }
}
