package org.custodia.desktop.alarm;

import static org.assertj.core.api.Assertions.assertThat;
import static org.custodia.desktop.desk.DeskInHand.VAULT;
import static org.custodia.desktop.desk.DeskInHand.event;
import static org.custodia.desktop.desk.DeskInHand.onFx;

import java.nio.file.Path;
import java.util.List;
import org.custodia.core.Patience;
import org.custodia.core.alarm.Alarm;
import org.custodia.core.alarm.Outcome;
import org.custodia.core.alarm.Rule;
import org.custodia.core.event.Kinds;
import org.custodia.desktop.desk.DeskInHand;
import org.custodia.desktop.rule.RuleWords;
import org.custodia.desktop.text.Texts;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** What is said of alarms, as they go from one state to the next. */
class AlarmWordsTest {
    @TempDir
    Path directory;

    private DeskInHand hand;

    @BeforeEach
    void open() {
        hand = new DeskInHand(directory, Rule.shipped());
    }

    @AfterEach
    void close() {
        hand.close();
    }

    @Test
    void every_rule_that_is_shipped_every_priority_and_every_outcome_has_its_words() {
        Texts texts = Texts.of(RuleWords.class);
        assertThat(Rule.shipped())
                .allSatisfy(r -> assertThat(texts.known("name." + r.id())).contains(r.name()));
        assertThat(Rule.PRIORITIES)
                .allSatisfy(p -> assertThat(AlarmWords.priority(p)).isNotBlank());
        assertThat(Outcome.values())
                .allSatisfy(o -> assertThat(AlarmWords.outcome(o)).isNotBlank());
    }

    @Test
    void how_it_stands_is_said_in_each_state() {
        hand.log.store(event(500, Kinds.HELD, VAULT, hand.now().plusSeconds(1)));
        Patience.await().until(() -> onFx(() -> hand.desk.alarms().open().get().size() == 1));
        AlarmWords words = new AlarmWords(hand.desk);
        assertThat(words.standing(alarm(), hand.now())).isEqualTo("new · still so");
        hand.alarms
                .acknowledge(List.of(alarm().seen()), hand.desk.services().actor())
                .join();
        says(words, "acknowledged · still so");
        hand.log.store(event(501, Kinds.CLOSED, VAULT, hand.now().plusSeconds(2)));
        says(words, "acknowledged · ended");
        hand.alarms
                .hand(alarm().id(), "ba", "B. Achterberg", hand.desk.services().actor())
                .join();
        says(words, "B. Achterberg has it · ended");
        hand.alarms.take(alarm().id(), hand.desk.services().actor()).join();
        says(words, "yours · ended");
        hand.log.store(event(502, Kinds.HELD, VAULT, hand.now().plusSeconds(3)));
        Patience.await().until(() -> words.what(alarm()).equals("Held open × 2"));
        hand.alarms
                .shelve(
                        alarm().id(),
                        hand.now().plusSeconds(600),
                        "damper",
                        hand.desk.services().actor())
                .join();
        Patience.await().until(() -> words.standing(alarm(), hand.now()).startsWith("shelved until"));
        assertThat(words.standing(alarm(), hand.now())).contains("damper");
        assertThat(hand.desk.alarms().unseen()).isEmpty();
    }

    private void says(AlarmWords words, String standing) {
        Patience.await().until(() -> words.standing(alarm(), hand.now()).equals(standing));
    }

    private Alarm alarm() {
        return onFx(() -> hand.desk.alarms().open().get().get(0));
    }
}
