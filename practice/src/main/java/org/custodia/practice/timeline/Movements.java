package org.custodia.practice.timeline;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import org.custodia.core.access.Decision;
import org.custodia.core.access.Decision.Result;
import org.custodia.core.access.Pin;
import org.custodia.practice.place.Look;
import org.custodia.practice.place.PracticePerson;
import org.custodia.practice.place.SiteRules;
import org.custodia.practice.place.Sternwick;
import org.custodia.practice.place.Sternwick.Step;
import org.custodia.practice.timeline.Scenes.Visit;

/** How people get about: from door to door, with what they do at each. */
final class Movements {
    private final Sternwick place;
    private final SiteRules rules;
    private final Map<String, DoorControl> controls;
    private final Agenda agenda;
    private final Scenes scenes;
    private final Map<String, String> zoneOf = new HashMap<>();
    private final Map<String, Lingering> lingering = new HashMap<>();

    /** Somebody who stands at a door and waits to be let through. */
    private record Lingering(Look look, boolean inwards, long arrived, long until) {}

    Movements(Sternwick place, SiteRules rules, Map<String, DoorControl> controls, Agenda agenda, Scenes scenes) {
        this.place = place;
        this.rules = rules;
        this.controls = controls;
        this.agenda = agenda;
        this.scenes = scenes;
    }

    /**
     * How somebody behaves at a door.
     *
     * @param look who is seen there, which need not be the badge's owner
     * @param badge what they present
     * @param pin what they type
     * @param hold how many milliseconds they keep the leaf open beyond passing
     * @param followers who slips in behind them
     * @param enters whether they go through after a grant
     * @param tries how often they try again after a refusal
     */
    record Manner(
            Look look, String badge, Optional<Pin> pin, long hold, List<Look> followers, boolean enters, int tries) {
        static Manner of(PracticePerson p) {
            return new Manner(p.look(), p.badge(), Optional.of(p.pin()), 0, List.of(), true, 0);
        }

        Manner holding(long millis) {
            return new Manner(look, badge, pin, millis, followers, enters, tries);
        }

        Manner followedBy(List<Look> some) {
            return new Manner(look, badge, pin, hold, some, enters, tries);
        }

        Manner notEntering() {
            return new Manner(look, badge, pin, hold, followers, false, tries);
        }

        Manner trying(int times) {
            return new Manner(look, badge, pin, hold, followers, enters, times);
        }

        Manner typing(String other) {
            return new Manner(look, badge, Optional.of(Pin.of(other)), hold, followers, enters, tries);
        }

        Manner seenAs(Look other) {
            return new Manner(other, badge, pin, hold, followers, enters, tries);
        }

        Manner with(String otherBadge) {
            return new Manner(look, otherBadge, pin, hold, followers, enters, tries);
        }
    }

    /** Sends somebody to a zone; at the last door they show the manner given. */
    void go(long at, PracticePerson person, String from, String to, Manner last, Random random) {
        String here = zoneOf.getOrDefault(person.id(), from);
        List<Step> way = place.way(here, to, d -> d.opensToPublic() || rules.opens(person, d));
        if (way.isEmpty()) {
            return;
        }
        step(at, person, way, 0, last, random);
    }

    private void step(long at, PracticePerson person, List<Step> way, int i, Manner last, Random random) {
        Step step = way.get(i);
        Manner manner = i == way.size() - 1 ? last : Manner.of(person);
        attempt(at, step.door().id(), step.inwards(), manner, random, passedAt -> {
            zoneOf.put(
                    person.id(),
                    step.inwards() ? step.door().inside() : step.door().outside());
            if (i + 1 < way.size()) {
                agenda.at(
                        passedAt + 7_000 + random.nextInt(16_000), now -> step(now, person, way, i + 1, last, random));
            }
        });
    }

    /** Told when somebody is through. */
    @FunctionalInterface
    interface Passed {
        void at(long time);
    }

    /** Somebody comes to a door and wants through. */
    void attempt(long at, String doorId, boolean inwards, Manner manner, Random random, Passed passed) {
        DoorControl control = controls.get(doorId);
        long dwell = 700 + random.nextInt(900);
        boolean reader = inwards || control.door().exitReader();
        if (control.unlocked()) {
            pass(at, at + 300, control, inwards, manner, random, '-', passed);
        } else if (!reader) {
            control.exitRequest(at);
            pass(at, at + 500, control, inwards, manner, random, '-', passed);
        } else {
            Decision decision = control.present(at, manner.badge(), manner.pin(), inwards, "card");
            if (decision.result() == Result.GRANTED && manner.enters()) {
                pass(at, at + dwell, control, inwards, manner, random, 'g', passed);
            } else if (decision.result() == Result.REFUSED && manner.tries() > 0) {
                long again = at + 4_000 + random.nextInt(4_000);
                scenes.visit(doorId, new Visit(manner.look(), inwards, at, again - 1_500, false, 'r'));
                agenda.at(
                        again, now -> attempt(now, doorId, inwards, manner.trying(manner.tries() - 1), random, passed));
            } else if (decision.result() == Result.SECOND_PERSON_NEEDED) {
                linger(at, doorId, inwards, manner.look(), at + DoorControl.SECOND_PERSON + 1_000, '-');
            } else {
                char lamp = decision.result() == Result.GRANTED ? 'g' : 'r';
                linger(at, doorId, inwards, manner.look(), at + 2_500 + random.nextInt(9_000), lamp);
            }
        }
    }

    /** Somebody without a badge stands at a door and hopes. */
    void linger(long at, String doorId, boolean inwards, Look look, long until, char lamp) {
        Lingering one = new Lingering(look, inwards, at, until);
        lingering.put(doorId, one);
        scenes.visit(doorId, new Visit(look, inwards, at, until, false, lamp));
        agenda.at(until, now -> lingering.remove(doorId, one));
    }

    /** The desk released the door: whoever stands there goes through. */
    void released(long at, String doorId, Random random) {
        Lingering one = lingering.remove(doorId);
        if (one != null && one.until() > at) {
            DoorControl control = controls.get(doorId);
            scenes.cutShort(doorId, one.look(), one.arrived(), at + 300);
            Manner manner = new Manner(one.look(), "", Optional.empty(), 0, List.of(), true, 0);
            pass(at + 400, at + 1_200, control, one.inwards(), manner, random, '-', t -> {});
        }
    }

    private void pass(
            long at,
            long opens,
            DoorControl control,
            boolean inwards,
            Manner manner,
            Random random,
            char lamp,
            Passed passed) {
        String id = control.door().id();
        long through = opens + 900;
        List<Look> behind = new ArrayList<>(manner.followers());
        scenes.visit(id, new Visit(manner.look(), inwards, at, opens + 200, true, lamp));
        for (int i = 0; i < behind.size(); i++) {
            long comes = through + 500 + 1_300L * i;
            scenes.visit(id, new Visit(behind.get(i), inwards, comes, comes + 100, true, '-'));
        }
        long standsOpen = 2_600 + random.nextInt(1_800) + 1_300L * behind.size() + manner.hold();
        agenda.at(opens, now -> {
            control.open(now, standsOpen);
            agenda.at(through, passed::at);
        });
    }
}
