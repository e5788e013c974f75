package org.custodia.desktop.rule;

import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.function.Consumer;
import javafx.application.Platform;
import javafx.beans.property.ReadOnlyLongProperty;
import javafx.beans.property.ReadOnlyLongWrapper;
import org.custodia.core.alarm.Hours;
import org.custodia.core.alarm.Rule;
import org.custodia.core.alarm.RuleDesk;
import org.custodia.core.alarm.RuleTrial;
import org.custodia.core.alarm.Versions;
import org.custodia.core.event.Cancellation;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.Priority;
import org.custodia.core.operator.NotPermittedException;
import org.custodia.core.saying.Saying;
import org.custodia.core.workplace.PermittedRules;
import org.custodia.desktop.Work;
import org.custodia.desktop.control.Rows;
import org.custodia.desktop.desk.Desk;

/** The rules as they stand, the one that is being edited, and what came of trying it. On the JavaFX thread. */
final class RuleModel implements AutoCloseable {
    /** How far back rules are tried. */
    static final Duration TRIED_ON = Duration.ofDays(7);

    private final Desk desk;
    private final Work lane = new Work("rules", 1);
    private final Rows<RuleDesk.Standing> rows = new Rows<>();
    private final ReadOnlyLongWrapper changes = new ReadOnlyLongWrapper();
    private Optional<RuleDesk.Standing> standing = Optional.empty();
    private Optional<Rule> rule = Optional.empty();
    private List<Saying> problems = List.of();
    private List<Versions.Said<Rule>> versions = List.of();
    private Optional<Tried> tried = Optional.empty();
    private Optional<Cancellation> trying = Optional.empty();
    private double progress;
    private String said = "";
    private boolean read;

    /**
     * What came of a trial.
     *
     * @param rule that was tried
     * @param trial of it
     * @param other a version it is compared with, and what came of that
     */
    record Tried(Rule rule, RuleTrial trial, Optional<Rule> other, Optional<RuleTrial> otherTrial) {}

    RuleModel(Desk desk) {
        this.desk = desk;
    }

    Desk desk() {
        return desk;
    }

    private PermittedRules rules() {
        return desk.services().workplace().rules();
    }

    boolean mayChange() {
        return rules().mayChange();
    }

    boolean mayTry() {
        return rules().mayTry();
    }

    boolean mayLook() {
        return rules().mayLook();
    }

    Rows<RuleDesk.Standing> rows() {
        return rows;
    }

    /** Goes up with each change of what is edited, tried or said. */
    ReadOnlyLongProperty changes() {
        return changes.getReadOnlyProperty();
    }

    private void changed() {
        changes.set(changes.get() + 1);
    }

    /** Whether the rules have been read at all. */
    boolean read() {
        return read;
    }

    /** Reads the rules anew. */
    void refresh() {
        if (mayLook()) {
            lane.latest("rules", () -> rules().rules(), this::took, this::say);
        }
    }

    private void took(List<RuleDesk.Standing> now) {
        read = true;
        rows.fill(now);
        rule.ifPresent(r -> {
            Optional<RuleDesk.Standing> same =
                    now.stream().filter(s -> s.rule().id().equals(r.id())).findFirst();
            boolean untouched = !edited();
            standing = same;
            if (untouched && same.isPresent()) {
                rule = same.map(RuleDesk.Standing::rule);
            }
        });
        changed();
    }

    /** What is edited, as it would be kept. */
    Optional<Rule> rule() {
        return rule;
    }

    /** What is watched of it now. */
    Optional<RuleDesk.Standing> standing() {
        return standing;
    }

    /** Whether it differs from what is watched. */
    boolean edited() {
        return rule.isPresent() && !standing.map(s -> s.rule().version(0)).equals(rule.map(r -> r.version(0)));
    }

    List<Saying> problems() {
        return problems;
    }

    List<Versions.Said<Rule>> versions() {
        return versions;
    }

    Optional<Tried> tried() {
        return tried;
    }

    boolean trying() {
        return trying.isPresent();
    }

    /** How far the trial has come, 0 to 1. */
    double progress() {
        return progress;
    }

    /** What went wrong last, or nothing. */
    String said() {
        return said;
    }

    private void say(String why) {
        said = why;
        changed();
    }

    /** Turns to a rule; what was edited of another is given up. */
    void choose(RuleDesk.Standing chosen) {
        if (rule.filter(r -> r.id().equals(chosen.rule().id())).isEmpty()) {
            stop();
            standing = Optional.of(chosen);
            tried = Optional.empty();
            versions = List.of();
            edit(chosen.rule());
            String id = chosen.rule().id();
            lane.latest(
                    "versions",
                    () -> rules().versions(id),
                    found -> {
                        if (rule.filter(r -> r.id().equals(id)).isPresent()) {
                            versions = found;
                            changed();
                        }
                    },
                    this::say);
        }
    }

    /** Begins a new one. */
    void begin(String name) {
        stop();
        standing = Optional.empty();
        tried = Optional.empty();
        versions = List.of();
        edit(new Rule(
                "own-" + Long.toString(desk.now().toEpochMilli(), 36),
                0,
                name,
                true,
                new Rule.Once(Set.of(Kinds.REFUSED), Set.of(), Set.of()),
                Rule.Where.ANYWHERE,
                Rule.Who.ANYBODY,
                Hours.ALWAYS,
                Priority.CAUTION,
                Rule.Then.CALLS));
    }

    /** The companies of people on file. */
    List<String> companies() {
        try {
            return desk.services().workplace().people().companies();
        } catch (NotPermittedException e) {
            return List.of();
        }
    }

    /** Edits what is chosen. */
    void edit(Rule now) {
        rule = Optional.of(now);
        said = "";
        problems = rules().problems(now);
        changed();
    }

    /** Gives up what was edited. */
    void putBack() {
        standing.ifPresentOrElse(s -> edit(s.rule()), () -> {
            rule = Optional.empty();
            changed();
        });
    }

    /** What was tried is what is edited. */
    boolean triedAsItIs() {
        return tried.map(t -> t.rule().version(0)).equals(rule.map(r -> r.version(0)));
    }

    /** Keeps what is edited; it is watched from then on. */
    void keep() {
        rule.ifPresent(r -> act(
                () -> rules().keep(r, standing.map(RuleDesk.Standing::version).orElse(0L))));
    }

    /** Takes what is chosen off. */
    void takeOff() {
        standing.ifPresent(s -> {
            String id = s.rule().id();
            lane.load(
                    () -> {
                        rules().takeOff(id, s.version());
                        return rules().rules();
                    },
                    now -> {
                        rule = Optional.empty();
                        standing = Optional.empty();
                        took(now);
                    },
                    this::say);
        });
    }

    private void act(Runnable what) {
        said = "";
        lane.load(
                () -> {
                    what.run();
                    return rules().rules();
                },
                now -> {
                    took(now);
                    rule.ifPresent(r -> lane.latest(
                            "versions",
                            () -> rules().versions(r.id()),
                            found -> {
                                versions = found;
                                changed();
                            },
                            this::say));
                },
                this::say);
    }

    /**
     * Tries what is edited on the last days, in the background.
     *
     * @param other a version to compare it with
     */
    void tryOut(Optional<Rule> other) {
        if (rule.isEmpty()) {
            return;
        }
        stop();
        Rule mine = rule.get();
        Cancellation cancellation = new Cancellation();
        trying = Optional.of(cancellation);
        progress = 0;
        int parts = other.isPresent() ? 2 : 1;
        Consumer<Double> told = share -> Platform.runLater(() -> {
            if (trying.equals(Optional.of(cancellation))) {
                progress = share;
                changed();
            }
        });
        changed();
        desk.work()
                .load(
                        () -> {
                            RuleTrial first =
                                    rules().tryOut(List.of(mine), TRIED_ON, p -> told.accept(p / parts), cancellation);
                            Optional<RuleTrial> second = other.map(o ->
                                    rules().tryOut(List.of(o), TRIED_ON, p -> told.accept((1 + p) / 2), cancellation));
                            return new Tried(mine, first, other, second);
                        },
                        result -> ended(cancellation, Optional.of(result), ""),
                        why -> ended(cancellation, Optional.empty(), why));
    }

    private void ended(Cancellation which, Optional<Tried> result, String why) {
        if (trying.equals(Optional.of(which))) {
            trying = Optional.empty();
            tried = result.or(() -> tried);
            said = why;
            changed();
        }
    }

    /** Ends a trial that is under way. */
    void stop() {
        trying.ifPresent(Cancellation::cancel);
        trying = Optional.empty();
    }

    /** Whether it would call more often than anybody can bear. */
    boolean callsTooOften() {
        return triedAsItIs()
                && tried.filter(t -> t.trial().aDay() > RuleTrial.MOST_A_DAY).isPresent();
    }

    /** What a file would change. */
    void plan(byte[] file, Consumer<List<RuleDesk.Change>> planned, Consumer<String> failed) {
        lane.load(() -> rules().plan(file), planned, failed);
    }

    /** Takes over what a file changes. */
    void take(List<RuleDesk.Change> changes, Runnable done, Consumer<String> failed) {
        lane.load(
                () -> {
                    rules().take(changes);
                    return rules().rules();
                },
                now -> {
                    took(now);
                    done.run();
                },
                failed);
    }

    /** All rules as a file. */
    void write(Consumer<byte[]> use, Consumer<String> failed) {
        lane.load(() -> rules().write(), use, failed);
    }

    /** The versions that what is edited can be compared with, each once. */
    List<Versions.Said<Rule>> others() {
        List<Versions.Said<Rule>> all = new ArrayList<>();
        for (Versions.Said<Rule> said : versions) {
            boolean same = said.value().isEmpty()
                    || Objects.equals(said.value().map(r -> r.version(0)), rule.map(r -> r.version(0)));
            if (!same) {
                all.add(said);
            }
        }
        return all;
    }

    @Override
    public void close() {
        stop();
        lane.close();
    }
}
