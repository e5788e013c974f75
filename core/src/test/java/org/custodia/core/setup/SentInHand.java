package org.custodia.core.setup;

import java.util.ArrayList;
import java.util.List;
import org.custodia.core.event.SentWords;
import org.custodia.core.site.SystemId;

/** What a system sent, in memory. */
public final class SentInHand implements SentWords {
    public final List<Sent> sent = new ArrayList<>();
    public final List<Made> versions = new ArrayList<>();

    @Override
    public List<Sent> sent(SystemId system) {
        return List.copyOf(sent);
    }

    @Override
    public List<Made> versions(SystemId system) {
        return List.copyOf(versions);
    }

    @Override
    public NotUnderstood notUnderstood(SystemId system, int most) {
        return new NotUnderstood(0, List.of());
    }
}
