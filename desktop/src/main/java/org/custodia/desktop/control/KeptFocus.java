package org.custodia.desktop.control;

import java.util.ArrayList;
import java.util.List;
import java.util.Objects;
import java.util.Optional;
import javafx.beans.value.ChangeListener;
import javafx.css.PseudoClass;
import javafx.scene.Node;
import javafx.scene.Parent;
import javafx.scene.Scene;
import javafx.scene.control.CheckBox;

/**
 * Keeps the focus where it was when what had it goes grey or is drawn anew. The toolkit would hand it to the next control,
 * which may be one that deletes, so that the next press of Space would delete something. Here it stays with the parent,
 * where no key does anything, and goes back once the control can be used again.
 */
public final class KeptFocus {
    private static final PseudoClass KEPT = PseudoClass.getPseudoClass("focus-kept");

    private final Scene scene;
    /** What had the focus, and what it lay in, from within to without. */
    private List<Node> chain = List.of();
    /** What went grey while it had the focus, until the focus is moved on. */
    private Optional<Node> grey = Optional.empty();
    /** Whether the toolkit has just taken the focus away and chooses where it goes. */
    private boolean toolkitChooses;

    private boolean moving;
    private final ChangeListener<Boolean> usableAgain = (o, before, disabled) -> giveBack();

    private KeptFocus(Scene scene) {
        this.scene = scene;
        scene.focusOwnerProperty().addListener((o, before, now) -> moved(before, now));
    }

    /** Keeps the focus in a scene for as long as there is the scene. */
    public static void in(Scene scene) {
        new KeptFocus(scene);
    }

    private void moved(Node before, Node now) {
        if (moving) {
            return;
        }
        if (now == null) {
            toolkitChooses = before != null && !usable(before);
            return;
        }
        Optional<Node> place = toolkitChooses ? place() : Optional.empty();
        toolkitChooses = false;
        forget();
        if (place.isEmpty()) {
            chain = chainOf(now);
            return;
        }
        Node gone = chain.get(0);
        moving = true;
        place.get().requestFocus();
        moving = false;
        chain = chainOf(place.get());
        if (gone.getScene() == scene) {
            grey = Optional.of(gone);
            gone.disabledProperty().addListener(usableAgain);
            gone.pseudoClassStateChanged(KEPT, true);
        }
    }

    private boolean usable(Node node) {
        return node.getScene() == scene && node.isVisible() && !node.isDisabled();
    }

    /** Where the focus goes: to the same box to tick where it was drawn anew, or else to what the lost one lay in. */
    private Optional<Node> place() {
        Optional<Node> around = chain.stream().skip(1).filter(this::usable).findFirst();
        Optional<Node> anew = chain.stream().findFirst().filter(n -> n.getScene() != scene);
        return around.flatMap(a -> anew.flatMap(gone -> alike(a, gone))).or(() -> around);
    }

    private static Optional<Node> alike(Node around, Node gone) {
        if (around instanceof Parent parent) {
            for (Node child : parent.getChildrenUnmodifiable()) {
                Optional<Node> found = isAlike(child, gone) ? Optional.of(child) : alike(child, gone);
                if (found.isPresent()) {
                    return found;
                }
            }
        }
        return Optional.empty();
    }

    /** Only what is ticked: a button with the same words may be another row's, and may delete. */
    private static boolean isAlike(Node one, Node gone) {
        return one instanceof CheckBox a
                && gone instanceof CheckBox b
                && !a.isDisabled()
                && Objects.equals(a.getText(), b.getText())
                && Objects.equals(a.getAccessibleText(), b.getAccessibleText());
    }

    private void giveBack() {
        grey.filter(this::usable).ifPresent(Node::requestFocus);
    }

    private void forget() {
        grey.ifPresent(n -> {
            n.disabledProperty().removeListener(usableAgain);
            n.pseudoClassStateChanged(KEPT, false);
        });
        grey = Optional.empty();
    }

    private static List<Node> chainOf(Node node) {
        List<Node> all = new ArrayList<>();
        for (Node n = node; n != null; n = n.getParent()) {
            all.add(n);
        }
        return all;
    }
}
