package org.custodia.desktop.setup;

import java.util.List;
import java.util.Set;
import java.util.function.Consumer;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Kinds;
import org.custodia.core.setup.Trial;
import org.custodia.core.site.Door;
import org.custodia.core.site.Pairing;
import org.custodia.desktop.trial.Tried;

/** A door whose pairs are tried: something is presented at one of its readers. */
record TriedDoor(PairsModel model, Door door) implements Tried {
    private static final Set<EventKind> PRESENTED = Set.of(Kinds.GRANTED, Kinds.REFUSED, Kinds.EXIT_REQUESTED);

    @Override
    public String name() {
        return door.name();
    }

    @Override
    public boolean isDoor() {
        return true;
    }

    private boolean here(Event event) {
        return event.door().filter(door.id()::equals).isPresent();
    }

    @Override
    public boolean happened(Event event) {
        return here(event) && PRESENTED.contains(event.kind());
    }

    @Override
    public boolean moved(Event event) {
        return here(event) && event.kind().equals(Kinds.OPENED);
    }

    @Override
    public boolean elsewhere(Event event) {
        return !here(event)
                && PRESENTED.contains(event.kind())
                && event.door()
                        .flatMap(model.desk().services().sites().get()::door)
                        .filter(d -> d.site().equals(door.site()))
                        .isPresent();
    }

    @Override
    public List<Pairing> pairs() {
        return model.pairings(door);
    }

    @Override
    public void keep(Pairing pairing, Trial trial, Runnable done, Consumer<String> failed) {
        model.tried(trial, door.id(), done, failed);
    }
}
