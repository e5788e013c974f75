package org.custodia.app;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.custodia.core.alarm.Escalation;
import org.custodia.core.alarm.ProcedureDesk;
import org.custodia.core.alarm.RuleDesk;
import org.custodia.core.event.Priority;
import org.custodia.core.message.Receiver;
import org.custodia.core.operator.Actor;
import org.custodia.core.setup.ChangeBook.About;
import org.custodia.core.setup.ChangeBook.Change;
import org.custodia.core.workplace.Workplace;
import org.custodia.desktop.changes.ChangeWords;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Every register that operators change stands in Changes and can be taken back there. */
class ChangesOfRulesTest {
    @TempDir
    Path directory;

    private final Actor odo = Rig.OPERATOR;
    private Rig rig;

    @BeforeEach
    void open() {
        rig = new Rig(directory).withHub();
    }

    @AfterEach
    void close() {
        rig.close();
    }

    private Workplace at() {
        return rig.hub.workplace(odo);
    }

    private Change newest(About about) {
        return at().devices().changes(100).stream()
                .filter(c -> c.about() == about)
                .findFirst()
                .orElseThrow();
    }

    private RuleDesk.Standing rule(String id) {
        return at().rules().rules().stream()
                .filter(s -> s.rule().id().equals(id))
                .findFirst()
                .orElseThrow();
    }

    @Test
    void a_rule_that_was_removed_or_changed_is_there_again_as_it_was() {
        RuleDesk.Standing shipped = rule("forced");
        at().rules().takeOff("forced", shipped.version());
        assertThat(at().rules().rules()).noneMatch(s -> s.rule().id().equals("forced"));
        Change removed = newest(About.RULE);
        assertThat(removed.stands()).isTrue();
        assertThat(removed.by()).isEqualTo(odo.operator());
        at().devices().takeBack(removed);
        assertThat(rule("forced").rule().version(0)).isEqualTo(shipped.rule().version(0));
        // Taking back is a change of its own, and what was taken back is not newest any more.
        assertThatThrownBy(() -> at().devices().takeBack(removed)).isInstanceOf(RuntimeException.class);
        assertThat(newest(About.RULE).stands()).isTrue();
    }

    @Test
    void a_procedure_and_how_alarms_go_on_are_as_they_were() {
        ProcedureDesk.Standing first = at().procedures().procedures().get(0);
        at().procedures().takeOff(first.procedure().id(), first.version());
        at().devices().takeBack(newest(About.PROCEDURE));
        assertThat(at().procedures().procedures())
                .anyMatch(s -> s.procedure().version(0).equals(first.procedure().version(0)));
        Escalation before = at().messages().escalation();
        at().messages().keep(new Escalation(0, Map.<Priority, List<Escalation.Step>>of()), before.version());
        assertThat(at().messages().escalation().steps()).isEmpty();
        at().devices().takeBack(newest(About.ESCALATION));
        assertThat(at().messages().escalation().steps()).isEqualTo(before.steps());
    }

    @Test
    void who_is_told_and_by_which_server_is_as_it_was() {
        Receiver duty = new Receiver(
                "duty", 0, "Duty manager", true, new Receiver.Mail(List.of("duty@sternwick.example"), false));
        at().messages().keep(duty, 0, Optional.empty());
        at().messages().takeOff("duty", at().messages().receivers().get(0).version());
        at().devices().takeBack(newest(About.RECIPIENT));
        assertThat(at().messages().receivers()).hasSize(1);
        assertThat(at().devices().changes(100)).noneMatch(c -> c.about() == About.MAIL_SERVER);
    }

    /** Found by pressing at random for half an hour: *Changes* failed on a shipped rule that was removed and never changed. */
    @Test
    void what_ships_and_is_removed_or_changed_for_the_first_time_is_named_as_that() {
        ChangeWords words = new ChangeWords(rig.hub.sites().get(), Map.of());
        RuleDesk.Standing forced = rule("forced");
        at().rules().takeOff("forced", forced.version());
        assertThat(words.head(newest(About.RULE))).contains("Forced open").endsWith("removed");
        assertThat(words.detail(newest(About.RULE))).isNotNull();
        at().rules().keep(rule("held").rule().on(false), rule("held").version());
        assertThat(words.head(newest(About.RULE))).contains("Held open").endsWith("changed");
        ProcedureDesk.Standing first = at().procedures().procedures().get(0);
        at().procedures().takeOff(first.procedure().id(), first.version());
        assertThat(words.head(newest(About.PROCEDURE)))
                .contains(first.procedure().name())
                .endsWith("removed");
    }
}
