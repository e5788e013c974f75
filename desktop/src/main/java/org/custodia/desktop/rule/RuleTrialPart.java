package org.custodia.desktop.rule;

import java.time.Duration;
import java.time.Instant;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import javafx.geometry.Pos;
import javafx.scene.control.Button;
import javafx.scene.control.Label;
import javafx.scene.control.ListCell;
import javafx.scene.control.ListView;
import javafx.scene.control.MenuButton;
import javafx.scene.control.MenuItem;
import javafx.scene.control.ProgressBar;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import javafx.scene.layout.StackPane;
import javafx.scene.layout.VBox;
import org.custodia.core.alarm.Figures;
import org.custodia.core.alarm.Rule;
import org.custodia.core.alarm.RuleTrial;
import org.custodia.core.alarm.Subject;
import org.custodia.core.alarm.Versions;
import org.custodia.core.event.EventKey;
import org.custodia.core.site.SiteModel;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.picture.LoopedMoment;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.Theme;
import org.custodia.desktop.words.ClockWords;
import org.custodia.desktop.words.SubjectWords;

/** What a rule would have called for on the days that are past: how often, when, where, and each with its moment. */
final class RuleTrialPart extends VBox {
    private static final Texts TEXTS = Texts.of(RuleTrialPart.class);
    private static final int MOST_PLACES = 5;

    private final RuleModel model;
    private final Desk desk;
    private final Button tryIt = new Button(TEXTS.say("try"));
    private final MenuButton compare = new MenuButton(TEXTS.say("compare"));
    private final Button stop = new Button(TEXTS.say("stop-trying"));
    private final ProgressBar bar = new ProgressBar(0);
    private final Label stale = new Label(TEXTS.say("tried-before-change"));
    private final Label result = new Label();
    private final Label otherResult = new Label();
    private final Label places = new Label();
    private final TrialPlot plot;
    private final ListView<RuleTrial.Called> list = new ListView<>();
    private final LoopedMoment moment;
    private final Label hint = new Label();
    private final VBox shown = new VBox(8);
    private Optional<RuleModel.Tried> tried = Optional.empty();
    private Set<EventKey> alsoInOther = Set.of();

    RuleTrialPart(RuleModel model, Theme theme) {
        super(8);
        this.model = model;
        this.desk = model.desk();
        this.moment = new LoopedMoment(desk.services().pictures());
        this.plot = new TrialPlot(desk, theme, this::nearest);
        tryIt.setOnAction(e -> model.tryOut(Optional.empty()));
        stop.setOnAction(e -> {
            model.stop();
            show();
        });
        for (Region button : List.of(tryIt, compare, stop)) {
            button.setMinWidth(Region.USE_PREF_SIZE);
        }
        bar.setPrefWidth(theme.px(160));
        bar.setAccessibleText(TEXTS.say("trying"));
        HBox top = new HBox(8, tryIt, compare, bar, stop);
        top.setAlignment(Pos.CENTER_LEFT);
        for (Label label : List.of(stale, result, otherResult, places)) {
            label.setWrapText(true);
            label.setMinHeight(Region.USE_PREF_SIZE);
        }
        stale.getStyleClass().add("caution");
        result.getStyleClass().add("strong");
        otherResult.getStyleClass().add("secondary");
        places.getStyleClass().add("secondary");
        list.setAccessibleText(TEXTS.say("called"));
        list.setCellFactory(v -> new Line());
        Label none = new Label(TEXTS.say("called-none"));
        none.getStyleClass().add("empty");
        list.setPlaceholder(none);
        list.setPrefHeight(theme.px(170));
        list.setMinHeight(theme.px(120));
        list.getSelectionModel().selectedItemProperty().addListener((o, a, b) -> {
            if (b != null) {
                moment(b);
            }
        });
        HBox.setHgrow(list, Priority.ALWAYS);
        moment.setMinSize(theme.px(264), theme.px(150));
        moment.setMaxSize(theme.px(264), theme.px(150));
        hint.getStyleClass().add("empty");
        hint.setWrapText(true);
        hint.visibleProperty().bind(moment.visibleProperty().not());
        HBox below = new HBox(10, list, new StackPane(hint, moment));
        shown.getChildren().setAll(stale, result, otherResult, places, plot, below);
        getChildren().setAll(top, shown);
        show();
    }

    /** Shows how far it has come, and what came of it. */
    void show() {
        boolean trying = model.trying();
        tryIt.setDisable(trying || !model.mayTry() || model.rule().isEmpty());
        List<Versions.Said<Rule>> others = model.others();
        compare.setDisable(trying || !model.mayTry() || others.isEmpty());
        compare.getItems().clear();
        for (Versions.Said<Rule> other : others) {
            MenuItem item = new MenuItem(version(other));
            item.setOnAction(e -> model.tryOut(other.value()));
            compare.getItems().add(item);
        }
        for (Region part : List.of(bar, stop)) {
            part.setVisible(trying);
            part.setManaged(trying);
        }
        bar.setProgress(model.progress());
        Optional<RuleModel.Tried> now = model.tried();
        shown.setVisible(now.isPresent());
        shown.setManaged(now.isPresent());
        stale.setVisible(now.isPresent() && !model.triedAsItIs());
        stale.setManaged(stale.isVisible());
        if (now.isPresent() && !now.equals(tried)) {
            results(now.get());
        }
        tried = now;
    }

    static String version(Versions.Said<Rule> said) {
        return said.version() == 0
                ? TEXTS.say("version-shipped")
                : TEXTS.say("version", said.version(), said.by().orElse(""));
    }

    private void results(RuleModel.Tried now) {
        result.setText(words(now.trial()));
        boolean compared = now.otherTrial().isPresent();
        otherResult.setVisible(compared);
        otherResult.setManaged(compared);
        alsoInOther = now.otherTrial().stream()
                .flatMap(t -> t.called().stream())
                .map(RuleTrial.Called::cause)
                .collect(Collectors.toCollection(HashSet::new));
        now.otherTrial().ifPresent(t -> {
            Set<EventKey> mine =
                    now.trial().called().stream().map(RuleTrial.Called::cause).collect(Collectors.toSet());
            long onlyThere =
                    t.called().stream().filter(c -> !mine.contains(c.cause())).count();
            long onlyHere = now.trial().called().stream()
                    .filter(c -> !alsoInOther.contains(c.cause()))
                    .count();
            otherResult.setText(TEXTS.say("other-version", words(t), onlyHere, onlyThere));
        });
        String most = now.trial().places().entrySet().stream()
                .limit(MOST_PLACES)
                .map(e -> TEXTS.say("place-count", where(e.getKey()), e.getValue()))
                .collect(Collectors.joining(" · "));
        places.setText(most);
        places.setVisible(!most.isEmpty());
        places.setManaged(!most.isEmpty());
        plot.show(now.trial(), now.otherTrial());
        list.getItems().setAll(now.trial().called());
        list.scrollTo(Math.max(0, list.getItems().size() - 1));
        moment.clear();
        hint.setText(TEXTS.say(list.getItems().isEmpty() ? "called-none" : "choose-called"));
    }

    private String words(RuleTrial trial) {
        String load = trial.perTen() > Figures.MANAGEABLE || trial.worstTen() > Figures.MOST_IN_TEN
                ? "too-much"
                : trial.perTen() > Figures.BEARABLE ? "manageable" : "bearable";
        return trial.total() == 0
                ? TEXTS.say("trial-none", RuleModel.TRIED_ON.toDays())
                : TEXTS.say(
                        "trial",
                        trial.total(),
                        RuleModel.TRIED_ON.toDays(),
                        trial.aDay(),
                        trial.worstTen(),
                        trial.worst()
                                .map(w -> ClockWords.dated(w, desk.now(), desk.zone()))
                                .orElse(""),
                        load);
    }

    private String where(Subject subject) {
        SiteModel sites = desk.services().sites().get();
        return SubjectWords.where(subject, sites, desk.services().links().get());
    }

    private void moment(RuleTrial.Called called) {
        SiteModel sites = desk.services().sites().get();
        called.subject()
                .camera(sites)
                .ifPresentOrElse(
                        c -> moment.show(c, c.name(), desk.zone(), called.at()),
                        () -> moment.none(TEXTS.say("no-camera")));
    }

    /** Turns to the alarm nearest to an instant. */
    private void nearest(Instant at) {
        list.getItems().stream()
                .min((a, b) -> Duration.between(a.at(), at)
                        .abs()
                        .compareTo(Duration.between(b.at(), at).abs()))
                .ifPresent(c -> {
                    list.getSelectionModel().select(c);
                    list.scrollTo(c);
                });
    }

    void seen(boolean visible) {
        moment.seen(visible);
    }

    void tick() {
        moment.tick(desk.now());
    }

    void close() {
        moment.close();
    }

    private final class Line extends ListCell<RuleTrial.Called> {
        @Override
        protected void updateItem(RuleTrial.Called called, boolean none) {
            super.updateItem(called, none);
            if (none || called == null) {
                setText(null);
                return;
            }
            boolean compared = tried.filter(t -> t.otherTrial().isPresent()).isPresent();
            setText(TEXTS.say(
                    "called-line",
                    ClockWords.dated(called.at(), desk.now(), desk.zone()),
                    where(called.subject()),
                    called.times(),
                    compared && !alsoInOther.contains(called.cause()) ? "new" : "both"));
        }
    }
}
