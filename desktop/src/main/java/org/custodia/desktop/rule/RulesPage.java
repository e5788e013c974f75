package org.custodia.desktop.rule;

import java.nio.file.Path;
import java.util.List;
import java.util.Optional;
import javafx.geometry.Pos;
import javafx.scene.control.Button;
import javafx.scene.control.Label;
import javafx.scene.control.ListCell;
import javafx.scene.control.ListView;
import javafx.scene.control.MenuButton;
import javafx.scene.control.MenuItem;
import javafx.scene.control.ScrollPane;
import javafx.scene.layout.BorderPane;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import org.custodia.core.alarm.RuleDesk;
import org.custodia.desktop.control.FileQuestion;
import org.custodia.desktop.control.SheetFile;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.PriorityMark;
import org.custodia.desktop.theme.Theme;

/** All rules of alarms, a sentence each, and the one that is being edited. */
public final class RulesPage extends BorderPane {
    private static final Texts TEXTS = Texts.of(RulesPage.class);
    private static final double LIST = 430;

    private final Desk desk;
    private final Theme theme;
    private final RuleModel model;
    private final RuleWords words;
    private final ListView<RuleDesk.Standing> list = new ListView<>();
    private final Label head = new Label();
    private final Label empty = new Label();
    private final RuleEditor editor;
    private final Label nothing = new Label(TEXTS.say("choose-rule"));
    private final ScrollPane scroll;
    private final Button fresh = new Button(TEXTS.say("new-rule"));

    public RulesPage(Desk desk, Theme theme) {
        this.desk = desk;
        this.theme = theme;
        this.model = new RuleModel(desk);
        this.words = new RuleWords(desk);
        this.editor = new RuleEditor(model, theme);
        getStyleClass().add("rules");
        head.getStyleClass().add("strong");
        head.setMinWidth(0);
        Region gap = new Region();
        HBox.setHgrow(gap, Priority.ALWAYS);
        fresh.setOnAction(e -> {
            list.getSelectionModel().clearSelection();
            model.begin(TEXTS.say("new-rule-name"));
        });
        MenuButton file = new MenuButton(TEXTS.say("file"));
        MenuItem write = new MenuItem(TEXTS.say("write-file"));
        write.setOnAction(e -> write());
        MenuItem read = new MenuItem(TEXTS.say("read-file"));
        read.setOnAction(e -> choose());
        read.setDisable(!model.mayChange());
        file.getItems().setAll(write, read);
        for (Region button : List.of(fresh, file)) {
            button.setMinWidth(Region.USE_PREF_SIZE);
        }
        HBox bar = new HBox(8, head, gap, fresh, file);
        bar.setAlignment(Pos.CENTER_LEFT);
        bar.getStyleClass().add("alarm-counts");
        list.setAccessibleText(TEXTS.say("rules"));
        list.setItems(model.rows().list());
        list.setCellFactory(v -> new Line());
        empty.getStyleClass().add("empty");
        list.setPlaceholder(empty);
        list.getSelectionModel().selectedItemProperty().addListener((o, a, b) -> {
            if (b != null && !model.rows().filling()) {
                model.choose(b);
            }
        });
        VBox.setVgrow(list, Priority.ALWAYS);
        VBox left = new VBox(bar, list);
        left.getStyleClass().add("alarm-queue");
        left.setMinWidth(theme.px(LIST));
        left.setPrefWidth(theme.px(LIST));
        setLeft(left);
        scroll = new ScrollPane(editor);
        scroll.setFitToWidth(true);
        scroll.setHbarPolicy(ScrollPane.ScrollBarPolicy.NEVER);
        nothing.getStyleClass().add("empty");
        setCenter(nothing);
        model.changes().addListener((o, a, b) -> show());
        show();
    }

    private void show() {
        long on = list.getItems().stream().filter(s -> s.rule().on()).count();
        head.setText(TEXTS.say("watched-of", on, list.getItems().size()));
        fresh.setDisable(!model.mayChange());
        empty.setText(
                !model.mayLook()
                        ? TEXTS.say("may-not-see")
                        : model.read()
                                ? TEXTS.say("no-rules")
                                : model.said().isEmpty() ? TEXTS.say("reading") : model.said());
        if (getCenter() == null || getCenter() == nothing || getCenter() == scroll) {
            setCenter(model.rule().isPresent() ? scroll : nothing);
        }
        editor.show();
        again();
    }

    /** Keeps what is edited chosen in the list, which has been filled anew. */
    private void again() {
        Optional<String> id = model.rule().map(r -> r.id());
        RuleDesk.Standing selected = list.getSelectionModel().getSelectedItem();
        if (id.isPresent() && (selected == null || !selected.rule().id().equals(id.get()))) {
            list.getItems().stream()
                    .filter(s -> s.rule().id().equals(id.get()))
                    .findFirst()
                    .ifPresent(s -> list.getSelectionModel().select(s));
        }
    }

    private void write() {
        FileQuestion.save(this, "rules.json").ifPresent(this::write);
    }

    /** Writes all rules into a file. */
    void write(Path to) {
        model.write(
                bytes -> desk.work()
                        .load(
                                () -> SheetFile.write(to, bytes),
                                done -> desk.notices()
                                        .note(TEXTS.say(
                                                "written", to.getFileName().toString())),
                                desk.notices()::note),
                desk.notices()::note);
    }

    private void choose() {
        FileQuestion.open(this).ifPresent(this::preview);
    }

    /** Shows what a file of rules would change, until that is decided. */
    void preview(Path from) {
        desk.work()
                .load(
                        () -> SheetFile.read(from),
                        bytes -> model.plan(
                                bytes,
                                changes -> setCenter(new RulesPreview(
                                        model, from.getFileName().toString(), changes, this::leavePreview)),
                                desk.notices()::note),
                        desk.notices()::note);
    }

    private void leavePreview() {
        setCenter(model.rule().isPresent() ? scroll : nothing);
    }

    /** Whether it can be seen. */
    public void inSight(boolean inSight) {
        editor.seen(inSight);
        if (inSight) {
            model.refresh();
        }
    }

    /** Goes on with the moment that is shown; called twice a second. */
    public void tick() {
        editor.tick();
    }

    /** One step back; false if there was nothing to go back from. */
    public boolean back() {
        if (getCenter() instanceof RulesPreview) {
            leavePreview();
            return true;
        }
        return editor.back();
    }

    /** Lets go of everything. */
    public void close() {
        editor.close();
        model.close();
    }

    /** One rule of the list. */
    private final class Line extends ListCell<RuleDesk.Standing> {
        private final PriorityMark mark = new PriorityMark(theme, 16);
        private final Label name = new Label();
        private final Label sentence = new Label();
        private final Label off = new Label(TEXTS.say("off"));
        private final HBox line;

        Line() {
            name.getStyleClass().add("strong");
            sentence.getStyleClass().add("secondary");
            sentence.setWrapText(true);
            off.getStyleClass().add("muted");
            off.setMinWidth(Region.USE_PREF_SIZE);
            name.setMinWidth(0);
            VBox middle = new VBox(2, name, sentence);
            middle.setMinWidth(0);
            HBox.setHgrow(middle, Priority.ALWAYS);
            line = new HBox(10, mark, middle, off);
            sentence.setMinHeight(Region.USE_PREF_SIZE);
            // As wide as the list, so that what is long goes on in the next line.
            setPrefWidth(0);
            getStyleClass().add("alarm-row");
        }

        @Override
        protected void updateItem(RuleDesk.Standing standing, boolean none) {
            super.updateItem(standing, none);
            if (none || standing == null) {
                setGraphic(null);
                setAccessibleText(null);
                return;
            }
            mark.show(standing.rule().priority());
            name.setText(RuleWords.name(standing.rule()));
            sentence.setText(words.sentence(standing.rule()));
            off.setVisible(!standing.rule().on());
            off.setManaged(!standing.rule().on());
            setAccessibleText(String.join(", ", name.getText(), sentence.getText()));
            setGraphic(line);
        }
    }
}
