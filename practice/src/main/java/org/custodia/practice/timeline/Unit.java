package org.custodia.practice.timeline;

import java.time.Instant;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.Set;
import org.custodia.practice.place.Installation.UnitEntry;
import org.custodia.practice.place.People;
import org.custodia.practice.place.PracticePerson;

/** A device of an access system that is no door: says what happens to it under its own name. */
abstract class Unit implements Device {
    final UnitEntry entry;
    final Agenda agenda;
    private final AccessSystem system;

    Unit(UnitEntry entry, AccessSystem system, Agenda agenda) {
        this.entry = entry;
        this.system = system;
        this.agenda = agenda;
    }

    /**
     * The device of an entry.
     *
     * @param people whose badges it knows
     *
     * @throws IllegalArgumentException if there is no such kind of device
     */
    static Unit of(UnitEntry entry, AccessSystem system, Agenda agenda, People people) {
        return switch (entry.kind()) {
            case "panic-button", "fire-contact", "motion-detector", "tamper-contact" ->
                new Input(entry, system, agenda);
            case "intruder-panel" -> new IntruderPanel(entry, system, agenda);
            case "call-station" -> new CallStation(entry, system, agenda);
            case "display" -> new Display(entry, system, agenda);
            case "prop-alarm" -> new PropAlarm(entry, system, agenda);
            case "muster-reader" -> new MusterReader(entry, system, agenda, people);
            default ->
                throw new IllegalArgumentException(
                        "The installation file names a device of the kind " + entry.kind() + ", which nobody knows.");
        };
    }

    @Override
    public final String id() {
        return entry.id();
    }

    @Override
    public final String kind() {
        return entry.kind();
    }

    AccessSystem system() {
        return system;
    }

    final void tell(long at, String kind, String person, String credential, Map<String, String> details) {
        tell(at, kind, person, credential, null, details);
    }

    /**
     * @param cause the key of the command that brought it about; null for none
     */
    final void tell(long at, String kind, String person, String credential, String cause, Map<String, String> details) {
        system.emit(new AccessSystem.Draft(
                at,
                kind,
                entry.door(),
                entry.controller(),
                null,
                null,
                person,
                credential,
                credential == null ? null : "card",
                null,
                cause,
                details,
                entry.id()));
    }

    final void tell(long at, String kind) {
        tell(at, kind, null, null, Map.of("device", entry.kind()));
    }

    /** Two states that hang on something outside, as a contact has them. */
    static final class Input extends Unit {
        private boolean on;
        private long since;

        Input(UnitEntry entry, AccessSystem system, Agenda agenda) {
            super(entry, system, agenda);
            since = agenda.now();
        }

        @Override
        public Set<String> acts() {
            return Set.of("trip", "restore");
        }

        @Override
        public Optional<String> perform(Act act, long now, Random random) {
            set(now, act.act().equals("trip"));
            if (on && act.millis() > 0) {
                agenda.at(now + act.millis(), t -> set(t, false));
            }
            return Optional.empty();
        }

        private void set(long now, boolean to) {
            if (on != to) {
                on = to;
                since = now;
                tell(now, on ? "input.on" : "input.off");
            }
        }

        @Override
        public Map<String, String> report(long now) {
            return Map.of(
                    "state",
                    on ? "on" : "off",
                    "since",
                    Instant.ofEpochMilli(system().clock().shows(since)).toString());
        }
    }

    /** Guards a room while it is armed. */
    static final class IntruderPanel extends Unit {
        private boolean armed;
        private boolean alarm;

        IntruderPanel(UnitEntry entry, AccessSystem system, Agenda agenda) {
            super(entry, system, agenda);
        }

        @Override
        public Set<String> acts() {
            return Set.of("arm", "disarm", "trip");
        }

        @Override
        public Optional<String> perform(Act act, long now, Random random) {
            switch (act.act()) {
                case "arm" -> {
                    armed = true;
                    tell(now, "panel.armed");
                }
                case "disarm" -> {
                    armed = false;
                    alarm = false;
                    tell(now, "panel.disarmed");
                }
                default -> {
                    if (!armed) {
                        return Optional.of("the intruder panel is not armed");
                    }
                    alarm = true;
                    tell(now, "panel.alarm");
                }
            }
            return Optional.empty();
        }

        @Override
        public Map<String, String> report(long now) {
            return Map.of("state", alarm ? "alarm" : armed ? "armed" : "disarmed");
        }
    }

    /** Shows a text beside a door. */
    static final class Display extends Unit {
        private String text = "";

        Display(UnitEntry entry, AccessSystem system, Agenda agenda) {
            super(entry, system, agenda);
        }

        @Override
        public Set<String> acts() {
            return Set.of("text");
        }

        @Override
        public Optional<String> perform(Act act, long now, Random random) {
            text = Optional.ofNullable(act.command()).orElse("");
            tell(now, "display.text", null, null, act.key(), Map.of("device", kind(), "text", text));
            return Optional.empty();
        }

        @Override
        public Map<String, String> report(long now) {
            return Map.of("text", text);
        }
    }

    /** Where people say that they are out of the building. */
    static final class MusterReader extends Unit {
        private final People people;

        MusterReader(UnitEntry entry, AccessSystem system, Agenda agenda, People people) {
            super(entry, system, agenda);
            this.people = people;
        }

        @Override
        public Set<String> acts() {
            return Set.of("present");
        }

        @Override
        public Optional<String> perform(Act act, long now, Random random) {
            String person = people.byBadge(act.badge()).map(PracticePerson::id).orElse(null);
            tell(now, "muster.presented", person, act.badge(), Map.of("device", kind()));
            return Optional.empty();
        }
    }
}
