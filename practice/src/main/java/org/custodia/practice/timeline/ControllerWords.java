package org.custodia.practice.timeline;

import org.custodia.core.access.Decision;
import org.custodia.core.access.Decision.LevelSays;
import org.custodia.core.access.Decision.Says;
import org.custodia.core.event.Reasons;

/** What the controllers of the practice site say of a refusal, in sentences of their own. */
final class ControllerWords {
    private ControllerWords() {}

    static String of(String reason, String number, Decision decision) {
        return switch (reason) {
            case "reader-off" -> "The reader is switched off.";
            case "format-not-set-up" -> "The number " + number + " is in a format nobody set up.";
            case "unknown-credential" -> "Badge " + number + " is not on file.";
            case "credential-suspended" -> "The badge is suspended.";
            case "credential-lost" -> "The badge was reported lost.";
            case "credential-not-yet-valid" -> "The badge is not valid yet.";
            case "credential-ended" -> "The badge has ended.";
            case "person-ended" -> "The person's record has ended.";
            case "person-stopped" -> "Nothing may open for this person.";
            case "door-blocked" -> "The door is blocked for everybody.";
            case "no-level" -> "None of this person's levels has this door.";
            case "outside-timetable" -> outside(decision);
            case "pin-missing" -> "A PIN is needed here as well; none was typed.";
            case "no-pin-set" -> "A PIN is needed here as well; this badge has none.";
            case "wrong-pin" -> "The PIN was wrong.";
            case "already-inside" -> "This person went in before and has not come out.";
            case "second-person-missing" -> "Two persons are needed here; a second badge must follow.";
            default -> Reasons.words(reason) + ".";
        };
    }

    private static String outside(Decision decision) {
        return decision.levels().stream()
                .filter(l -> l.says() == Says.OFF)
                .findFirst()
                .map(ControllerWords::off)
                .orElse("No level opens this door now.");
    }

    private static String off(LevelSays said) {
        return "Level " + said.level().name() + " opens this door by timetable "
                + said.timetable().orElseThrow().name() + ", which is off now.";
    }
}
