package org.custodia.desktop.shell;

import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.function.Predicate;
import javafx.collections.ListChangeListener;
import javafx.geometry.Pos;
import javafx.scene.Node;
import javafx.scene.control.Button;
import javafx.scene.control.Label;
import javafx.scene.control.ProgressBar;
import javafx.scene.control.Tooltip;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import org.custodia.desktop.notice.Notice;
import org.custodia.desktop.notice.Notices;
import org.custodia.desktop.text.Texts;

/**
 * Trouble, work in the background and notes, in the line under the top bar: there they cover nothing that can be pressed. One
 * of trouble and one of the others are shown; a button opens the list of all. Never takes the focus.
 */
final class NoticeLine extends HBox {
    private static final Texts TEXTS = Texts.of(NoticeLine.class);

    private final Notices notices;
    private final Cell trouble = new Cell("trouble-bar");
    private final Cell other = new Cell("notice");
    private final Button all = new Button();
    private boolean crowded;

    /**
     * @param showAll opens the list of all notices
     */
    NoticeLine(Notices notices, Runnable showAll) {
        this.notices = notices;
        getStyleClass().add("notice-line");
        setAlignment(Pos.CENTER_LEFT);
        all.setMinWidth(Region.USE_PREF_SIZE);
        all.setOnAction(e -> showAll.run());
        getChildren().setAll(trouble, other, all);
        notices.shown().addListener((ListChangeListener<Notice>) c -> show());
        show();
    }

    /** Whether there is no room for words, only for a button that opens the list. */
    void crowded(boolean now) {
        if (crowded != now) {
            crowded = now;
            show();
        }
    }

    private void show() {
        trouble.show(first(n -> n.kind() == Notice.Kind.TROUBLE));
        other.show(first(n -> n.kind() != Notice.Kind.TROUBLE));
        int count = notices.shown().size();
        Labels.set(all, TEXTS.say("all-notices", count));
        shown(all, count > (trouble.isVisible() ? 1 : 0) + (other.isVisible() ? 1 : 0));
        shown(this, count > 0);
    }

    private Optional<Notice> first(Predicate<Notice> which) {
        // What can be done about something counts more than how far work has come.
        List<Notice> those = notices.shown().stream().filter(which).toList();
        return crowded
                ? Optional.empty()
                : those.stream().filter(n -> !n.next().isEmpty()).findFirst().or(() -> those.stream()
                        .findFirst());
    }

    private static void shown(Node node, boolean now) {
        node.setVisible(now);
        node.setManaged(now);
    }

    /** One notice in one line; its words in full are in its tooltip and in the list. */
    private final class Cell extends HBox {
        private final Label words = new Label();
        private final Tooltip tip = new Tooltip();
        private final ProgressBar bar = new ProgressBar();
        private Notice shown;

        Cell(String style) {
            super(8);
            getStyleClass().add(style);
            setAlignment(Pos.CENTER_LEFT);
            words.setMinWidth(0);
            words.setMaxWidth(Double.MAX_VALUE);
            words.setTooltip(tip);
            bar.setMinWidth(56);
            bar.setPrefWidth(56);
            HBox.setHgrow(words, Priority.ALWAYS);
            HBox.setHgrow(this, Priority.ALWAYS);
            setMinWidth(0);
        }

        void show(Optional<Notice> now) {
            NoticeLine.shown(this, now.isPresent());
            now.ifPresent(this::show);
        }

        private void show(Notice notice) {
            boolean sameButtons = NoticeButtons.areSame(shown, notice);
            shown = notice;
            Labels.set(words, notice.words());
            tip.setText(notice.words());
            bar.setProgress(notice.done().orElse(ProgressBar.INDETERMINATE_PROGRESS));
            bar.setAccessibleText(notice.words());
            if (!sameButtons || getChildren().isEmpty()) {
                List<Node> nodes = new ArrayList<>();
                if (notice.kind() == Notice.Kind.WORK) {
                    nodes.add(bar);
                }
                nodes.add(words);
                nodes.addAll(NoticeButtons.of(notice, notices));
                getChildren().setAll(nodes);
            }
        }
    }
}
