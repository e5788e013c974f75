package org.custodia.desktop.watch;

import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Consumer;
import java.util.function.Function;
import javafx.scene.Node;
import javafx.scene.layout.Region;
import org.custodia.core.site.DoorId;
import org.custodia.desktop.control.MovedRows;

/**
 * The strips, one under the other. Only those are made that are in view or nearly, or in which something is played or the focus
 * lies, so that hundreds of doors on watch cost what is seen of them.
 */
final class StripColumn extends Region {
    /** So many more are made above and below what is in view, for the next turn of the wheel and for Tab. */
    private static final int MARGIN = 2;

    private final Function<StripModel, StripView> make;
    private final Consumer<Set<StripModel>> inView;
    private final Map<StripModel, StripView> made = new HashMap<>();
    private List<StripModel> strips = List.of();
    private Set<StripModel> told = Set.of();
    private double row = 100;
    private double top;
    private double viewHeight;
    private final MovedRows<StripModel> moved = new MovedRows<>();
    /** Shown where there is no strip. */
    private final Node empty;

    /**
     * @param inView told which of them can be seen, whenever that changes
     */
    StripColumn(Function<StripModel, StripView> make, Consumer<Set<StripModel>> inView, Node empty) {
        this.make = make;
        this.inView = inView;
        this.empty = empty;
    }

    /** Whether a strip has just changed its place and takes no press yet. */
    boolean justMoved(StripModel strip) {
        return moved.justMoved(strip);
    }

    /** The strips from top to bottom. */
    void strips(List<StripModel> newStrips) {
        strips = List.copyOf(newStrips);
        update();
    }

    /** How high a strip is in which nothing is played. */
    void row(double height) {
        if (row != height) {
            row = height;
            update();
        }
    }

    /** What of it is in view. */
    void inView(double newTop, double newHeight) {
        if (top != newTop || viewHeight != newHeight) {
            top = newTop;
            viewHeight = newHeight;
            update();
        }
    }

    /** Doors whose strips lie above what is in view. */
    Set<DoorId> above() {
        Set<DoorId> above = new HashSet<>();
        double y = 0;
        for (StripModel strip : strips) {
            y += height(strip);
            if (y > top) {
                break;
            }
            above.add(strip.door().id());
        }
        return above;
    }

    /** Those that are made now. */
    Collection<StripView> made() {
        return List.copyOf(made.values());
    }

    /** A door's strip, which is made if it was not; nothing if the door has none. */
    Optional<StripView> of(DoorId door) {
        return strips.stream()
                .filter(s -> s.door().id().equals(door))
                .findFirst()
                .map(s -> {
                    StripView view = made.get(s);
                    if (view == null) {
                        view = make.apply(s);
                        made.put(s, view);
                        arrange();
                    }
                    return view;
                });
    }

    private double height(StripModel strip) {
        StripView view = made.get(strip);
        return view != null && view.deck().isPresent() ? Math.rint(view.prefHeight(getWidth())) : row;
    }

    private void update() {
        Set<StripModel> keep = new HashSet<>();
        double y = 0;
        for (StripModel strip : strips) {
            double h = height(strip);
            if (y + h >= top - MARGIN * row && y <= top + viewHeight + MARGIN * row) {
                keep.add(strip);
            }
            y += h;
        }
        Set<StripModel> there = new HashSet<>(strips);
        made.entrySet().removeIf(e -> {
            boolean needed = there.contains(e.getKey()) && (keep.contains(e.getKey()) || inUse(e.getValue()));
            if (!needed) {
                e.getValue().close();
            }
            return !needed;
        });
        keep.forEach(s -> made.computeIfAbsent(s, make));
        arrange();
    }

    private boolean inUse(StripView view) {
        return view.deck().isPresent() || holdsFocus(view);
    }

    private boolean holdsFocus(Node view) {
        for (Node n = focused(); n != null; n = n.getParent()) {
            if (n == view) {
                return true;
            }
        }
        return false;
    }

    private Node focused() {
        return getScene() == null ? null : getScene().getFocusOwner();
    }

    private void arrange() {
        List<Node> order = new ArrayList<>();
        strips.stream().map(made::get).filter(v -> v != null).forEach(order::add);
        if (strips.isEmpty()) {
            order.add(empty);
        }
        if (!order.equals(getChildren())) {
            Node focused = focused();
            getChildren().setAll(order);
            tell();
            if (focused != null && focused.getScene() != null) {
                focused.requestFocus();
            }
        }
        requestLayout();
    }

    private void tell() {
        if (!told.equals(made.keySet())) {
            told = Set.copyOf(made.keySet());
            inView.accept(told);
        }
    }

    @Override
    protected double computePrefHeight(double width) {
        return strips.isEmpty()
                ? empty.prefHeight(width)
                : strips.stream().mapToDouble(this::height).sum();
    }

    @Override
    protected double computeMinHeight(double width) {
        return computePrefHeight(width);
    }

    @Override
    protected double computePrefWidth(double height) {
        return 0;
    }

    @Override
    protected void layoutChildren() {
        double y = 0;
        Map<StripModel, Double> places = new HashMap<>();
        for (StripModel strip : strips) {
            double h = height(strip);
            StripView view = made.get(strip);
            if (view != null) {
                view.resizeRelocate(0, y, getWidth(), h);
            }
            places.put(strip, y);
            y += h;
        }
        moved.places(places);
        if (strips.isEmpty()) {
            empty.resizeRelocate(0, 0, getWidth(), empty.prefHeight(getWidth()));
        }
    }

    void close() {
        made.values().forEach(StripView::close);
        made.clear();
    }
}
