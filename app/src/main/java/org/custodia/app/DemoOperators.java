package org.custodia.app;

import java.time.Duration;
import java.time.ZoneId;
import java.time.ZonedDateTime;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import org.custodia.core.alarm.AlarmReplay;
import org.custodia.core.alarm.Outcome;
import org.custodia.core.alarm.Rule;
import org.custodia.core.event.Event;
import org.custodia.core.operator.Actor;

/** The operators of the practice site in the weeks before the demo begins; what they do depends on the event alone. */
final class DemoOperators implements AlarmReplay.Operators {
    private static final Actor EARLY = at("okettle", "O. Kettle");
    private static final Actor LATE = at("sfairweather", "S. Fairweather");
    private static final Actor NIGHT = at("dmarsh", "D. Marsh");

    private static final int EARLY_BEGINS = 6;
    private static final int LATE_BEGINS = 14;
    private static final int NIGHT_BEGINS = 22;

    /** What may come of an alarm, in the operator's words. */
    private record Ending(Outcome outcome, String text) {}

    private static final List<Ending> USUAL = List.of(
            new Ending(Outcome.HARMLESS, ""),
            new Ending(Outcome.HARMLESS, ""),
            new Ending(Outcome.FAULT, "Reported to the technicians."),
            new Ending(Outcome.NOT_KNOWN, ""));

    private static final Map<String, List<Ending>> BY_RULE = Map.of(
            "forced",
            List.of(
                    new Ending(Outcome.HARMLESS, "Opened with a key by the cleaners."),
                    new Ending(Outcome.FAULT, "Contact loose, technician informed."),
                    new Ending(Outcome.GENUINE, "Lock did not catch; door closed by the patrol.")),
            "held",
            List.of(
                    new Ending(Outcome.HARMLESS, "Trolley in the doorway."),
                    new Ending(Outcome.HARMLESS, "Delivery."),
                    new Ending(Outcome.HARMLESS, ""),
                    new Ending(Outcome.FAULT, "Door closer is slow.")),
            "duress",
            List.of(
                    new Ending(Outcome.DRILL, "Monthly test."),
                    new Ending(Outcome.HARMLESS, "Typed by mistake; called back.")),
            "refused-often",
            List.of(
                    new Ending(Outcome.HARMLESS, "Badge at the wrong door."),
                    new Ending(Outcome.GENUINE, "Contractor tried a door outside the order; spoken to.")),
            "panic",
            List.of(new Ending(Outcome.DRILL, "Monthly test."), new Ending(Outcome.HARMLESS, "Pressed by mistake.")));

    private final ZoneId zone;

    /**
     * @param zone in which they work
     */
    DemoOperators(ZoneId zone) {
        this.zone = zone;
    }

    private static Actor at(String operator, String name) {
        return Actor.withAll(operator, name, "Guard room desk");
    }

    @Override
    public Optional<AlarmReplay.Handling> handle(Rule rule, Event cause) {
        Random chance = new Random(cause.key().hashCode() * 31L + rule.id().hashCode());
        int hour = ZonedDateTime.ofInstant(cause.time(), zone).getHour();
        Actor operator = hour >= EARLY_BEGINS && hour < LATE_BEGINS
                ? EARLY
                : hour >= LATE_BEGINS && hour < NIGHT_BEGINS ? LATE : NIGHT;
        // Most within a minute; at night the desk is empty now and then.
        boolean away = operator == NIGHT && chance.nextInt(6) == 0;
        Duration acknowledged = Duration.ofMillis(
                away ? 180_000 + chance.nextInt(420_000) : 4_000 + (long) (60_000 * Math.pow(chance.nextDouble(), 3)));
        Duration finished = Duration.ofSeconds(30 + chance.nextInt(600));
        List<Ending> endings = BY_RULE.getOrDefault(rule.id(), USUAL);
        Ending ending = endings.get(chance.nextInt(endings.size()));
        return Optional.of(new AlarmReplay.Handling(operator, acknowledged, finished, ending.outcome(), ending.text()));
    }
}
