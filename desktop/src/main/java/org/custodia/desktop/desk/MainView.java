package org.custodia.desktop.desk;

import java.util.List;
import java.util.function.Function;
import java.util.function.Supplier;
import javafx.scene.Node;
import javafx.scene.input.KeyCombination;
import org.custodia.core.event.Event;
import org.custodia.core.site.DoorId;

/**
 * One of the views that fill the window. A view is added by writing its {@link Plug} and putting that into the shell's list:
 * the spine, the keys, the finder and the sheet of keys read it there. A view is made when the window opens, is used on the
 * JavaFX thread, and is closed with the window.
 */
public interface MainView extends AutoCloseable {
    /**
     * How a view is known before there is one.
     *
     * @param name as it is shown
     * @param words under which the finder finds it, besides its name
     * @param icon the outline of a picture of 20 to 20, as an SVG path
     * @param key shows it
     * @param keys that work inside, for the sheet of keys
     * @param make makes it
     */
    record Plug(
            Supplier<String> name,
            Supplier<List<String>> words,
            String icon,
            KeyCombination key,
            Supplier<List<Shortcut>> keys,
            Function<ViewContext, MainView> make) {}

    Node node();

    /** Whether it is in the window now; one that is not costs next to nothing. */
    void inSight(boolean inSight);

    /** One step back; false if there was nothing to go back from. */
    boolean back();

    /** What has to be known of this view while the console looks back, in a sentence. */
    String whileLookingBack();

    /** Whether it is shown when the window opens, since nothing else makes sense yet. */
    default boolean comesFirst() {
        return false;
    }

    /** Plays an event, if this view can; false if it cannot. */
    default boolean play(Event event) {
        return false;
    }

    /** Brings in a door, if this view shows doors; false if it does not. */
    default boolean show(DoorId door) {
        return false;
    }

    /** Takes notice that the places changed. */
    void placesChanged();

    @Override
    void close();
}
