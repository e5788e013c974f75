package org.custodia.desktop.trial;

import java.util.List;
import java.util.function.Consumer;
import org.custodia.core.event.Event;
import org.custodia.core.setup.Trial;
import org.custodia.core.site.Pairing;

/** What is tried: a door at which something is presented, or a device that is tripped. */
public interface Tried {
    /** What people call it. */
    String name();

    /** Whether it is a door, at which something is presented; a device is tripped. */
    boolean isDoor();

    /** Whether something happened there that is to be judged. */
    boolean happened(Event event);

    /** Whether something happened there that is to be judged if nothing else comes with it. */
    boolean moved(Event event);

    /** Whether something happened elsewhere that may have been meant. */
    boolean elsewhere(Event event);

    /** The cameras that show it, as pairs. */
    List<Pairing> pairs();

    /** Keeps an answer, away from the JavaFX thread. */
    void keep(Pairing pairing, Trial trial, Runnable done, Consumer<String> failed);
}
