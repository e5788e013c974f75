package org.custodia.desktop.words;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.Locale;
import java.util.Optional;
import java.util.Set;
import org.custodia.core.access.Verdict;
import org.custodia.core.command.CommandProgress;
import org.custodia.core.command.CommandProgress.Stage;
import org.custodia.core.door.DoorCommand;
import org.custodia.core.door.DoorState;
import org.custodia.core.door.DoorState.Position;
import org.custodia.core.door.LockMode;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.Reasons;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorCapability;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SystemId;
import org.custodia.desktop.text.Texts;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;

class DoorWordsTest {
    private static final ZoneId LONDON = ZoneId.of("Europe/London");
    private static final Instant TWO = Instant.parse("2026-11-24T14:00:00Z");
    private static final Optional<Instant> AT_TWO = Optional.of(TWO);
    private static final Optional<Instant> NEVER = Optional.empty();

    @AfterEach
    void english() {
        Texts.choose(Texts.ENGLISH);
    }

    private static Door door(DoorCapability... can) {
        return new Door(
                new DoorId("tidewater/vault"),
                new SystemId("tidewater"),
                new ControllerId("tidewater/c5"),
                "Vault",
                new SiteId("tidewater/harbour"),
                "0",
                "",
                "",
                Duration.ofMinutes(1),
                Set.of(can));
    }

    private static DoorState lock(LockMode mode, String by, Instant until, DoorState.Next next) {
        return new DoorState(
                Position.CLOSED,
                AT_TWO,
                mode,
                Optional.ofNullable(by),
                Optional.ofNullable(until),
                Optional.ofNullable(next),
                NEVER,
                NEVER,
                NEVER,
                false);
    }

    private static DoorState trouble(Optional<Instant> forced, Optional<Instant> held, Optional<Instant> lost) {
        return new DoorState(
                lost.isPresent() ? Position.CLOSED : Position.OPEN,
                AT_TWO,
                LockMode.LOCKED,
                Optional.of("timetable"),
                NEVER,
                Optional.empty(),
                forced,
                held,
                lost,
                false);
    }

    private static String say(DoorState state, Door door, int seconds) {
        Instant at = TWO.plusSeconds(seconds);
        return DoorWords.headline(state, at, LONDON)
                + DoorWords.second(state, door, at, LONDON).map(x -> " / " + x).orElse("");
    }

    private static String say(DoorState state, int seconds) {
        return say(state, door(DoorCapability.CONTACT), seconds);
    }

    @Test
    void says_why_it_is_so_and_what_comes_next() {
        DoorState.Next closing = new DoorState.Next(LockMode.LOCKED, TWO.plusSeconds(12_600));
        assertThat(say(lock(LockMode.UNLOCKED, "timetable", null, closing), 5))
                .isEqualTo("Unlocked by timetable / Locks 17:30");
        assertThat(say(lock(LockMode.UNLOCKED, "command", TWO.plusSeconds(1_800), closing), 5))
                .isEqualTo("Unlocked from the desk until 14:30");
        assertThat(say(lock(LockMode.LOCKED, "command", null, null), 5))
                .isEqualTo("Locked from the desk until changed");
        assertThat(say(lock(LockMode.BLOCKED, "guard tour", null, null), 5)).isEqualTo("Blocked by guard tour");
        assertThat(say(lock(LockMode.LOCKED, "timetable", null, null), 5)).isEqualTo("Locked");
        assertThat(say(lock(LockMode.LOCKED, "timetable", null, null), door(), 5))
                .isEqualTo("Locked / no contact: position not known");
        DoorState.Next corrected = new DoorState.Next(LockMode.LOCKED, TWO.plusMillis(12_599_720));
        assertThat(say(lock(LockMode.UNLOCKED, "timetable", null, corrected), 5))
                .endsWith("Locks 17:30");
        DoorState.Next tomorrow = new DoorState.Next(LockMode.UNLOCKED, TWO.plusSeconds(72_000));
        assertThat(say(lock(LockMode.LOCKED, "timetable", null, tomorrow), 5)).isEqualTo("Locked / Unlocks Wed 10:00");
    }

    @Test
    void says_the_worst_first() {
        assertThat(say(trouble(NEVER, Optional.of(TWO.plusSeconds(60)), NEVER), 161))
                .isEqualTo("Held open, 2 min 41\u00a0s / allowed 1 min");
        assertThat(say(trouble(AT_TWO, AT_TWO, NEVER), 48)).isEqualTo("Forced open, 48 s / locked");
        assertThat(say(trouble(NEVER, NEVER, AT_TWO), 48))
                .isEqualTo("Out of reach since 14:00 / last known: locked, closed");
        assertThat(say(trouble(NEVER, NEVER, NEVER), 48)).isEqualTo("Locked / open, 48 s");
        assertThat(say(DoorState.UNKNOWN, 1)).startsWith("State not known yet");
    }

    @Test
    void in_german_too() {
        Texts.choose(Locale.GERMAN);
        assertThat(say(trouble(NEVER, Optional.of(TWO.plusSeconds(60)), NEVER), 161))
                .isEqualTo("Offen gehalten, 2 min 41\u00a0s / erlaubt 1 min");
        assertThat(say(trouble(AT_TWO, AT_TWO, NEVER), 48)).isEqualTo("Aufgebrochen, 48 s / verriegelt");
        assertThat(say(lock(LockMode.UNLOCKED, "command", TWO.plusSeconds(1_800), null), 5))
                .isEqualTo("Entriegelt vom Leitstand bis 14:30");
    }

    @Test
    void a_command_says_how_it_goes_and_what_the_door_does_where_it_did_not_go_well() {
        CommandProgress sent = progress("k", Stage.SENT, null, Optional.empty());
        assertThat(DoorWords.progress(sent, TWO, LONDON)).isEqualTo("Lock now: sent");
        CommandProgress done = progress("k", Stage.CONFIRMED, null, Optional.empty());
        assertThat(DoorWords.progress(done, TWO, LONDON)).isEqualTo("Lock now: confirmed by the door");
        CommandProgress failed =
                progress("k", Stage.FAILED, Saying.of("command.not-known"), Optional.of(trouble(AT_TWO, NEVER, NEVER)));
        assertThat(DoorWords.progress(failed, TWO.plusSeconds(9), LONDON))
                .isEqualTo("Lock now: not known whether it arrived. Now: Forced open, 9 s");
        CommandProgress never = progress("", Stage.FAILED, Saying.of("command.no-such-door", "x"), Optional.empty());
        assertThat(DoorWords.progress(never, TWO, LONDON)).isEqualTo("There is no door x.");
    }

    private static CommandProgress progress(String key, Stage stage, Saying why, Optional<DoorState> now) {
        return new CommandProgress(
                key,
                new DoorId("tidewater/vault"),
                new DoorCommand.LockNow(),
                stage,
                TWO,
                Optional.ofNullable(why),
                now);
    }

    @Test
    void lengths_of_time_are_readable() {
        assertThat(DoorWords.span(Duration.ofSeconds(59))).isEqualTo("59 s");
        assertThat(DoorWords.span(Duration.ofSeconds(120))).isEqualTo("2 min");
        assertThat(DoorWords.span(Duration.ofMinutes(185))).isEqualTo("3 h 05 min");
        assertThat(DoorWords.span(Duration.ofHours(52))).isEqualTo("2 d 4 h");
        assertThat(DoorWords.span(Duration.ofSeconds(-3))).isEqualTo("0 s");
    }

    @Test
    void every_code_that_is_known_has_a_name_in_every_language_and_others_stay_as_they_came() {
        for (Locale language : Texts.LANGUAGES) {
            Texts.choose(language);
            for (EventKind kind : Kinds.all()) {
                assertThat(Names.kind(kind)).as("%s in %s", kind, language).isNotBlank();
                if (language.equals(Texts.ENGLISH)) {
                    assertThat(Names.kind(kind)).isEqualTo(Kinds.entry(kind).name());
                } else {
                    assertThat(Names.kind(kind)).isNotEqualTo(Kinds.entry(kind).name());
                }
            }
            for (String reason : Reasons.all()) {
                assertThat(Names.reason(reason).equals(Reasons.words(reason)))
                        .as("%s in %s", reason, language)
                        .isEqualTo(language.equals(Texts.ENGLISH));
            }
            for (Verdict verdict : Verdict.values()) {
                assertThat(Names.verdict(verdict)).isNotBlank();
            }
        }
        assertThat(Names.kind(new EventKind("lift.stuck"))).isEqualTo("lift.stuck");
        assertThat(Names.reason("moon-full")).isEqualTo("moon-full");
        assertThat(Names.command("dance")).isEqualTo("dance");
    }
}
