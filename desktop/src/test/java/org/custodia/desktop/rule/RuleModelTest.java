package org.custodia.desktop.rule;

import static org.assertj.core.api.Assertions.assertThat;
import static org.custodia.core.Patience.await;

import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.time.DayOfWeek;
import java.time.Duration;
import java.time.LocalTime;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.atomic.AtomicReference;
import org.custodia.core.alarm.Hours;
import org.custodia.core.alarm.Rule;
import org.custodia.core.alarm.RuleDesk;
import org.custodia.core.alarm.Versions;
import org.custodia.core.door.DoorCommand;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.Priority;
import org.custodia.core.operator.Actor;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.SiteId;
import org.custodia.desktop.desk.DeskInHand;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Rules that are edited, tried, kept and put back, and what they say as sentences. */
class RuleModelTest {
    @TempDir
    Path directory;

    private DeskInHand hand;
    private RuleModel model;

    @BeforeEach
    void open() {
        hand = new DeskInHand(directory, Rule.shipped());
        model = DeskInHand.onFx(() -> new RuleModel(hand.desk));
        DeskInHand.onFx(() -> model.refresh());
        await().until(() -> DeskInHand.onFx(() -> model.read()));
    }

    @AfterEach
    void close() {
        model.close();
        hand.close();
    }

    private RuleDesk.Standing standing(String id) {
        return DeskInHand.onFx(() -> model.rows().list().stream()
                .filter(s -> s.rule().id().equals(id))
                .findFirst()
                .orElseThrow());
    }

    private void choose(String id) {
        RuleDesk.Standing standing = standing(id);
        DeskInHand.onFx(() -> model.choose(standing));
    }

    private void edit(Rule rule) {
        DeskInHand.onFx(() -> model.edit(rule));
    }

    @Test
    void what_is_edited_is_kept_and_what_somebody_else_changed_meanwhile_is_not_overwritten() {
        choose("held");
        assertThat(DeskInHand.onFx(model::edited)).isFalse();
        Rule held = standing("held").rule();
        edit(held.on(false));
        assertThat(DeskInHand.onFx(model::edited)).isTrue();
        DeskInHand.onFx(() -> model.putBack());
        assertThat(DeskInHand.onFx(model::edited)).isFalse();
        edit(held.on(false));
        DeskInHand.onFx(() -> model.keep());
        await().until(() -> !standing("held").rule().on() && !DeskInHand.onFx(model::edited));
        // Somebody at another desk.
        hand.ruleBook.keep(
                List.of(new Versions.Edit<>("held", Optional.of(held), 2)),
                Actor.withAll("ba", "B. Achterberg", "Desk 2"),
                List.of());
        edit(held.on(true));
        DeskInHand.onFx(() -> model.keep());
        await().until(() -> !DeskInHand.onFx(model::said).isEmpty());
        assertThat(DeskInHand.onFx(model::edited)).isTrue();
    }

    @Test
    void a_new_one_is_tried_compared_kept_and_taken_off() {
        hand.log.store(
                Event.of(new EventKey(DeskInHand.SYSTEM, 1, 1), Kinds.REFUSED, DeskInHand.NOW.minusSeconds(3_600))
                        .door(DeskInHand.VAULT)
                        .build());
        DeskInHand.onFx(() -> model.begin("Refused at all"));
        Rule mine = DeskInHand.onFx(() -> model.rule().orElseThrow());
        DeskInHand.onFx(() -> model.tryOut(Optional.of(mine.on(false))));
        await().until(() -> DeskInHand.onFx(() -> model.tried().isPresent()));
        RuleModel.Tried tried = DeskInHand.onFx(() -> model.tried().orElseThrow());
        assertThat(tried.trial().total()).isEqualTo(1);
        assertThat(tried.otherTrial().orElseThrow().total()).isEqualTo(1);
        assertThat(DeskInHand.onFx(model::triedAsItIs)).isTrue();
        edit(mine.on(false));
        assertThat(DeskInHand.onFx(model::triedAsItIs)).isFalse();
        edit(mine);
        DeskInHand.onFx(() -> model.keep());
        await().until(() -> DeskInHand.onFx(
                () -> model.rows().list().stream().anyMatch(s -> s.rule().id().equals(mine.id()))));
        await().until(() -> DeskInHand.onFx(() -> model.versions().size() == 1));
        DeskInHand.onFx(() -> model.takeOff());
        await().until(() -> DeskInHand.onFx(() -> model.rule().isEmpty()
                && model.rows().list().stream().noneMatch(s -> s.rule().id().equals(mine.id()))));
    }

    @Test
    void what_is_no_file_of_rules_is_said_and_changes_nothing() {
        AtomicReference<String> said = new AtomicReference<>("");
        DeskInHand.onFx(() -> model.plan("?".getBytes(StandardCharsets.UTF_8), c -> said.set("planned"), said::set));
        await().until(() -> said.get().contains("no file of rules"));
    }

    @Test
    void each_rule_is_a_sentence() {
        RuleWords words = DeskInHand.onFx(() -> new RuleWords(hand.desk));
        assertThat(words.sentence(standing("forced").rule())).isEqualTo("When forced open; it ends with closed.");
        assertThat(words.sentence(standing("refused-often").rule()))
                .isEqualTo("When refused, 3 times within 3 minutes at one place, with no granted in between.");
        Rule odd = new Rule(
                "own-1",
                0,
                "Odd",
                true,
                new Rule.Unfollowed(Set.of(Kinds.GRANTED), Set.of(Kinds.OPENED), Duration.ofSeconds(90)),
                new Rule.Where(
                        Set.of(DeskInHand.VAULT, new DoorId("tidewater/gone")),
                        Set.of(new Rule.Zone(new SiteId("harbour"), "Stair")),
                        Set.of(),
                        Set.of(),
                        Set.of()),
                new Rule.Who(Set.of(new PersonId("tidewater/x")), Set.of("contractor"), false),
                new Hours(
                        List.of(new Hours.Span(
                                Set.of(DayOfWeek.MONDAY, DayOfWeek.TUESDAY, DayOfWeek.WEDNESDAY),
                                LocalTime.of(22, 0),
                                LocalTime.of(6, 0))),
                        Hours.Holidays.ALL_DAY),
                Priority.LOW,
                new Rule.Then(
                        true,
                        false,
                        List.of(new Rule.Order(Rule.At.END, Optional.empty(), new DoorCommand.LockNow())),
                        List.of()));
        assertThat(words.sentence(odd))
                .isEqualTo("When granted, and not opened within 90 seconds, at zone Stair (Harbour), Vault, or"
                        + " tidewater/gone (gone), by contractors or tidewater/x (gone), Mon to Wed 22:00–06:00, and all"
                        + " day on holidays.");
        assertThat(words.then(odd.then()))
                .isEqualTo("its pictures come forward and when it ends, the door where it is is told: Lock now");
        assertThat(words.what(new Rule.TooFar(Set.of(Kinds.GRANTED), 40, Duration.ofMinutes(5))))
                .contains("less than 40 %");
        assertThat(words.then(Rule.Then.QUIET)).contains("without sound");
        assertThat(RuleWords.name("forced", "Forced open")).isEqualTo("Forced open");
        assertThat(RuleWords.name("forced", "Breach")).isEqualTo("Breach");
    }
}
