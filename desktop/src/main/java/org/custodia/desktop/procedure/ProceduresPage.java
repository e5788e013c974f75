package org.custodia.desktop.procedure;

import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import javafx.geometry.Pos;
import javafx.scene.control.Button;
import javafx.scene.control.CheckBox;
import javafx.scene.control.Label;
import javafx.scene.control.ListCell;
import javafx.scene.control.ListView;
import javafx.scene.control.MenuButton;
import javafx.scene.control.MenuItem;
import javafx.scene.control.ScrollPane;
import javafx.scene.control.TextField;
import javafx.scene.control.Tooltip;
import javafx.scene.layout.BorderPane;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import org.custodia.core.alarm.Procedure;
import org.custodia.core.alarm.ProcedureDesk;
import org.custodia.core.alarm.Rule;
import org.custodia.core.alarm.RuleDesk;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.workplace.PermittedProcedures;
import org.custodia.desktop.Work;
import org.custodia.desktop.control.AskedButton;
import org.custodia.desktop.control.CheckList;
import org.custodia.desktop.control.FileQuestion;
import org.custodia.desktop.control.PeopleChoice;
import org.custodia.desktop.control.Rows;
import org.custodia.desktop.control.SheetFile;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.rule.RuleWords;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.Theme;

/** All procedures, and the one that is being edited: which alarms it is for, and its steps in order. */
public final class ProceduresPage extends BorderPane {
    private static final Texts TEXTS = Texts.of(ProceduresPage.class);
    private static final double LIST = 340;

    private final Desk desk;
    private final Theme theme;
    private final Work lane = new Work("procedures", 1);
    private final RuleWords words;
    private final Rows<ProcedureDesk.Standing> rows = new Rows<>();
    private final ListView<ProcedureDesk.Standing> list = new ListView<>();
    private final Label empty = new Label(TEXTS.say("reading"));
    private final Button fresh = new Button(TEXTS.say("new"));
    private final Label nothing = new Label(TEXTS.say("choose"));
    private final TextField name = new TextField();
    private final VBox forWhat = new VBox(8);
    private final VBox steps = new VBox(6);
    private final Button keep = new Button(TEXTS.say("keep"));
    private final AskedButton takeOff =
            new AskedButton(TEXTS.say("take-off"), TEXTS.say("take-off-sure"), this::takeOff);
    private final Label said = new Label();
    private final ScrollPane scroll;
    private Optional<ProcedureDesk.Standing> standing = Optional.empty();
    private String id = "";
    private Procedure.Of of = Procedure.Of.ALL;
    private final List<StepRow> stepRows = new ArrayList<>();
    private List<Rule> rules = List.of();

    public ProceduresPage(Desk desk, Theme theme) {
        this.desk = desk;
        this.theme = theme;
        this.words = new RuleWords(desk);
        Region gap = new Region();
        HBox.setHgrow(gap, Priority.ALWAYS);
        MenuButton file = new MenuButton(TEXTS.say("file"));
        MenuItem write = new MenuItem(TEXTS.say("write-file"));
        write.setOnAction(e -> write());
        MenuItem read = new MenuItem(TEXTS.say("read-file"));
        read.setOnAction(e -> read());
        read.setDisable(!procedures().mayChange());
        file.getItems().setAll(write, read);
        fresh.setDisable(!procedures().mayChange());
        fresh.setOnAction(e -> {
            list.getSelectionModel().clearSelection();
            begin();
        });
        for (Region button : List.of(fresh, file, keep)) {
            button.setMinWidth(Region.USE_PREF_SIZE);
        }
        HBox bar = new HBox(8, gap, fresh, file);
        bar.setAlignment(Pos.CENTER_LEFT);
        bar.getStyleClass().add("alarm-counts");
        list.setAccessibleText(TEXTS.say("procedures"));
        list.setItems(rows.list());
        list.setCellFactory(v -> new Line());
        empty.getStyleClass().add("empty");
        list.setPlaceholder(empty);
        list.getSelectionModel().selectedItemProperty().addListener((o, a, b) -> {
            if (b != null && !rows.filling()) {
                edit(b);
            }
        });
        VBox.setVgrow(list, Priority.ALWAYS);
        VBox left = new VBox(bar, list);
        left.getStyleClass().add("alarm-queue");
        left.setMinWidth(theme.px(LIST));
        left.setPrefWidth(theme.px(LIST));
        setLeft(left);
        name.setAccessibleText(TEXTS.say("name"));
        name.getStyleClass().add("rule-name");
        keep.getStyleClass().add("main");
        keep.setOnAction(e -> keep());
        said.getStyleClass().add("caution");
        said.setWrapText(true);
        said.setMinHeight(Region.USE_PREF_SIZE);
        Region wide = new Region();
        HBox.setHgrow(wide, Priority.ALWAYS);
        Button add = new Button(TEXTS.say("add-step"));
        add.setOnAction(e -> {
            stepRows.add(new StepRow("", false, false));
            fillSteps();
            stepRows.get(stepRows.size() - 1).text.requestFocus();
        });
        Label stepsHead = strong(TEXTS.say("steps"));
        Label forHead = strong(TEXTS.say("for"));
        VBox form = new VBox(10, name, stepsHead, steps, add, forHead, forWhat, said, new HBox(8, keep, wide, takeOff));
        form.getStyleClass().add("rule-editor");
        scroll = new ScrollPane(form);
        scroll.setFitToWidth(true);
        scroll.setHbarPolicy(ScrollPane.ScrollBarPolicy.NEVER);
        nothing.getStyleClass().add("empty");
        setCenter(nothing);
    }

    private static Label strong(String text) {
        Label label = new Label(text);
        label.getStyleClass().add("strong");
        return label;
    }

    private PermittedProcedures procedures() {
        return desk.services().workplace().procedures();
    }

    /** Whether it can be seen. */
    public void inSight(boolean inSight) {
        if (inSight) {
            refresh();
        }
    }

    private record Read(List<ProcedureDesk.Standing> procedures, List<Rule> rules) {}

    private void refresh() {
        if (!procedures().mayLook()) {
            empty.setText(TEXTS.say("may-not"));
            return;
        }
        lane.latest(
                this,
                () -> new Read(
                        procedures().procedures(),
                        desk.services().workplace().rules().rules().stream()
                                .map(RuleDesk.Standing::rule)
                                .toList()),
                found -> {
                    rules = found.rules();
                    empty.setText(TEXTS.say("none"));
                    rows.fill(found.procedures());
                    standing = found.procedures().stream()
                            .filter(p -> p.procedure().id().equals(id))
                            .findFirst();
                    takeOff.setDisable(standing.isEmpty() || !procedures().mayChange());
                },
                empty::setText);
    }

    private void edit(ProcedureDesk.Standing chosen) {
        standing = Optional.of(chosen);
        show(chosen.procedure());
    }

    private void begin() {
        standing = Optional.empty();
        show(new Procedure(
                "own-" + Long.toString(desk.now().toEpochMilli(), 36),
                0,
                TEXTS.say("new-name"),
                Procedure.Of.ALL,
                List.of(new Procedure.Step(TEXTS.say("first-step"), false))));
    }

    private void show(Procedure procedure) {
        id = procedure.id();
        of = procedure.of();
        said.setText("");
        name.setText(ProcedureWords.name(procedure));
        stepRows.clear();
        procedure
                .steps()
                .forEach(s -> stepRows.add(new StepRow(ProcedureWords.step(procedure, s), s.required(), s.onceOver())));
        fillSteps();
        fillFor();
        boolean may = procedures().mayChange();
        for (Region part : List.of(name, steps, forWhat, keep)) {
            part.setDisable(!may);
        }
        takeOff.setDisable(!may || standing.isEmpty());
        setCenter(scroll);
    }

    private void fillSteps() {
        steps.getChildren().setAll(stepRows.stream().map(s -> s.row).toList());
        for (int i = 0; i < stepRows.size(); i++) {
            stepRows.get(i).number(i);
        }
    }

    private void fillFor() {
        List<org.custodia.core.event.Priority> priorities = Rule.PRIORITIES;
        Set<String> ids = new LinkedHashSet<>(of.rules());
        rules.forEach(r -> ids.add(r.id()));
        List<DoorId> doors = desk.services().sites().get().doors().stream()
                .sorted(Comparator.comparing(Door::name))
                .map(Door::id)
                .toList();
        List<Rule.Zone> zones = desk.services().sites().get().doors().stream()
                .flatMap(d -> List.of(d.outside(), d.inside()).stream()
                        .filter(z -> !z.isBlank())
                        .map(z -> new Rule.Zone(d.site(), z)))
                .distinct()
                .sorted(Comparator.comparing(Rule.Zone::name))
                .toList();
        forWhat.getChildren()
                .setAll(
                        muted(TEXTS.say("for-all")),
                        new CheckList<>(
                                TEXTS.say("for-priorities"),
                                priorities,
                                of.priorities(),
                                RuleWords::priority,
                                some -> of = new Procedure.Of(some, of.rules(), of.where(), of.people())),
                        new CheckList<>(
                                TEXTS.say("for-rules"),
                                List.copyOf(ids),
                                of.rules(),
                                this::rule,
                                some -> of = new Procedure.Of(of.priorities(), some, of.where(), of.people())),
                        new CheckList<>(
                                TEXTS.say("for-doors"),
                                doors,
                                of.where().doors(),
                                words::door,
                                some -> of = new Procedure.Of(
                                        of.priorities(),
                                        of.rules(),
                                        new Rule.Where(
                                                some,
                                                of.where().zones(),
                                                of.where().sites(),
                                                of.where().systems(),
                                                of.where().devices()),
                                        of.people())),
                        new CheckList<>(
                                TEXTS.say("for-zones"),
                                zones,
                                of.where().zones(),
                                words::zone,
                                some -> of = new Procedure.Of(
                                        of.priorities(),
                                        of.rules(),
                                        new Rule.Where(
                                                of.where().doors(),
                                                some,
                                                of.where().sites(),
                                                of.where().systems(),
                                                of.where().devices()),
                                        of.people())),
                        muted(TEXTS.say("for-people")),
                        new PeopleChoice(
                                desk,
                                of.people(),
                                words::person,
                                some -> of = new Procedure.Of(of.priorities(), of.rules(), of.where(), some)));
    }

    private String rule(String ruleId) {
        return rules.stream()
                .filter(r -> r.id().equals(ruleId))
                .findFirst()
                .map(r -> RuleWords.name(r.id(), r.name()))
                .orElse(ruleId);
    }

    private static Label muted(String text) {
        Label label = new Label(text);
        label.getStyleClass().add("muted");
        label.setWrapText(true);
        label.setMinHeight(Region.USE_PREF_SIZE);
        return label;
    }

    private void keep() {
        List<Procedure.Step> all = new ArrayList<>();
        Optional<Procedure> before = standing.map(ProcedureDesk.Standing::procedure);
        try {
            for (StepRow row : stepRows) {
                String text = row.text.getText().strip();
                if (!text.isEmpty()) {
                    // What ships and was not changed stays as it ships, so that it is read in every language.
                    String kept = before.stream()
                            .flatMap(p -> p.steps().stream()
                                    .filter(s -> ProcedureWords.step(p, s).equals(text)))
                            .map(Procedure.Step::text)
                            .findFirst()
                            .orElse(text);
                    all.add(new Procedure.Step(kept, row.required.isSelected(), row.onceOver.isSelected()));
                }
            }
            String called = before.filter(
                            p -> ProcedureWords.name(p).equals(name.getText().strip()))
                    .map(Procedure::name)
                    .orElse(name.getText().strip());
            Procedure made = new Procedure(id, 0, called, of, all);
            long basedOn = standing.map(ProcedureDesk.Standing::version).orElse(0L);
            said.setText("");
            lane.load(
                    () -> {
                        procedures().keep(made, basedOn);
                        return Boolean.TRUE;
                    },
                    done -> {
                        desk.notices().note(TEXTS.say("kept", made.name()));
                        refresh();
                    },
                    said::setText);
        } catch (IllegalArgumentException e) {
            said.setText(TEXTS.say(
                    all.isEmpty() ? "no-steps" : "odd-procedure", Procedure.MOST_STEPS, Procedure.LONGEST_STEP));
        }
    }

    private void takeOff() {
        standing.ifPresent(s -> lane.load(
                () -> {
                    procedures().takeOff(s.procedure().id(), s.version());
                    return Boolean.TRUE;
                },
                done -> {
                    standing = Optional.empty();
                    id = "";
                    setCenter(nothing);
                    refresh();
                },
                said::setText));
    }

    private void write() {
        FileQuestion.save(this, "procedures.json").ifPresent(this::write);
    }

    /** Writes all procedures into a file. */
    void write(Path to) {
        lane.load(
                () -> SheetFile.write(to, procedures().write()),
                done -> desk.notices()
                        .note(TEXTS.say("written", to.getFileName().toString())),
                desk.notices()::note);
    }

    private void read() {
        FileQuestion.open(this).ifPresent(this::read);
    }

    /** Takes over what of a file is new or different here. */
    void read(Path from) {
        lane.load(
                () -> procedures().take(SheetFile.read(from)),
                count -> {
                    desk.notices().note(TEXTS.say("taken", count));
                    refresh();
                },
                desk.notices()::note);
    }

    /** Lets go of everything. */
    public void close() {
        lane.close();
    }

    /** One step that is edited. */
    private final class StepRow {
        private final TextField text = new TextField();
        private final CheckBox required = new CheckBox(TEXTS.say("must"));
        private final CheckBox onceOver = new CheckBox(TEXTS.say("once-over"));
        private final Label number = new Label();
        private final HBox row;

        StepRow(String words, boolean must, boolean over) {
            onceOver.setSelected(over);
            onceOver.setTooltip(new Tooltip(TEXTS.say("once-over-tip")));
            text.setText(words);
            text.setAccessibleText(TEXTS.say("step"));
            HBox.setHgrow(text, Priority.ALWAYS);
            required.setSelected(must);
            number.setMinWidth(theme.px(22));
            Button up = new Button(TEXTS.say("up"));
            up.setOnAction(e -> {
                int at = stepRows.indexOf(this);
                if (at > 0) {
                    stepRows.remove(at);
                    stepRows.add(at - 1, this);
                    fillSteps();
                }
            });
            Button off = new Button(TEXTS.say("remove"));
            off.setOnAction(e -> {
                stepRows.remove(this);
                fillSteps();
            });
            for (Region part : List.of(required, onceOver, up, off)) {
                part.setMinWidth(Region.USE_PREF_SIZE);
            }
            row = new HBox(8, number, text, required, onceOver, up, off);
            row.setAlignment(Pos.CENTER_LEFT);
        }

        void number(int at) {
            number.setText(String.valueOf(at + 1));
        }
    }

    /** One procedure of the list. */
    private final class Line extends ListCell<ProcedureDesk.Standing> {
        private final Label title = new Label();
        private final Label detail = new Label();
        private final VBox line = new VBox(2, title, detail);

        Line() {
            title.getStyleClass().add("strong");
            detail.getStyleClass().add("secondary");
            detail.setWrapText(true);
            detail.setMinHeight(Region.USE_PREF_SIZE);
            setPrefWidth(0);
            getStyleClass().add("alarm-row");
        }

        @Override
        protected void updateItem(ProcedureDesk.Standing standing, boolean none) {
            super.updateItem(standing, none);
            if (none || standing == null) {
                setGraphic(null);
                setAccessibleText(null);
                return;
            }
            Procedure p = standing.procedure();
            title.setText(ProcedureWords.name(p));
            List<String> parts = new ArrayList<>();
            p.of().priorities().stream().map(RuleWords::priority).sorted().forEach(parts::add);
            p.of().rules().stream().map(ProceduresPage.this::rule).sorted().forEach(parts::add);
            if (!p.of().where().anywhere()) {
                parts.add(words.where(p.of().where()));
            }
            detail.setText(TEXTS.say(
                    "detail",
                    p.steps().size(),
                    parts.isEmpty() ? TEXTS.say("all-alarms") : parts.stream().collect(Collectors.joining(" · "))));
            setAccessibleText(String.join(", ", title.getText(), detail.getText()));
            setGraphic(line);
        }
    }
}
