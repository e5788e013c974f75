package org.custodia.desktop.shell;

import java.util.ArrayList;
import java.util.List;
import javafx.scene.control.Button;
import javafx.scene.layout.Region;
import org.custodia.desktop.notice.Notice;
import org.custodia.desktop.notice.Notices;
import org.custodia.desktop.text.Texts;

/** The buttons of a notice: what can be done about it, cancel, hide. */
final class NoticeButtons {
    private static final Texts TEXTS = Texts.of(NoticeButtons.class);

    private NoticeButtons() {}

    static List<Button> of(Notice notice, Notices notices) {
        List<Button> buttons = new ArrayList<>();
        for (Notice.Action action : notice.next()) {
            buttons.add(button(action.words(), () -> {
                action.run().run();
                notices.hide(notice);
            }));
        }
        notice.cancel().ifPresent(c -> buttons.add(button(TEXTS.say("cancel"), c)));
        buttons.add(button(TEXTS.say("hide"), () -> notices.hide(notice)));
        return buttons;
    }

    /** Whether two notices have the same buttons, so that they need not be made anew under a pointer. */
    static boolean areSame(Notice a, Notice b) {
        return a != null
                && a.key().equals(b.key())
                && a.kind() == b.kind()
                && a.words().equals(b.words())
                && a.next().equals(b.next())
                && a.cancel().equals(b.cancel());
    }

    private static Button button(String words, Runnable run) {
        Button button = new Button(words);
        // Never cut, however large the text is.
        button.setMinWidth(Region.USE_PREF_SIZE);
        button.setOnAction(e -> run.run());
        return button;
    }
}
