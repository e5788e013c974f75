package org.custodia.practice.timeline;

import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.function.UnaryOperator;
import org.custodia.core.access.Decision;
import org.custodia.core.access.Decision.Result;
import org.custodia.practice.place.Look;
import org.custodia.practice.place.People;
import org.custodia.practice.place.Place;
import org.custodia.practice.place.Place.Step;
import org.custodia.practice.place.PracticeDoor;
import org.custodia.practice.place.PracticePerson;
import org.custodia.practice.place.SiteRules;
import org.custodia.practice.timeline.Scenes.Visit;

/**
 * Where everybody is, and how they get about: from zone to zone, door by door, with what they do at each. Nobody is in two
 * places, starts a second way before the first has ended, or presents a badge at a door that they do not stand at.
 */
final class Movements {
    private static final long MINUTE = 60_000;

    private final Place place;
    private final SiteRules rules;
    private final Map<String, DoorControl> controls;
    private final Agenda agenda;
    private final Scenes scenes;
    private final People people;
    private final Map<String, Whereabouts> everybody = new HashMap<>();
    private final Map<String, Lingering> lingering = new HashMap<>();

    /** Where somebody is. */
    private static final class Whereabouts {
        private String zone;
        private boolean walking;
        private long staysUntil;
        /** When they mean to go home. */
        private long homeAt = Long.MIN_VALUE;

        private long cameOut = Long.MIN_VALUE / 2;

        Whereabouts(String zone) {
            this.zone = zone;
        }
    }

    /** Somebody who stands at a door and waits to be let through. */
    private record Lingering(Look look, boolean inwards, long arrived, long until) {}

    /** Told how it ended: whether somebody got through, or to where they wanted. */
    @FunctionalInterface
    interface Outcome {
        Outcome NONE = (at, well) -> {};

        void at(long time, boolean well);
    }

    Movements(
            Place place,
            SiteRules rules,
            People people,
            Map<String, DoorControl> controls,
            Agenda agenda,
            Scenes scenes) {
        this.place = place;
        this.rules = rules;
        this.people = people;
        this.controls = controls;
        this.agenda = agenda;
        this.scenes = scenes;
    }

    private Whereabouts of(PracticePerson p) {
        return everybody.computeIfAbsent(
                p.id(), id -> new Whereabouts(place.building(p.home()).outdoors()));
    }

    String zone(PracticePerson p) {
        return of(p).zone;
    }

    /** Whether somebody stands still and can be asked to do something. */
    boolean free(PracticePerson p) {
        return !of(p).walking;
    }

    boolean onSite(PracticePerson p) {
        return !outdoors(p).equals(of(p).zone);
    }

    String outdoors(PracticePerson p) {
        return place.building(p.home()).outdoors();
    }

    /** How long ago somebody left, in milliseconds; long where they never came. */
    long awaySince(PracticePerson p, long now) {
        return onSite(p) ? 0 : now - of(p).cameOut;
    }

    /** From now on somebody does not go home before a time. */
    void stay(PracticePerson p, long until) {
        of(p).staysUntil = until;
    }

    private boolean lets(PracticePerson p, PracticeDoor door, long at) {
        return controls.get(door.id()).unlocked()
                || rules.opens(
                        p, door, Instant.ofEpochMilli(at).atZone(door.building().zone()));
    }

    /** Sends somebody to a zone; at the last door they show the manner given. */
    void go(long at, PracticePerson p, String to, UnaryOperator<Manner> last, Random random, Outcome done) {
        go(at, p, to, p.look(), last, random, done);
    }

    /** The same, where somebody else is seen. */
    void go(long at, PracticePerson p, String to, Look seen, UnaryOperator<Manner> last, Random random, Outcome done) {
        Whereabouts who = of(p);
        List<Step> way = who.walking ? List.of() : place.way(who.zone, to, d -> lets(p, d, at));
        if (way.isEmpty()) {
            done.at(at, !who.walking && who.zone.equals(to));
            return;
        }
        who.walking = true;
        step(at, p, way, 0, seen, last, random, (end, well) -> {
            who.walking = false;
            done.at(end, well);
        });
    }

    private void step(
            long at,
            PracticePerson p,
            List<Step> way,
            int i,
            Look seen,
            UnaryOperator<Manner> last,
            Random random,
            Outcome done) {
        Step step = way.get(i);
        Manner usual = Manner.of(p).seenAs(seen).trying(random.nextInt(3) == 0 ? 1 : 0);
        Manner manner = i == way.size() - 1 ? last.apply(usual) : usual;
        attempt(at, step.door().id(), step.inwards(), manner, random, (end, through) -> {
            if (!through) {
                done.at(end, false);
                return;
            }
            moved(p, step.inwards() ? step.door().inside() : step.door().outside(), end);
            if (i + 1 == way.size()) {
                done.at(end, true);
            } else {
                agenda.at(
                        end + 7_000 + random.nextInt(16_000),
                        now -> step(now, p, way, i + 1, seen, last, random, done));
            }
        });
    }

    private void moved(PracticePerson p, String zone, long at) {
        Whereabouts who = of(p);
        boolean comesIn = who.zone.equals(outdoors(p));
        who.zone = zone;
        if (zone.equals(outdoors(p))) {
            who.cameOut = at;
        } else if (comesIn && who.homeAt <= at) {
            // Whoever comes for something else than work does not stay for ever.
            Random random = new Random(at + p.id().hashCode());
            goesHome(p, at + (30 + random.nextInt(120)) * MINUTE, random);
        }
    }

    /** Somebody means to go home at a time. */
    void goesHome(PracticePerson p, long time, Random random) {
        of(p).homeAt = time;
        agenda.at(time, now -> leave(now, p, random));
    }

    /** Somebody tries one door next to where they are; nothing happens while they are on their way. */
    void tryDoor(
            long at, PracticePerson p, PracticeDoor door, boolean inwards, Manner manner, Random random, Outcome done) {
        Whereabouts who = of(p);
        if (who.walking || !who.zone.equals(inwards ? door.outside() : door.inside())) {
            done.at(at, false);
            return;
        }
        who.walking = true;
        attempt(at, door.id(), inwards, manner, random, (end, through) -> {
            who.walking = false;
            if (through) {
                moved(p, inwards ? door.inside() : door.outside(), end);
            }
            done.at(end, through);
        });
    }

    /** Two pass a door that wants both their badges. */
    void passTogether(
            long at,
            PracticePerson a,
            PracticePerson b,
            PracticeDoor door,
            boolean inwards,
            Random random,
            Outcome done) {
        if (!free(a) || !free(b)) {
            done.at(at, false);
            return;
        }
        of(a).walking = true;
        of(b).walking = true;
        long second = at + 3_000 + random.nextInt(4_000);
        controls.get(door.id()).present(at, a.badge(), Optional.of(a.pin()), inwards, "card");
        scenes.visit(door.id(), new Visit(a.look(), inwards, at, second + 1_500, false, '-'));
        Manner both = Manner.of(b).followedBy(List.of(a.look()));
        agenda.at(
                second,
                now -> attempt(now, door.id(), inwards, both, random, (end, through) -> {
                    of(a).walking = false;
                    of(b).walking = false;
                    if (through) {
                        moved(a, inwards ? door.inside() : door.outside(), end);
                        moved(b, inwards ? door.inside() : door.outside(), end);
                    }
                    done.at(end, through);
                }));
    }

    /** Somebody goes home: tries until they are out, and has themselves let out where a door says no. */
    void leave(long at, PracticePerson p, Random random) {
        Whereabouts who = of(p);
        if (!onSite(p)) {
            return;
        }
        if (who.staysUntil > at) {
            agenda.at(who.staysUntil, now -> leave(now, p, random));
            return;
        }
        go(at, p, outdoors(p), m -> m, random, (end, out) -> {
            if (!out) {
                // On their way somewhere, or turned away.
                boolean turnedAway = !who.walking && end > at;
                long soon = end + (turnedAway ? 4 : 1) * MINUTE + random.nextInt(60_000);
                agenda.at(soon, now -> {
                    if (turnedAway) {
                        letOut(now, p, random);
                    } else {
                        leave(now, p, random);
                    }
                });
            }
        });
    }

    /** A colleague comes and opens the next door on somebody's way out. */
    private void letOut(long at, PracticePerson p, Random random) {
        List<Step> way = free(p) ? place.way(zone(p), outdoors(p), d -> lets(p, d, at)) : List.of();
        if (way.isEmpty()) {
            agenda.at(at + 10 * MINUTE, now -> leave(now, p, random));
            return;
        }
        fetch(
                at,
                p,
                way.get(0).door(),
                way.get(0).inwards(),
                random,
                (end, well) -> agenda.at(end + (well ? 20_000 : 10 * MINUTE), now -> leave(now, p, random)));
    }

    /** Fetches somebody who may open a door, and both go through. */
    void fetch(long at, PracticePerson p, PracticeDoor door, boolean inwards, Random random, Outcome done) {
        String here = inwards ? door.outside() : door.inside();
        Optional<PracticePerson> helper = people.all().stream()
                .filter(h -> h != p && h.home().equals(p.home()) && onSite(h) && free(h))
                .filter(h -> rules.opens(
                        h, door, Instant.ofEpochMilli(at).atZone(door.building().zone())))
                .min(java.util.Comparator.comparingInt(h -> zone(h).equals(here) ? 0 : 1));
        if (helper.isEmpty() || !free(p)) {
            done.at(at, false);
            return;
        }
        PracticePerson h = helper.get();
        Whereabouts waiting = of(p);
        waiting.walking = true;
        go(at, h, here, m -> m, random, (there, came) -> {
            waiting.walking = false;
            if (!came) {
                done.at(there, false);
                return;
            }
            pair(there + 3_000, h, p, door, inwards, random, (end, through) -> {
                if (through && inwards && !rules.opens(p, door)) {
                    // Whoever was taken along is taken out again.
                    long out = end + 2 * MINUTE + random.nextInt(5 * 60_000);
                    of(h).walking = true;
                    of(p).walking = true;
                    agenda.at(out, now -> {
                        of(h).walking = false;
                        of(p).walking = false;
                        pair(now, h, p, door, false, random, done);
                    });
                } else {
                    done.at(end, through);
                }
            });
        });
    }

    /** Somebody goes through a door, and takes somebody else along. */
    private void pair(
            long at,
            PracticePerson h,
            PracticePerson p,
            PracticeDoor door,
            boolean inwards,
            Random random,
            Outcome done) {
        Manner both = Manner.of(h).followedBy(List.of(p.look()));
        agenda.at(
                at,
                start -> tryDoor(start, h, door, inwards, both, random, (end, through) -> {
                    if (through) {
                        moved(p, inwards ? door.inside() : door.outside(), end);
                        agenda.at(end + 30_000, now -> go(now, h, h.base(), m -> m, random, Outcome.NONE));
                    }
                    done.at(end, through);
                }));
    }

    /** Somebody comes to a door and wants through. */
    void attempt(long at, String doorId, boolean inwards, Manner manner, Random random, Outcome done) {
        DoorControl control = controls.get(doorId);
        long dwell = 700 + random.nextInt(900);
        boolean reader = inwards || control.door().exitReader();
        if (control.unlocked() || !inwards && !manner.asks()) {
            pass(at, at + 300, control, inwards, manner, random, '-', done);
        } else if (!reader) {
            control.exitRequest(at);
            pass(at, at + 500, control, inwards, manner, random, '-', done);
        } else {
            Decision decision = control.present(at, manner.badge(), manner.pin(), inwards, "card");
            if (decision.result() == Result.GRANTED && manner.enters()) {
                pass(at, at + dwell, control, inwards, manner, random, 'g', done);
            } else if (decision.result() == Result.REFUSED && manner.tries() > 0) {
                long again = at + 4_000 + random.nextInt(4_000);
                scenes.visit(doorId, new Visit(manner.look(), inwards, at, again - 1_500, false, 'r'));
                agenda.at(again, now -> attempt(now, doorId, inwards, manner.trying(manner.tries() - 1), random, done));
            } else if (decision.result() == Result.SECOND_PERSON_NEEDED) {
                long until = at + DoorControl.SECOND_PERSON + 1_000;
                linger(at, doorId, inwards, manner.look(), until, '-');
                agenda.at(until, now -> done.at(now, false));
            } else {
                char lamp = decision.result() == Result.GRANTED ? 'g' : 'r';
                long until = at + 2_500 + random.nextInt(9_000);
                linger(at, doorId, inwards, manner.look(), until, lamp);
                agenda.at(until, now -> done.at(now, false));
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
            pass(at + 400, at + 1_200, control, one.inwards(), Manner.of(one.look()), random, '-', Outcome.NONE);
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
            Outcome done) {
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
            agenda.at(through, t -> done.at(t, true));
        });
    }
}
