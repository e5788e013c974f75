package org.custodia.desktop.control;

import java.time.ZoneId;
import javafx.scene.control.Button;
import javafx.scene.control.Label;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import org.custodia.core.setup.Connections;
import org.custodia.desktop.text.Texts;

/** A certificate that nobody vouches for, to be compared with what its owner says, and confirmed. */
public final class CertificateBox extends VBox {
    private static final Texts TEXTS = Texts.of(CertificateBox.class);

    /**
     * @param may whether the operator may confirm it
     */
    public CertificateBox(Connections.Shown shown, boolean may, Runnable confirm) {
        super(6);
        Label whom = label(TEXTS.say(
                "certificate-of",
                shown.subject().replaceFirst("^CN=(?=[^,=]*$)", ""),
                Texts.date(shown.until(), ZoneId.systemDefault())));
        Label print = label(inTwoLines(Connections.Shown.written(shown.fingerprint())));
        print.getStyleClass().add("fingerprint");
        Label compare = label(TEXTS.say("certificate-compare"));
        compare.getStyleClass().add("secondary");
        Button right = new Button(TEXTS.say("certificate-confirm"));
        right.setMinWidth(Region.USE_PREF_SIZE);
        right.setDisable(!may);
        right.setOnAction(e -> confirm.run());
        getChildren().setAll(whom, print, compare, right);
    }

    private static Label label(String words) {
        Label label = new Label(words);
        label.setWrapText(true);
        label.setMinHeight(Region.USE_PREF_SIZE);
        return label;
    }

    /** A fingerprint of two times sixteen pairs, so that it is compared line by line. */
    public static String inTwoLines(String fingerprint) {
        int half = fingerprint.length() / 2;
        return fingerprint.substring(0, half) + "\n" + fingerprint.substring(half + 1);
    }
}
