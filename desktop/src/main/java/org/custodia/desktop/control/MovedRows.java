package org.custodia.desktop.control;

import java.time.Duration;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.function.Function;
import java.util.function.LongSupplier;
import javafx.collections.ListChangeListener;
import javafx.scene.Node;
import javafx.scene.control.ListCell;
import javafx.scene.control.ListView;
import javafx.scene.input.MouseEvent;
import javafx.scene.layout.Pane;

/**
 * Which rows of a list have just changed their place. Such a row takes no press for a moment, since the pointer was aimed at
 * what stood there before.
 *
 * @param <K> the identity of a row
 */
public final class MovedRows<K> {
    /** How long a row that moved takes no press. */
    public static final Duration REST = Duration.ofSeconds(1);

    private final LongSupplier nanos;
    private final Map<K, Long> moved = new HashMap<>();
    private Map<K, Double> places = Map.of();

    public MovedRows() {
        this(System::nanoTime);
    }

    /** @param nanos a clock that only goes on, in nanoseconds */
    MovedRows(LongSupplier nanos) {
        this.nanos = nanos;
    }

    /** Takes where the rows are now; the first rows of an empty list have moved from nowhere and count as at rest. */
    public void places(Map<K, Double> now) {
        if (now.equals(places)) {
            return;
        }
        long at = nanos.getAsLong();
        moved.entrySet().removeIf(m -> !now.containsKey(m.getKey()) || at - m.getValue() >= REST.toNanos());
        if (!places.isEmpty()) {
            now.forEach((row, place) -> {
                if (!Objects.equals(places.get(row), place)) {
                    moved.put(row, at);
                }
            });
        }
        places = Map.copyOf(now);
    }

    /** Whether a row changed its place within the last moment. */
    public boolean justMoved(K row) {
        Long at = moved.get(row);
        return at != null && nanos.getAsLong() - at < REST.toNanos();
    }

    /**
     * Lets the rows of a list take no press for a moment after they moved.
     *
     * @param key the identity of an item, which stays the same when the item changes
     */
    public static <T, K> void guard(ListView<T> list, Function<T, K> key) {
        MovedRows<K> rows = new MovedRows<>();
        Runnable take = () -> rows.places(places(list.getItems(), key));
        take.run();
        ListChangeListener<T> changed = c -> take.run();
        list.getItems().addListener(changed);
        list.itemsProperty().addListener((o, before, now) -> {
            before.removeListener(changed);
            now.addListener(changed);
            take.run();
        });
        list.addEventFilter(MouseEvent.MOUSE_PRESSED, e -> {
            for (Node n = e.getPickResult().getIntersectedNode(); n != null && n != list; n = n.getParent()) {
                if (n instanceof ListCell<?> cell
                        && cell.getIndex() < list.getItems().size()
                        && !cell.isEmpty()) {
                    T item = list.getItems().get(cell.getIndex());
                    if (rows.justMoved(key.apply(item))) {
                        e.consume();
                    }
                    return;
                }
            }
        });
    }

    /** Lets the rows of a column take no press for a moment after they moved. */
    public static void guard(Pane column) {
        MovedRows<Node> rows = new MovedRows<>();
        column.needsLayoutProperty().addListener((o, before, needed) -> {
            if (!needed) {
                Map<Node, Double> now = new HashMap<>();
                column.getChildren().forEach(row -> now.put(row, row.getLayoutY()));
                rows.places(now);
            }
        });
        column.addEventFilter(MouseEvent.MOUSE_PRESSED, e -> {
            Node row = e.getPickResult().getIntersectedNode();
            while (row != null && row.getParent() != column) {
                row = row.getParent();
            }
            if (row != null && rows.justMoved(row)) {
                e.consume();
            }
        });
    }

    private static <T, K> Map<K, Double> places(List<T> items, Function<T, K> key) {
        Map<K, Double> all = new HashMap<>();
        for (int i = 0; i < items.size(); i++) {
            all.put(key.apply(items.get(i)), (double) i);
        }
        return all;
    }
}
