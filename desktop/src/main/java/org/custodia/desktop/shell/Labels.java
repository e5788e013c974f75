package org.custodia.desktop.shell;

import javafx.scene.control.Labeled;

/** What is said many times a second and seldom changes. */
final class Labels {
    private Labels() {}

    /** Sets a label's text where it is another. */
    static void set(Labeled label, String text) {
        if (!text.equals(label.getText())) {
            label.setText(text);
        }
    }
}
