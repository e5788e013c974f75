package org.custodia.desktop.translation;

import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import javafx.scene.Node;
import javafx.scene.control.Button;
import javafx.scene.control.ComboBox;
import javafx.scene.control.Label;
import javafx.scene.control.ListCell;
import javafx.scene.control.TextField;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import org.custodia.core.door.LockMode;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.Reasons;
import org.custodia.core.event.SentWords;
import org.custodia.core.event.Translation;
import org.custodia.core.setup.TranslationDesk;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.words.ClockWords;
import org.custodia.desktop.words.DoorWords;
import org.custodia.desktop.words.Names;

/** What a system sent, with its latest examples, and what it means here. */
final class MeaningPart extends VBox {
    private static final Texts TEXTS = Texts.of(MeaningPart.class);

    private final TranslationModel model;
    private final Label nothing = new Label(TEXTS.say("choose"));
    private final VBox form = new VBox(8);
    private final Label head = new Label();
    private final Label detail = new Label();
    private final ComboBox<Choice> means = new ComboBox<>();
    private final TextField own = new TextField();
    private final ComboBox<Optional<String>> because = new ComboBox<>();
    private final Label becauseLabel = new Label(TEXTS.say("reason"));
    private final Button save = new Button(TEXTS.say("save"));
    private final VBox examples = new VBox(6);
    private Optional<TranslationDesk.Row> row = Optional.empty();

    /**
     * What something may mean: a kind that is known, one of the site's own, or what is sent.
     *
     * @param state how a lock stands from then on, for what says that
     */
    private record Choice(Optional<EventKind> kind, Optional<String> state, boolean own, String words) {
        @Override
        public String toString() {
            return words;
        }
    }

    MeaningPart(TranslationModel model) {
        this.model = model;
        getStyleClass().add("placing");
        head.getStyleClass().add("large");
        detail.getStyleClass().add("secondary");
        nothing.getStyleClass().add("muted");
        for (Label label : List.of(head, detail, nothing)) {
            label.setWrapText(true);
            label.setMinHeight(Region.USE_PREF_SIZE);
        }
        means.setMaxWidth(Double.MAX_VALUE);
        means.setAccessibleText(TEXTS.say("means"));
        means.setVisibleRowCount(14);
        own.setPromptText(TEXTS.say("own-kind-prompt"));
        own.setAccessibleText(TEXTS.say("own-kind-prompt"));
        because.setMaxWidth(Double.MAX_VALUE);
        because.setAccessibleText(TEXTS.say("reason"));
        because.setCellFactory(v -> reasonCell());
        because.setButtonCell(reasonCell());
        means.valueProperty().addListener((o, a, b) -> {
            boolean typed = b != null && b.own();
            own.setVisible(typed);
            own.setManaged(typed);
            if (b != null && b.kind().isEmpty() && !typed) {
                because.setValue(Optional.empty());
            }
            mayReason();
        });
        own.textProperty().addListener((o, a, b) -> maySave());
        because.valueProperty().addListener((o, a, b) -> maySave());
        save.getStyleClass().add("main");
        save.setMinWidth(Region.USE_PREF_SIZE);
        save.setOnAction(e -> save());
        own.setOnAction(e -> save());
        Label meansLabel = new Label(TEXTS.say("means"));
        meansLabel.setLabelFor(means);
        becauseLabel.setLabelFor(because);
        Label shown = new Label(TEXTS.say("examples"));
        shown.getStyleClass().add("strong");
        for (Label label : List.of(meansLabel, becauseLabel)) {
            label.getStyleClass().add("muted");
        }
        form.getChildren()
                .setAll(
                        head,
                        detail,
                        meansLabel,
                        means,
                        own,
                        becauseLabel,
                        because,
                        new HBox(8, save),
                        shown,
                        examples);
        getChildren().setAll(nothing, form);
        show(Optional.empty());
    }

    private static ListCell<Optional<String>> reasonCell() {
        return new ListCell<>() {
            @Override
            protected void updateItem(Optional<String> reason, boolean none) {
                super.updateItem(reason, none);
                setText(none || reason == null ? "" : reason.map(Names::reason).orElse(TEXTS.say("reason-sent")));
            }
        };
    }

    private void mayReason() {
        boolean rule = means.getValue() != null
                && (means.getValue().own() || means.getValue().kind().isPresent());
        Optional<String> state = Optional.ofNullable(means.getValue()).flatMap(Choice::state);
        because.setVisible(state.isEmpty());
        because.setManaged(state.isEmpty());
        becauseLabel.setVisible(state.isEmpty());
        becauseLabel.setManaged(state.isEmpty());
        because.setDisable(!rule || !model.may());
        maySave();
    }

    /** What is shown. */
    Optional<TranslationDesk.Row> row() {
        return row;
    }

    /** Shows what is chosen, or nothing. */
    void show(Optional<TranslationDesk.Row> chosen) {
        if (chosen.isPresent() && chosen.equals(row)) {
            return;
        }
        row = chosen;
        nothing.setVisible(chosen.isEmpty());
        nothing.setManaged(chosen.isEmpty());
        form.setVisible(chosen.isPresent());
        form.setManaged(chosen.isPresent());
        chosen.ifPresent(this::fill);
    }

    private void fill(TranslationDesk.Row now) {
        SentWords.Sent sent = now.sent();
        head.setText(
                sent.code().map(c -> TEXTS.say("sent-code", sent.kind(), c)).orElse(sent.kind()));
        String reasons =
                sent.reasons().isEmpty() ? "" : " · " + TEXTS.say("with-reasons", String.join(", ", sent.reasons()));
        detail.setText(TEXTS.say("sent-times", sent.events()) + reasons);
        Choice asSent = new Choice(Optional.empty(), Optional.empty(), false, TEXTS.say("as-sent", sent.kind()));
        Choice another = new Choice(Optional.empty(), Optional.empty(), true, TEXTS.say("own-kind"));
        means.setValue(null);
        means.getItems().setAll(asSent);
        TranslationModel.kinds().forEach(k -> means.getItems().addAll(choices(k)));
        means.getItems().add(another);
        Optional<Translation.Rule> rule = now.rule();
        Optional<Choice> known = rule.flatMap(r -> means.getItems().stream()
                .filter(c -> c.kind().equals(Optional.of(r.kind())))
                .filter(c -> c.state().isEmpty() || c.state().equals(r.reason()))
                .reduce((a, b) -> b.state().isPresent() ? b : a)
                .stream()
                .findFirst());
        means.setValue(known.orElse(rule.isPresent() ? another : asSent));
        own.setText(known.isEmpty() ? rule.map(r -> r.kind().id()).orElse("") : "");
        because.getItems().clear();
        because.setValue(null);
        because.getItems().add(Optional.empty());
        Reasons.all().stream()
                .sorted((a, b) -> Names.reason(a).compareToIgnoreCase(Names.reason(b)))
                .forEach(r -> because.getItems().add(Optional.of(r)));
        Optional<String> given = rule.flatMap(Translation.Rule::reason);
        if (!because.getItems().contains(given)) {
            because.getItems().add(given);
        }
        because.setValue(given);
        for (Node node : List.of(means, own)) {
            node.setDisable(!model.may());
        }
        mayReason();
        examples.getChildren().setAll(line(TEXTS.say("examples-loading"), "muted"));
        model.examples(now, found -> {
            if (row.equals(Optional.of(now))) {
                examples.getChildren().clear();
                found.forEach(e -> examples.getChildren().add(line(words(e), "ink")));
                if (found.isEmpty()) {
                    examples.getChildren().add(line(TEXTS.say("examples-none"), "muted"));
                }
            }
        });
    }

    private String words(Event event) {
        String when =
                ClockWords.dated(event.time(), model.desk().now(), model.desk().zone());
        String where = model.desk().words().place(event);
        String who = model.desk().words().who(event);
        return who.isBlank() ? TEXTS.say("example", when, where) : TEXTS.say("example-who", when, where, who);
    }

    /** A lock that stands otherwise says how: a system's own word for that means one of ours. */
    private static List<Choice> choices(EventKind kind) {
        List<Choice> all = new ArrayList<>();
        all.add(new Choice(Optional.of(kind), Optional.empty(), false, TranslationModel.named(kind)));
        if (kind.equals(Kinds.MODE)) {
            for (LockMode mode : LockMode.values()) {
                mode.word()
                        .ifPresent(w -> all.add(new Choice(
                                Optional.of(kind),
                                Optional.of(w),
                                false,
                                TEXTS.say("kind-state", TranslationModel.named(kind), DoorWords.lock(mode)))));
            }
        }
        return all;
    }

    private static Label line(String words, String style) {
        Label label = new Label(words);
        label.setWrapText(true);
        label.setMinHeight(Region.USE_PREF_SIZE);
        label.getStyleClass().add(style);
        return label;
    }

    /** The kind that is chosen; nothing to take it as it is sent. */
    private Optional<String> kind() {
        Choice chosen = means.getValue();
        return chosen.own() ? Optional.of(own.getText().strip()) : chosen.kind().map(EventKind::id);
    }

    private Optional<String> reason() {
        if (means.getValue().state().isPresent()) {
            return means.getValue().state();
        }
        return kind().isEmpty() || because.getValue() == null ? Optional.empty() : because.getValue();
    }

    /** Only what is different from what holds is worth a version of its own. */
    private void maySave() {
        save.setDisable(row.isEmpty()
                || means.getValue() == null
                || !model.may()
                || kind().equals(row.get().rule().map(r -> r.kind().id()))
                        && reason().equals(row.get().rule().flatMap(Translation.Rule::reason)));
    }

    private void save() {
        if (!save.isDisabled()) {
            model.means(row.get(), kind(), reason());
        }
    }
}
