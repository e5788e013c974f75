package org.custodia.desktop.translation;

import java.util.List;
import java.util.Locale;
import java.util.Optional;
import javafx.geometry.Pos;
import javafx.scene.control.Button;
import javafx.scene.control.ComboBox;
import javafx.scene.control.Label;
import javafx.scene.control.ListCell;
import javafx.scene.control.ListView;
import javafx.scene.control.MenuButton;
import javafx.scene.control.MenuItem;
import javafx.scene.control.ScrollPane;
import javafx.scene.control.TextField;
import javafx.scene.layout.BorderPane;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import org.custodia.core.event.SentWords;
import org.custodia.core.setup.TranslationDesk;
import org.custodia.desktop.control.Segments;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.saying.SayingWords;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.Theme;
import org.custodia.desktop.words.ClockWords;
import org.custodia.desktop.words.Names;

/** What a system sends, and what that means here: a line for each kind and code, with how often it came. */
public final class TranslationPage extends BorderPane {
    private static final Texts TEXTS = Texts.of(TranslationPage.class);

    private final TranslationModel model;
    private final ComboBox<TranslationModel.Sender> systems;
    private final TextField search = new TextField();
    private final Segments<TranslationModel.Show> shows;
    private final MenuButton versions = new MenuButton();
    private final Button unread = new Button();
    private final ListView<TranslationDesk.Row> list;
    private final Label none = new Label();
    private final MeaningPart meaning;
    private final BorderPane body = new BorderPane();
    private boolean choosing;

    public TranslationPage(Desk desk, Theme theme) {
        this.model = new TranslationModel(desk);
        this.meaning = new MeaningPart(model);
        this.systems = new ComboBox<>(model.systems());
        this.shows = new Segments<>(TranslationModel.Show.class, model.show());
        this.list = new ListView<>(model.rows().list());
        systems.setAccessibleText(TEXTS.say("system"));
        systems.setCellFactory(v -> systemCell());
        systems.setButtonCell(systemCell());
        systems.setMinWidth(theme.px(150));
        systems.valueProperty().bindBidirectional(model.system());
        search.setPromptText(TEXTS.say("find"));
        search.setAccessibleText(TEXTS.say("find"));
        search.textProperty().bindBidirectional(model.search());
        search.setMinWidth(theme.px(90));
        HBox.setHgrow(search, Priority.ALWAYS);
        versions.setMinWidth(Region.USE_PREF_SIZE);
        unread.setMinWidth(Region.USE_PREF_SIZE);
        unread.setOnAction(e -> showUnread());
        HBox first = new HBox(10, systems, search, shows, versions, unread);
        first.setAlignment(Pos.CENTER_LEFT);
        first.getStyleClass().add("pairs-search");
        list.setCellFactory(v -> new Line());
        list.getStyleClass().add("pairs");
        list.setAccessibleText(TEXTS.say("sent"));
        none.getStyleClass().add("empty");
        none.setWrapText(true);
        list.setPlaceholder(none);
        list.getSelectionModel().selectedItemProperty().addListener((o, a, b) -> {
            if (!choosing && !model.rows().filling() && b != null) {
                meaning.show(Optional.of(b));
            }
        });
        ScrollPane side = new ScrollPane(meaning);
        side.setFitToWidth(true);
        side.setFocusTraversable(false);
        side.setHbarPolicy(ScrollPane.ScrollBarPolicy.NEVER);
        side.getStyleClass().add("placing-side");
        setTop(first);
        body.setCenter(list);
        body.setRight(side);
        setCenter(body);
        model.state().addListener((o, a, b) -> told());
        model.rows().filled().addListener((o, a, b) -> told());
        told();
    }

    private static ListCell<TranslationModel.Sender> systemCell() {
        return new ListCell<>() {
            @Override
            protected void updateItem(TranslationModel.Sender system, boolean nothing) {
                super.updateItem(system, nothing);
                setText(nothing || system == null ? "" : system.name());
            }
        };
    }

    private void told() {
        shows.letter(which -> TEXTS.say("show." + which.name().toLowerCase(Locale.ROOT), model.count(which)));
        TranslationModel.State state = model.state().get();
        if (!model.mayLook()) {
            none.setText(TEXTS.say("may-not"));
        } else if (state instanceof TranslationModel.State.Failed failed) {
            none.setText(TEXTS.say("failed", failed.why()));
        } else if (model.systems().isEmpty()) {
            none.setText(TEXTS.say("no-system"));
        } else if (state instanceof TranslationModel.State.Loading) {
            none.setText(TEXTS.say("loading"));
        } else if (model.count(TranslationModel.Show.ALL) == 0) {
            none.setText(TEXTS.say("nothing-yet"));
        } else {
            none.setText(TEXTS.say("nothing-fits"));
        }
        if (state instanceof TranslationModel.State.Read read) {
            versions(read.table().version(), read.versions());
            unread.setText(TEXTS.say("not-understood", read.notUnderstood().messages()));
            unread.setDisable(read.notUnderstood().messages() == 0);
        } else {
            versions.setText(TEXTS.say("versions", 0));
            versions.setDisable(true);
            unread.setText(TEXTS.say("not-understood", 0));
            unread.setDisable(true);
            meaning.show(Optional.empty());
        }
        chooseAgain();
    }

    /** Chooses what was chosen before the list was filled anew, as it is now. */
    private void chooseAgain() {
        Optional<TranslationDesk.Row> before = meaning.row();
        choosing = true;
        list.getSelectionModel().clearSelection();
        Optional<TranslationDesk.Row> now = before.flatMap(b -> model.rows().list().stream()
                .filter(r -> r.sent().kind().equals(b.sent().kind())
                        && r.sent().code().equals(b.sent().code()))
                .findFirst());
        now.ifPresent(r -> list.getSelectionModel().select(r));
        choosing = false;
        now.ifPresent(r -> meaning.show(now));
    }

    private void versions(long current, List<SentWords.Made> made) {
        versions.setText(TEXTS.say("versions", current));
        versions.setDisable(made.isEmpty() || !model.may());
        versions.getItems().clear();
        for (SentWords.Made one : made) {
            long version = one.translation().version();
            if (version != current) {
                versions.getItems()
                        .add(item(
                                version,
                                TEXTS.say(
                                        "version",
                                        version,
                                        ClockWords.dated(
                                                one.when(),
                                                model.desk().now(),
                                                model.desk().zone()),
                                        one.by(),
                                        one.translation().rules().size())));
            }
        }
        versions.getItems().add(item(0, TEXTS.say("version-none")));
    }

    private MenuItem item(long version, String words) {
        MenuItem item = new MenuItem(words);
        item.setOnAction(e -> model.putBack(version));
        return item;
    }

    /** Shows what could not be understood, in place of the list. */
    private void showUnread() {
        if (!(model.state().get() instanceof TranslationModel.State.Read read)) {
            return;
        }
        VBox all = new VBox(10);
        all.getStyleClass().add("import-preview");
        Label head = new Label(TEXTS.say("not-understood", read.notUnderstood().messages()));
        head.getStyleClass().add("large");
        Label what = new Label(TEXTS.say(
                "not-understood-what",
                read.notUnderstood().newest().size(),
                read.notUnderstood().messages()));
        what.getStyleClass().add("secondary");
        what.setWrapText(true);
        what.setMinHeight(Region.USE_PREF_SIZE);
        ListView<SentWords.Kept> kept = new ListView<>();
        kept.setAccessibleText(TEXTS.say("not-understood-list"));
        kept.getItems().setAll(read.notUnderstood().newest());
        kept.setCellFactory(v -> new KeptLine());
        VBox.setVgrow(kept, Priority.ALWAYS);
        Button back = new Button(TEXTS.say("back"));
        back.setMinWidth(Region.USE_PREF_SIZE);
        back.setOnAction(e -> back());
        all.getChildren().setAll(head, what, kept, new HBox(back));
        setCenter(all);
        kept.requestFocus();
    }

    /** One message that could not be understood. */
    private final class KeptLine extends ListCell<SentWords.Kept> {
        private final Label why = new Label();
        private final Label raw = new Label();
        private final VBox both = new VBox(2, why, raw);

        KeptLine() {
            raw.getStyleClass().add("secondary");
            raw.setWrapText(true);
            why.setWrapText(true);
            setPrefWidth(0);
        }

        @Override
        protected void updateItem(SentWords.Kept one, boolean nothing) {
            super.updateItem(one, nothing);
            if (nothing || one == null) {
                setGraphic(null);
                return;
            }
            why.setText(TEXTS.say(
                    "kept",
                    ClockWords.dated(
                            one.received(), model.desk().now(), model.desk().zone()),
                    SayingWords.of(one.why())));
            raw.setText(one.raw());
            setGraphic(both);
        }
    }

    /** What was sent alike. */
    private static final class Line extends ListCell<TranslationDesk.Row> {
        private final Label kind = new Label();
        private final Label reasons = new Label();
        private final Label means = new Label();
        private final Label how = new Label();
        private final Label times = new Label();
        private final HBox line = new HBox(14);

        Line() {
            kind.getStyleClass().add("strong");
            reasons.getStyleClass().add("secondary");
            how.getStyleClass().add("secondary");
            VBox first = new VBox(kind, reasons);
            first.getStyleClass().add("thing-name");
            first.setAlignment(Pos.CENTER_LEFT);
            HBox.setHgrow(first, Priority.ALWAYS);
            VBox second = new VBox(means, how);
            second.getStyleClass().add("thing-place");
            second.setAlignment(Pos.CENTER_LEFT);
            times.getStyleClass().add("sent-times");
            line.setAlignment(Pos.CENTER_LEFT);
            line.getChildren().setAll(first, second, times);
            line.getStyleClass().add("thing-line");
            setPrefWidth(0);
        }

        @Override
        protected void updateItem(TranslationDesk.Row row, boolean nothing) {
            super.updateItem(row, nothing);
            if (nothing || row == null) {
                setGraphic(null);
                return;
            }
            SentWords.Sent sent = row.sent();
            kind.setText(
                    sent.code().map(c -> TEXTS.say("sent-code", sent.kind(), c)).orElse(sent.kind()));
            reasons.setText(String.join(", ", sent.reasons()));
            reasons.setManaged(!sent.reasons().isEmpty());
            means.setText(
                    sent.known()
                            ? Names.kind(sent.means())
                            : TEXTS.say("means-nothing", sent.means().id()));
            means.getStyleClass().setAll("label", sent.known() ? "ink" : "caution");
            how.setText(TEXTS.say(row.rule().isPresent() ? "said-here" : "as-it-is-sent"));
            times.setText(TEXTS.say("times", sent.events()));
            setGraphic(line);
        }
    }

    /** Reads again what there is. */
    public void refresh() {
        model.refresh();
    }

    /** One step back; false if nothing was open. */
    public boolean back() {
        if (getCenter() != body) {
            setCenter(body);
            list.requestFocus();
            return true;
        }
        return false;
    }
}
