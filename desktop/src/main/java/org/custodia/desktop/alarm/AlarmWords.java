package org.custodia.desktop.alarm;

import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.Locale;
import org.custodia.core.alarm.Alarm;
import org.custodia.core.alarm.Outcome;
import org.custodia.core.event.Priority;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.rule.RuleWords;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.words.ClockWords;
import org.custodia.desktop.words.DoorWords;
import org.custodia.desktop.words.SubjectWords;

/** Says what an alarm is, where, and how it stands. */
public final class AlarmWords {
    private static final Texts TEXTS = Texts.of(AlarmWords.class);

    private final Desk desk;

    public AlarmWords(Desk desk) {
        this.desk = desk;
    }

    /** What it is, and how often. */
    public String what(Alarm alarm) {
        Alarm.Origin origin = alarm.origin();
        String name = RuleWords.name(origin.rule(), origin.name());
        return alarm.times() > 1 ? TEXTS.say("times", name, alarm.times()) : name;
    }

    /** What it is about. */
    public String where(Alarm alarm) {
        return SubjectWords.where(
                alarm.calling().subject(),
                desk.services().sites().get(),
                desk.services().links().get());
    }

    /** How far it has been dealt with, and whether it still is so. */
    public String standing(Alarm alarm, Instant now) {
        String state =
                switch (alarm.state(now)) {
                    case NEW -> TEXTS.say("state.new");
                    case ACKNOWLEDGED -> TEXTS.say("state.acknowledged");
                    case IN_HAND ->
                        alarm.owner()
                                .map(o -> o.operator()
                                                .equals(desk.services().actor().operator())
                                        ? TEXTS.say("state.yours")
                                        : TEXTS.say("state.in-hand", o.name()))
                                .orElse("");
                    case SHELVED ->
                        alarm.shelved()
                                .map(s -> TEXTS.say(
                                        "state.shelved", ClockWords.dated(s.until(), now, zone()), s.reason()))
                                .orElse("");
                    case FINISHED ->
                        alarm.finished().map(f -> outcome(f.outcome())).orElse("");
                };
        return switch (alarm.condition()) {
            case ON -> TEXTS.say("still", state);
            case ENDED -> TEXTS.say("ended", state);
            case MOMENT -> state;
            case UNWATCHED -> TEXTS.say("unwatched", state);
            case CONTRADICTED -> TEXTS.say("contradicted", state);
        };
    }

    /** How long ago it happened. */
    String age(Alarm alarm, Instant now) {
        Duration age = Duration.between(alarm.origin().since(), now);
        return DoorWords.span(age.isNegative() ? Duration.ZERO : age);
    }

    /** How long it has been calling for somebody. */
    String waiting(Alarm alarm, Instant now) {
        Duration waits = Duration.between(alarm.call().since(), now);
        return DoorWords.span(waits.isNegative() ? Duration.ZERO : waits);
    }

    /** How urgent it is, since when, and how it stands. */
    String sentence(Alarm alarm, Instant now) {
        return TEXTS.say(
                "sentence",
                priority(alarm.origin().priority()),
                ClockWords.exact(alarm.origin().since(), now, zone()),
                standing(alarm, now));
    }

    static String priority(Priority priority) {
        return TEXTS.say("priority." + priority.name().toLowerCase(Locale.ROOT));
    }

    static String outcome(Outcome outcome) {
        return TEXTS.say("outcome." + outcome.word());
    }

    private ZoneId zone() {
        return desk.zone();
    }
}
