package org.custodia.desktop.shell;

import atlantafx.base.controls.Notification;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import javafx.collections.ListChangeListener;
import javafx.scene.AccessibleRole;
import javafx.scene.Node;
import javafx.scene.control.Button;
import javafx.scene.control.ButtonBar;
import javafx.scene.control.Label;
import javafx.scene.control.ProgressBar;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import org.custodia.desktop.notice.Notice;
import org.custodia.desktop.notice.Notices;
import org.custodia.desktop.text.Texts;

/** Work in the background and notes on it, as cards in a corner of the window. Never takes the focus. */
final class NoticeStack extends VBox {
    private static final Texts TEXTS = Texts.of(NoticeStack.class);
    /** More than so many cover what people look at. */
    private static final int MOST = 3;

    private final Notices notices;
    private final Map<String, Card> cards = new LinkedHashMap<>();
    private final Label more = new Label();

    NoticeStack(Notices notices) {
        this.notices = notices;
        getStyleClass().add("notices");
        more.getStyleClass().add("secondary");
        setPickOnBounds(false);
        setMaxSize(Region.USE_PREF_SIZE, Region.USE_PREF_SIZE);
        notices.shown().addListener((ListChangeListener<Notice>) c -> show());
        show();
    }

    private void show() {
        List<Notice> wanted = notices.shown().stream()
                .filter(n -> n.kind() != Notice.Kind.TROUBLE)
                .toList();
        List<Node> nodes = new ArrayList<>();
        for (Notice notice : wanted.subList(0, Math.min(MOST, wanted.size()))) {
            Card card = cards.computeIfAbsent(notice.key(), k -> new Card());
            card.show(notice);
            nodes.add(card);
        }
        cards.keySet().removeIf(k -> wanted.stream().limit(MOST).noneMatch(n -> n.key()
                .equals(k)));
        if (wanted.size() > MOST) {
            more.setText(TEXTS.say("more-notices", wanted.size() - MOST));
            nodes.add(more);
        }
        if (!nodes.equals(getChildren())) {
            getChildren().setAll(nodes);
        }
        setVisible(!nodes.isEmpty());
        setManaged(!nodes.isEmpty());
    }

    /** One notice. */
    private final class Card extends Notification {
        private final ProgressBar bar = new ProgressBar();
        private Notice shown;

        Card() {
            setAccessibleRole(AccessibleRole.TEXT);
            bar.setMinWidth(56);
            bar.setPrefWidth(56);
        }

        void show(Notice notice) {
            boolean sameButtons = shown != null
                    && shown.next().equals(notice.next())
                    && shown.cancel().equals(notice.cancel());
            shown = notice;
            setMessage(notice.words());
            setAccessibleText(notice.words());
            boolean work = notice.kind() == Notice.Kind.WORK;
            bar.setProgress(notice.done().orElse(ProgressBar.INDETERMINATE_PROGRESS));
            bar.setAccessibleText(notice.words());
            setGraphic(work && notice.done().isPresent() ? bar : null);
            if (!sameButtons) {
                setPrimaryActions(buttons(notice).toArray(Button[]::new));
            }
        }

        private List<Button> buttons(Notice notice) {
            List<Button> buttons = new ArrayList<>();
            for (Notice.Action action : notice.next()) {
                buttons.add(button(action.words(), () -> {
                    action.run().run();
                    notices.hide(shown);
                }));
            }
            notice.cancel().ifPresent(c -> buttons.add(button(TEXTS.say("cancel"), c)));
            buttons.add(button(TEXTS.say("hide"), () -> notices.hide(shown)));
            return buttons;
        }

        private Button button(String words, Runnable run) {
            Button button = new Button(words);
            // Never cut, however large the text is.
            button.setMinWidth(Region.USE_PREF_SIZE);
            ButtonBar.setButtonUniformSize(button, false);
            button.setOnAction(e -> run.run());
            return button;
        }
    }
}
