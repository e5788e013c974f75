package org.custodia.desktop.setup;

import java.util.EnumMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import javafx.beans.property.StringProperty;
import javafx.collections.ListChangeListener;
import javafx.geometry.Pos;
import javafx.geometry.VPos;
import javafx.scene.Node;
import javafx.scene.control.Button;
import javafx.scene.control.CheckBox;
import javafx.scene.control.ComboBox;
import javafx.scene.control.Label;
import javafx.scene.control.PasswordField;
import javafx.scene.control.TextField;
import javafx.scene.layout.ColumnConstraints;
import javafx.scene.layout.GridPane;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import javafx.util.StringConverter;
import org.custodia.core.link.Finding;
import org.custodia.core.link.Finding.Step;
import org.custodia.core.link.Finding.Verdict;
import org.custodia.core.setup.Connections;
import org.custodia.core.setup.LinkSetup.Part;
import org.custodia.desktop.control.CertificateBox;
import org.custodia.desktop.saying.SayingWords;
import org.custodia.desktop.setup.LinkDraft.Stage;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.PriorityMark;
import org.custodia.desktop.theme.Theme;

/** One connection with all that can be entered, and what a trial of it finds, in the place where it stands in the list. */
final class LinkEditor extends GridPane {
    private static final Texts TEXTS = Texts.of(LinkEditor.class);

    private final LinkDraft draft;
    private final Theme theme;
    private final Runnable close;
    private final Map<Part, Label> wrong = new EnumMap<>(Part.class);
    private final TextField address = new TextField();
    private final PasswordField token = new PasswordField();
    private final TextField id = new TextField();
    private final TextField name = new TextField();
    private final CheckBox open = new CheckBox(TEXTS.say("open-allowed"));
    private final Label said = new Label();
    private final VBox steps = new VBox();
    private final VBox certificate = new VBox();
    private final Button tryIt = button("try", () -> draft().tryIt());
    private final Button save = button("save", () -> draft().save());
    private final HBox acts = new HBox();
    private final VBox fields = new VBox();

    /**
     * @param close done with it
     */
    LinkEditor(LinkDraft draft, Theme theme, boolean mayChange, Runnable close) {
        this.draft = draft;
        this.theme = theme;
        this.close = close;
        getStyleClass().add("link-editor");
        boolean there = draft.kept().isPresent();
        fields.getStyleClass().add("fields");
        if (!there) {
            fields.getChildren().add(field(Part.MAKE, "kind", make()));
        }
        address.setPromptText(TEXTS.say("address-prompt"));
        token.setPromptText(TEXTS.say(there ? "token-kept" : "token-prompt"));
        id.setPromptText(TEXTS.say("id-prompt"));
        name.setPromptText(TEXTS.say("name-prompt"));
        id.setEditable(!there);
        bind(address, draft.address());
        bind(token, draft.token());
        bind(id, draft.id());
        bind(name, draft.name());
        open.selectedProperty().bindBidirectional(draft.openAllowed());
        open.setWrapText(true);
        fields.getChildren()
                .addAll(
                        field(Part.ADDRESS, "address", address),
                        open,
                        field(Part.TOKEN, "token", token),
                        field(Part.ID, "id", id),
                        field(Part.NAME, "name", name));
        fields.setDisable(!mayChange);
        said.setWrapText(true);
        said.getStyleClass().add("said");
        acts.getStyleClass().add("acts");
        steps.getStyleClass().add("steps");
        VBox left = new VBox(fields, acts);
        left.getStyleClass().add("fields");
        ColumnConstraints one = new ColumnConstraints();
        one.setPercentWidth(46);
        ColumnConstraints other = new ColumnConstraints();
        other.setPercentWidth(54);
        getColumnConstraints().setAll(one, other);
        certificate.getStyleClass().add("steps");
        VBox right = new VBox(said, certificate, steps);
        right.getStyleClass().add("found");
        add(left, 0, 0);
        add(right, 1, 0);
        for (Node node : List.of(left, right)) {
            GridPane.setValignment(node, VPos.TOP);
        }
        acts.setDisable(!mayChange);
        showActs();
        draft.stage().addListener((o, a, b) -> show());
        draft.said().addListener((o, a, b) -> show());
        draft.problems().addListener((o, a, b) -> show());
        draft.offered().addListener((o, a, b) -> showCertificate());
        showCertificate();
        draft.findings().addListener((ListChangeListener<Finding>) c -> showSteps());
        draft.address().addListener((o, a, b) -> showOpen());
        showOpen();
        show();
    }

    private LinkDraft draft() {
        return draft;
    }

    private static Button button(String words, Runnable act) {
        Button button = new Button(TEXTS.say(words));
        button.setMinWidth(Region.USE_PREF_SIZE);
        button.setOnAction(e -> act.run());
        return button;
    }

    private void bind(TextField field, StringProperty to) {
        field.textProperty().bindBidirectional(to);
        field.setOnAction(e -> draft.tryIt());
    }

    private VBox field(Part part, String words, Node input) {
        Label label = new Label(TEXTS.say(words));
        label.getStyleClass().add("secondary");
        label.setLabelFor(input);
        input.setAccessibleText(TEXTS.say(words));
        Label problem = new Label();
        problem.getStyleClass().add("caution");
        problem.setWrapText(true);
        problem.setManaged(false);
        wrong.put(part, problem);
        return new VBox(label, input, problem);
    }

    private ComboBox<Connections.Make> make() {
        ComboBox<Connections.Make> box = new ComboBox<>();
        box.getItems().setAll(draft.makes());
        box.setConverter(new StringConverter<>() {
            @Override
            public String toString(Connections.Make m) {
                return m == null
                        ? ""
                        : TEXTS.say("kind-and-make", SetupWords.kind(m.kind()), SetupWords.make(m.make()));
            }

            @Override
            public Connections.Make fromString(String words) {
                return null;
            }
        });
        box.getSelectionModel()
                .select(new Connections.Make(draft.kind().get(), draft.make().get()));
        box.valueProperty().addListener((o, a, b) -> {
            draft.kind().set(b.kind());
            draft.make().set(b.make());
        });
        box.setMaxWidth(Double.MAX_VALUE);
        return box;
    }

    /** A certificate that is to be confirmed, to be compared with what the system itself says. */
    private void showCertificate() {
        certificate.getChildren().clear();
        draft.offered()
                .get()
                .ifPresent(shown -> certificate.getChildren().add(new CertificateBox(shown, true, draft::confirm)));
        boolean there = draft.offered().get().isPresent();
        certificate.setVisible(there);
        certificate.setManaged(there);
    }

    private void showOpen() {
        boolean asks = draft.asksToBeOpen();
        open.setVisible(asks);
        open.setManaged(asks);
    }

    private void show() {
        if (draft.stage().get() == Stage.SAVED) {
            close.run();
            return;
        }
        wrong.forEach((part, label) -> {
            String words = draft.problems().get().getOrDefault(part, "");
            label.setText(words);
            label.setManaged(!words.isEmpty());
            label.setVisible(!words.isEmpty());
        });
        boolean busy = draft.stage().get() == Stage.SAVING;
        tryIt.setDisable(busy || draft.stage().get() == Stage.TRYING);
        save.setDisable(busy);
        // What was not tried yet is better tried before it is kept.
        boolean trust = draft.kept().isPresent() || draft.tried();
        main(save, trust);
        main(tryIt, !trust);
        tryIt.setText(TEXTS.say(draft.stage().get() == Stage.TRYING ? "trying" : "try"));
        String words = draft.said().get();
        said.setText(words.isEmpty() && draft.findings().isEmpty() ? TEXTS.say("trial-what") : words);
        said.pseudoClassStateChanged(javafx.css.PseudoClass.getPseudoClass("plain"), words.isEmpty());
        showSteps();
    }

    private static void main(Button button, boolean now) {
        button.getStyleClass().remove("main");
        if (now) {
            button.getStyleClass().add("main");
        }
    }

    private void showActs() {
        acts.getChildren().setAll(tryIt, save, button("cancel", close));
        draft.kept().ifPresent(k -> {
            Region gap = new Region();
            HBox.setHgrow(gap, Priority.ALWAYS);
            boolean paused = k.link().paused();
            acts.getChildren()
                    .addAll(
                            gap,
                            button(paused ? "resume" : "pause", () -> draft.pause(!paused)),
                            button("remove", this::askWhetherToRemove));
        });
        acts.setAlignment(Pos.CENTER_LEFT);
    }

    /** What cannot be undone by the same key is asked once more, where it was asked for. */
    private void askWhetherToRemove() {
        Label sure = new Label(TEXTS.say("remove-sure"));
        sure.setWrapText(true);
        HBox.setHgrow(sure, Priority.ALWAYS);
        Button yes = button("remove-yes", draft::remove);
        Button no = button("remove-no", this::showActs);
        acts.getChildren().setAll(sure, yes, no);
        no.requestFocus();
    }

    private void showSteps() {
        Map<Step, Verdict> worst = new EnumMap<>(Step.class);
        for (Finding f : draft.findings()) {
            worst.merge(f.step(), f.verdict(), LinkEditor::worse);
        }
        steps.getChildren().clear();
        worst.forEach((step, verdict) -> {
            PriorityMark mark = new PriorityMark(theme, 14);
            mark.show(SetupWords.priority(verdict));
            Label what = new Label(TEXTS.say("step." + word(step.name())));
            what.getStyleClass().add("strong");
            what.setMinWidth(Region.USE_PREF_SIZE);
            Label how = new Label(TEXTS.say("verdict." + word(verdict.name())));
            how.setMinWidth(Region.USE_PREF_SIZE);
            HBox line = new HBox(8, mark, what, how);
            line.setAlignment(Pos.CENTER_LEFT);
            steps.getChildren().add(line);
            draft.findings().stream()
                    .filter(f -> f.step() == step && f.verdict() != Verdict.MET)
                    .forEach(f -> {
                        Label detail = new Label(TEXTS.say("finding", f.requirement(), SayingWords.of(f.seen())));
                        detail.setWrapText(true);
                        detail.getStyleClass().addAll("secondary", "detail");
                        steps.getChildren().add(detail);
                    });
        });
    }

    private static Verdict worse(Verdict one, Verdict other) {
        List<Verdict> order = List.of(Verdict.NOT_MET, Verdict.ADVICE, Verdict.NOT_TRIED, Verdict.MET);
        return order.indexOf(one) < order.indexOf(other) ? one : other;
    }

    private static String word(String name) {
        return name.toLowerCase(Locale.ROOT).replace('_', '-');
    }

    /** Nobody looks at it any more: what is still under way says nothing and keeps nothing. */
    void forget() {
        draft.forget();
    }

    /** Where somebody begins. */
    void begin() {
        (draft.kept().isPresent() ? name : address).requestFocus();
    }
}
