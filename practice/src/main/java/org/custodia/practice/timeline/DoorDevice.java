package org.custodia.practice.timeline;

import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.Set;
import org.custodia.core.access.Pin;
import org.custodia.practice.place.Look;
import org.custodia.practice.place.Look.Dress;
import org.custodia.practice.place.People;
import org.custodia.practice.place.PracticePerson;
import org.custodia.practice.place.SiteRules;

/** A door with all that people, weather and the desk can do to it. */
final class DoorDevice implements Device {
    private final DoorControl control;
    private final AccessSystem system;
    private final Movements movements;
    private final People people;
    private final SiteRules rules;
    private final Scenes scenes;
    private final Agenda agenda;
    /** What rings when somebody stands there, if anything does. */
    private Optional<CallStation> station = Optional.empty();

    DoorDevice(
            DoorControl control,
            AccessSystem system,
            Movements movements,
            People people,
            SiteRules rules,
            Scenes scenes,
            Agenda agenda) {
        this.control = control;
        this.system = system;
        this.movements = movements;
        this.people = people;
        this.rules = rules;
        this.scenes = scenes;
        this.agenda = agenda;
    }

    void hasStation(CallStation callStation) {
        station = Optional.of(callStation);
    }

    @Override
    public String id() {
        return control.door().id();
    }

    @Override
    public String kind() {
        return "door";
    }

    @Override
    public Set<String> acts() {
        return Set.of("present", "code", "hold", "shut", "force", "caller", "command");
    }

    @Override
    public Map<String, String> report(long now) {
        return control.report(now);
    }

    @Override
    public Optional<String> perform(Act act, long now, Random random) {
        switch (act.act()) {
            case "present" -> present(act, now, random);
            case "code" -> typeCode(now, act.badge(), Look.random(random, Dress.COAT, null), random);
            case "hold" ->
                movements.attempt(
                        now,
                        id(),
                        true,
                        Manner.of(somebody(random)).holding(act.millis()),
                        random,
                        Movements.Outcome.NONE);
            case "shut" -> control.shut(now);
            case "force" -> forced(now, Look.random(random, Dress.COAT, null), act.millis());
            case "caller" -> waits(now, Look.random(random, Dress.VEST, null), now + act.millis());
            default -> {
                return command(act, now, random);
            }
        }
        return Optional.empty();
    }

    private void present(Act act, long now, Random random) {
        Optional<PracticePerson> owner = people.byBadge(act.badge());
        Look look = Optional.ofNullable(act.who())
                .flatMap(people::byId)
                .or(() -> owner)
                .map(PracticePerson::look)
                .orElseGet(() -> Look.random(random, Dress.COAT, null));
        Optional<Pin> pin = Optional.ofNullable(act.pin()).map(Pin::of).or(() -> owner.map(PracticePerson::pin));
        Manner manner = Manner.of(look).presenting(act.badge()).typing(pin).holding(act.millis());
        movements.attempt(now, id(), !act.outwards(), manner, random, Movements.Outcome.NONE);
    }

    private Optional<String> command(Act act, long now, Random random) {
        if (!system.reaches(control.door().controller())) {
            return Optional.of("the controller is out of reach");
        }
        Optional<String> problem =
                control.command(now, act.command(), act.millis() == 0 ? -1 : act.millis(), act.key());
        if (problem.isEmpty() && act.command().equals("let-through")) {
            movements.released(now, id(), random);
        }
        return problem;
    }

    /** Somebody types the door's code. */
    void typeCode(long now, String typed, Look look, Random random) {
        if (control.code(now, typed)) {
            long opens = now + 900;
            scenes.visit(id(), new Scenes.Visit(look, true, now, opens + 200, true, 'g'));
            agenda.at(opens, t -> control.open(t, 3_200L + random.nextInt(1_500)));
        } else {
            scenes.visit(id(), new Scenes.Visit(look, true, now, now + 3_000, false, 'r'));
        }
    }

    /** Somebody breaks it open. */
    void forced(long now, Look look, long standsOpen) {
        scenes.visit(id(), new Scenes.Visit(look, true, now - 4_000, now + 400, true, '-'));
        control.open(now, standsOpen);
    }

    /** Somebody without a badge stands there and rings, if there is something to ring. */
    void waits(long now, Look look, long until) {
        movements.linger(now, id(), true, look, until, '-');
        station.ifPresent(s -> s.ring(now + 1_500, until - now - 1_500));
    }

    /** Somebody whom the door lets in, as a rule; only made to appear by hand, and so wherever they are. */
    private PracticePerson somebody(Random random) {
        List<PracticePerson> fitting = people.all().stream()
                .filter(p -> p.home().equals(control.door().building().id()) && rules.opens(p, control.door()))
                .filter(p ->
                        p.badges().get(0).status().equals("active") && p.until().isEmpty())
                .toList();
        List<PracticePerson> any = fitting.isEmpty() ? people.all() : fitting;
        return any.get(random.nextInt(any.size()));
    }

    DoorControl control() {
        return control;
    }
}
