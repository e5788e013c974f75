package org.custodia.desktop.control;

import java.util.List;
import javafx.beans.property.ReadOnlyLongProperty;
import javafx.beans.property.ReadOnlyLongWrapper;
import javafx.collections.FXCollections;
import javafx.collections.ObservableList;

/**
 * The rows of a list that is filled anew again and again, while somebody has chosen some of them: what is chosen while they are
 * being filled is nobody's choice.
 *
 * @param <T> a row
 */
public final class Rows<T> {
    private final ObservableList<T> rows = FXCollections.observableArrayList();
    private final ReadOnlyLongWrapper filled = new ReadOnlyLongWrapper();
    private boolean filling;

    public ObservableList<T> list() {
        return rows;
    }

    /** Goes up each time they have been filled anew, or what is known of them has changed. */
    public ReadOnlyLongProperty filled() {
        return filled.getReadOnlyProperty();
    }

    /** Whether they are being filled anew just now. */
    public boolean filling() {
        return filling;
    }

    /** Fills them anew; what is the same already is not touched. */
    public void fill(List<T> now) {
        if (!now.equals(rows)) {
            filling = true;
            try {
                rows.setAll(now);
            } finally {
                filling = false;
            }
        }
        filled.set(filled.get() + 1);
    }
}
