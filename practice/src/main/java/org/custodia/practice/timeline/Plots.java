package org.custodia.practice.timeline;

import java.time.Instant;
import java.time.ZonedDateTime;
import java.util.ArrayList;
import java.util.Collections;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.Set;
import java.util.function.Predicate;
import org.custodia.core.access.Pin;
import org.custodia.practice.place.Building;
import org.custodia.practice.place.Look;
import org.custodia.practice.place.Look.Dress;
import org.custodia.practice.place.People;
import org.custodia.practice.place.Place;
import org.custodia.practice.place.PracticeCamera;
import org.custodia.practice.place.PracticeDoor;
import org.custodia.practice.place.PracticePerson;
import org.custodia.practice.place.SiteRules;

/**
 * How incidents unfold: each word of the incident file is a method here, which finds somebody who is where it can happen and
 * lets it happen. Where nobody is, it does not happen.
 */
final class Plots {
    private static final long SECOND = 1_000;
    private static final long MINUTE = 60 * SECOND;
    private static final int ENOUGH = 40;

    private final Place place;
    private final SiteRules rules;
    private final People people;
    private final Movements movements;
    private final Timeline timeline;
    private final Agenda agenda;
    private final Truth truth;
    private final Map<String, Plot> plots = new HashMap<>();
    /** Doors that somebody was refused at: they do not try those again. */
    private final Set<String> learned = new HashSet<>();
    /** How often somebody was turned away for a badge that is no good; nobody tries for ever. */
    private final Map<String, Integer> turnedAway = new HashMap<>();

    /** Words that an incident file may use. */
    static final Set<String> KNOWN = Set.of(
            "tries-a-door-of-others",
            "tries-outside-hours",
            "presents-another-card",
            "presents-unknown-number",
            "types-wrong-pin",
            "types-no-pin",
            "types-duress-pin",
            "bad-badge",
            "does-not-turn",
            "hands-badge-back",
            "two-together",
            "one-of-two",
            "holds",
            "is-followed",
            "does-not-enter",
            "badge-lent",
            "badge-copied",
            "blown-open",
            "leaves-by-the-handle",
            "broken-open",
            "waits-outside",
            "contact-chatters",
            "stays-late",
            "controller-lost",
            "battery-low",
            "camera-lost",
            "device-trips",
            "power-cut");

    /** How one incident unfolds. */
    @FunctionalInterface
    private interface Plot {
        void begin(long at, Incident incident, Random random);
    }

    Plots(
            Place place,
            SiteRules rules,
            People people,
            Movements movements,
            Timeline timeline,
            Agenda agenda,
            Truth truth) {
        this.place = place;
        this.rules = rules;
        this.people = people;
        this.movements = movements;
        this.timeline = timeline;
        this.agenda = agenda;
        this.truth = truth;
        plots.put("tries-a-door-of-others", this::doorOfOthers);
        plots.put("tries-outside-hours", this::outsideHours);
        plots.put("presents-another-card", this::anotherCard);
        plots.put("presents-unknown-number", this::unknownNumber);
        plots.put("types-wrong-pin", (at, i, r) -> pin(at, i, r, true));
        plots.put("types-no-pin", (at, i, r) -> pin(at, i, r, false));
        plots.put("types-duress-pin", this::duressPin);
        plots.put("bad-badge", this::badBadge);
        plots.put("does-not-turn", this::doesNotTurn);
        plots.put("hands-badge-back", this::handsBack);
        plots.put("two-together", this::twoTogether);
        plots.put("one-of-two", this::oneOfTwo);
        plots.put("holds", this::holds);
        plots.put("is-followed", this::followed);
        plots.put("does-not-enter", this::doesNotEnter);
        plots.put("badge-lent", this::lent);
        plots.put("badge-copied", this::copied);
        plots.put("blown-open", this::blownOpen);
        plots.put("leaves-by-the-handle", this::byTheHandle);
        plots.put("broken-open", this::brokenOpen);
        plots.put("waits-outside", this::waits);
        plots.put("contact-chatters", this::chatters);
        plots.put("stays-late", this::staysLate);
        plots.put("controller-lost", this::controllerLost);
        plots.put("battery-low", this::batteryLow);
        plots.put("camera-lost", this::cameraLost);
        plots.put("device-trips", this::trips);
        plots.put("power-cut", this::powerCut);
        if (!plots.keySet().equals(KNOWN)) {
            throw new IllegalStateException("the words of incident files and what they do are not the same");
        }
    }

    void begin(long at, Incident incident, long seed) {
        plots.get(incident.does()).begin(at, incident, new Random(seed));
    }

    // Whom and where

    private static long lasts(Incident incident, Random random) {
        Incident.Lasts l = incident.lasts();
        if (l == null) {
            return 30 * SECOND;
        }
        double seconds = l.medianSeconds() * Math.exp(random.nextGaussian() * l.spread());
        return Math.round(SECOND * Math.max(l.leastSeconds(), Math.min(l.mostSeconds(), seconds)));
    }

    private static boolean chance(Double share, Random random) {
        return share != null && random.nextDouble() < share;
    }

    private static boolean among(List<String> names, String name) {
        return names == null || names.isEmpty() || names.contains(name);
    }

    private List<PracticeDoor> doors(Incident incident, Random random, Predicate<PracticeDoor> fitting) {
        List<PracticeDoor> some = new ArrayList<>(place.doors().stream()
                .filter(d -> among(incident.doors(), d.id()))
                .filter(d -> among(incident.sites(), d.building().id()))
                .filter(fitting)
                .toList());
        Collections.shuffle(some, random);
        return some;
    }

    private List<PracticePerson> persons(Incident incident, Random random, Predicate<PracticePerson> fitting) {
        List<PracticePerson> some = new ArrayList<>(people.all().stream()
                .filter(p -> among(incident.roles(), p.role()))
                .filter(p -> among(incident.sites(), p.home()))
                .filter(p -> movements.free(p) && fitting.test(p))
                .toList());
        Collections.shuffle(some, random);
        return some;
    }

    private static boolean good(PracticePerson p, long at) {
        return p.badges().get(0).status().equals("active")
                && p.until().filter(u -> u.toEpochMilli() <= at).isEmpty();
    }

    private static ZonedDateTime local(long at, PracticeDoor door) {
        return Instant.ofEpochMilli(at).atZone(door.building().zone());
    }

    private boolean locked(PracticeDoor door) {
        return !timeline.control(door.id()).unlocked();
    }

    private Look stranger(Random random) {
        return Look.random(random, Dress.COAT, null);
    }

    private Look somebodyElse(PracticePerson p, Random random) {
        List<PracticePerson> all = people.all();
        PracticePerson other = all.get(random.nextInt(all.size()));
        return other == p ? stranger(random) : other.look();
    }

    /** Somebody at a door that they may open now, on either side of it, after walking there if need be. */
    private void withSomebodyAt(long at, Incident incident, Random random, Predicate<PracticeDoor> fitting, At then) {
        List<PracticeDoor> some = doors(incident, random, fitting);
        for (PracticeDoor door : some) {
            List<PracticePerson> who = persons(
                    incident,
                    random,
                    p -> movements.onSite(p)
                            && p.home().equals(door.building().id())
                            && good(p, at)
                            && rules.opens(p, door, local(at, door)));
            // Whoever stands there already; else somebody comes.
            Optional<PracticePerson> first = who.stream()
                    .filter(p -> movements.zone(p).equals(door.outside()))
                    .findFirst()
                    .or(() -> who.stream()
                            .filter(p -> !movements.zone(p).equals(door.inside()))
                            .findFirst())
                    .or(() -> who.stream().findFirst());
            if (first.isPresent()) {
                PracticePerson p = first.get();
                movements.go(at, p, door.outside(), m -> m, random, (end, there) -> {
                    if (there) {
                        agenda.at(end + 2 * SECOND, now -> then.stands(now, p, door));
                    }
                });
                return;
            }
        }
    }

    /** What somebody does who stands at a door. */
    @FunctionalInterface
    private interface At {
        void stands(long at, PracticePerson p, PracticeDoor door);
    }

    /** Somebody tries a door that will not let them in; then they have learned it, or have a colleague open. */
    private void triesInVain(long at, Incident incident, PracticePerson p, PracticeDoor door, Random random) {
        happened(at, incident, door, p);
        Manner manner = Manner.of(p).trying(tries(incident, random));
        movements.tryDoor(at, p, door, true, manner, random, (end, through) -> {
            if (!through && chance(incident.fetches(), random)) {
                agenda.at(
                        end + (1 + random.nextInt(3)) * MINUTE,
                        now -> movements.fetch(now, p, door, true, random, Movements.Outcome.NONE));
            }
        });
    }

    private int tries(Incident incident, Random random) {
        return chance(incident.again(), random) ? chance(0.25, random) ? 2 : 1 : 0;
    }

    private void happened(long at, Incident incident, PracticeDoor door, PracticePerson... who) {
        truth.add(
                at,
                incident,
                door.id(),
                java.util.Arrays.stream(who).map(PracticePerson::id).toList());
    }

    // Refusals

    private void doorOfOthers(long at, Incident incident, Random random) {
        for (PracticePerson p : persons(incident, random, q -> movements.onSite(q) && good(q, at)).stream()
                .limit(ENOUGH)
                .toList()) {
            List<PracticeDoor> there = new ArrayList<>(place.doorsOf(movements.zone(p)).stream()
                    .filter(d -> d.outside().equals(movements.zone(p)) && locked(d) && !d.twoPersons())
                    .filter(d -> among(incident.doors(), d.id()) && !rules.opens(p, d))
                    .filter(d -> !learned.contains(p.id() + " " + d.id()))
                    .toList());
            if (!there.isEmpty()) {
                PracticeDoor door = there.get(random.nextInt(there.size()));
                learned.add(p.id() + " " + door.id());
                triesInVain(at, incident, p, door, random);
                return;
            }
        }
    }

    private void outsideHours(long at, Incident incident, Random random) {
        for (PracticeDoor door : doors(incident, random, d -> locked(d) && !d.twoPersons())) {
            List<PracticePerson> some = persons(
                    incident,
                    random,
                    p -> movements.zone(p).equals(door.outside())
                            && good(p, at)
                            && (movements.onSite(p) || movements.awaySince(p, at) > 40 * MINUTE)
                            && rules.opens(p, door)
                            && !rules.opens(p, door, local(at, door)));
            if (!some.isEmpty()) {
                PracticePerson p = some.get(0);
                triesInVain(at, incident, p, door, random);
                return;
            }
        }
    }

    /** A bank card, a travel card, the badge of another employer; then the right one. */
    private void anotherCard(long at, Incident incident, Random random) {
        StringBuilder number = new StringBuilder();
        int digits = random.nextBoolean() ? 16 : 10;
        for (int i = 0; i < digits; i++) {
            number.append((char) ('0' + (i == 0 ? 1 + random.nextInt(9) : random.nextInt(10))));
        }
        wrongThenRight(at, incident, random, d -> !d.twoPersons() && !d.pin(), m -> m.presenting(number.toString()));
    }

    private void unknownNumber(long at, Incident incident, Random random) {
        String number = Integer.toString(70_000 + random.nextInt(20_000));
        if (people.byBadge(number).isPresent()) {
            return;
        }
        for (PracticeDoor door : doors(incident, random, this::locked)) {
            truth.add(at, incident, door.id(), List.of());
            Manner manner = Manner.of(stranger(random)).presenting(number).trying(tries(incident, random));
            movements.attempt(at, door.id(), true, manner, random, Movements.Outcome.NONE);
            return;
        }
    }

    private void pin(long at, Incident incident, Random random, boolean types) {
        Optional<Pin> typed =
                types ? Optional.of(Pin.of(Integer.toString(1000 + random.nextInt(9000)))) : Optional.empty();
        wrongThenRight(at, incident, random, PracticeDoor::pin, m -> m.typing(typed));
    }

    /** What somebody types who is forced to, or whose finger slips. */
    private void duressPin(long at, Incident incident, Random random) {
        withSomebodyAt(at, incident, random, d -> d.pin() && locked(d), (there, p, door) -> {
            happened(there, incident, door, p);
            Manner manner = Manner.of(p).typing(Optional.of(p.pin().underDuress()));
            List<Look> behind = Boolean.TRUE.equals(incident.harm()) ? List.of(stranger(random)) : List.of();
            movements.tryDoor(there, p, door, true, manner.followedBy(behind), random, Movements.Outcome.NONE);
        });
    }

    private void wrongThenRight(
            long at,
            Incident incident,
            Random random,
            Predicate<PracticeDoor> fitting,
            java.util.function.UnaryOperator<Manner> wrong) {
        withSomebodyAt(at, incident, random, d -> fitting.test(d) && locked(d), (there, p, door) -> {
            happened(there, incident, door, p);
            Manner manner = wrong.apply(Manner.of(p)).trying(tries(incident, random));
            movements.tryDoor(
                    there,
                    p,
                    door,
                    true,
                    manner,
                    random,
                    (end, through) -> agenda.at(
                            end + 2 * SECOND,
                            now -> movements.tryDoor(
                                    now, p, door, true, Manner.of(p), random, Movements.Outcome.NONE)));
        });
    }

    /** A badge that was reported lost, is suspended or has ended, at the door where its owner comes in. */
    private void badBadge(long at, Incident incident, Random random) {
        boolean ended = "ended".equals(incident.status());
        for (PracticePerson p : persons(
                incident,
                random,
                q -> !movements.onSite(q)
                        && turnedAway.getOrDefault(q.id(), 0) < 2
                        && (ended
                                ? q.until().filter(u -> u.toEpochMilli() < at).isPresent()
                                : q.badges().get(0).status().equals(incident.status())))) {
            List<Place.Step> way = place.way(
                    movements.zone(p), p.base(), d -> timeline.control(d.id()).unlocked() || rules.opens(p, d));
            Optional<PracticeDoor> door =
                    way.stream().map(Place.Step::door).filter(this::locked).findFirst();
            if (door.isPresent() && door.get().outside().equals(movements.zone(p))) {
                happened(at, incident, door.get(), p);
                turnedAway.merge(p.id(), 1, Integer::sum);
                movements.tryDoor(
                        at,
                        p,
                        door.get(),
                        true,
                        Manner.of(p).trying(tries(incident, random)),
                        random,
                        Movements.Outcome.NONE);
                return;
            }
        }
    }

    /** The turnstile was pushed too late and did not turn; the badge counts as inside. */
    private void doesNotTurn(long at, Incident incident, Random random) {
        withArriving(at, incident, random, (now, p, door) -> {
            happened(now, incident, door, p);
            movements.tryDoor(
                    now,
                    p,
                    door,
                    true,
                    Manner.of(p).notEntering(),
                    random,
                    (end, through) -> agenda.at(
                            end + SECOND,
                            again -> movements.tryDoor(
                                    again,
                                    p,
                                    door,
                                    true,
                                    Manner.of(p).trying(tries(incident, random)),
                                    random,
                                    (refused, in) -> {
                                        if (!in) {
                                            // After a while it turns.
                                            agenda.at(
                                                    refused + DoorControl.PASSBACK,
                                                    t -> movements.go(
                                                            t, p, p.base(), m -> m, random, Movements.Outcome.NONE));
                                        }
                                    })));
        });
    }

    /** A badge is handed back to somebody who has none. */
    private void handsBack(long at, Incident incident, Random random) {
        withArriving(
                at,
                incident,
                random,
                (now, p, door) -> movements.tryDoor(now, p, door, true, Manner.of(p), random, (end, through) -> {
                    if (through) {
                        happened(end, incident, door, p);
                        Manner other = Manner.of(p).seenAs(stranger(random)).trying(tries(incident, random));
                        agenda.at(
                                end + (20 + random.nextInt(40)) * SECOND,
                                t -> movements.attempt(t, door.id(), true, other, random, Movements.Outcome.NONE));
                    }
                }));
    }

    /** Somebody who is outdoors and may come in by a door that counts who is inside. */
    private void withArriving(long at, Incident incident, Random random, At then) {
        for (PracticeDoor door : doors(incident, random, d -> d.antiPassback() && locked(d))) {
            Optional<PracticePerson> who = persons(
                            incident,
                            random,
                            p -> movements.zone(p).equals(door.outside())
                                    && movements.awaySince(p, at) < 5 * 60 * MINUTE
                                    && good(p, at)
                                    && rules.opens(p, door, local(at, door)))
                    .stream()
                    .findFirst();
            if (who.isPresent()) {
                then.stands(at, who.get(), door);
                return;
            }
        }
    }

    // Two persons

    private List<PracticePerson> pair(long at, Incident incident, PracticeDoor door, Random random) {
        return persons(
                        incident,
                        random,
                        p -> movements.onSite(p) && good(p, at) && rules.opens(p, door, local(at, door)))
                .stream()
                .limit(2)
                .toList();
    }

    private void twoTogether(long at, Incident incident, Random random) {
        for (PracticeDoor door : doors(incident, random, PracticeDoor::twoPersons)) {
            List<PracticePerson> pair = pair(at, incident, door, random);
            if (pair.size() == 2) {
                both(at, pair, door, true, random, (end, in) -> {
                    if (in) {
                        agenda.at(
                                end + lasts(incident, random),
                                now -> both(now, pair, door, false, random, Movements.Outcome.NONE));
                    }
                });
                return;
            }
        }
    }

    /** Two go to a door and through it, one after the other having presented their badges. */
    private void both(
            long at,
            List<PracticePerson> pair,
            PracticeDoor door,
            boolean inwards,
            Random random,
            Movements.Outcome done) {
        String here = inwards ? door.outside() : door.inside();
        PracticePerson a = pair.get(0);
        PracticePerson b = pair.get(1);
        movements.go(at, a, here, m -> m, random, (first, aThere) -> {
            if (!aThere) {
                done.at(first, false);
                return;
            }
            movements.go(first, b, here, m -> m, random, (second, bThere) -> {
                if (!bThere || !movements.zone(a).equals(here)) {
                    done.at(second, false);
                    return;
                }
                long t = second + 3 * SECOND;
                agenda.at(t, now -> movements.passTogether(now, a, b, door, inwards, random, done));
            });
        });
    }

    private void oneOfTwo(long at, Incident incident, Random random) {
        withSomebodyAt(at, incident, random, PracticeDoor::twoPersons, (there, p, door) -> {
            happened(there, incident, door, p);
            movements.tryDoor(
                    there,
                    p,
                    door,
                    true,
                    Manner.of(p),
                    random,
                    (end, in) -> agenda.at(
                            end + MINUTE,
                            now -> movements.go(now, p, p.base(), m -> m, random, Movements.Outcome.NONE)));
        });
    }

    // At doors that let them

    private void holds(long at, Incident incident, Random random) {
        passing(at, incident, random, d -> !d.turnstile(), m -> m.holding(lasts(incident, random)));
    }

    private void followed(long at, Incident incident, Random random) {
        List<Look> others = new ArrayList<>();
        for (int i = 0; i < 1 + random.nextInt(2); i++) {
            others.add(random.nextInt(4) == 0 ? stranger(random) : somebodyElse(null, random));
        }
        passing(at, incident, random, d -> !d.turnstile(), m -> m.followedBy(others));
    }

    private void doesNotEnter(long at, Incident incident, Random random) {
        passing(at, incident, random, d -> true, Manner::notEntering);
    }

    private void passing(
            long at,
            Incident incident,
            Random random,
            Predicate<PracticeDoor> fitting,
            java.util.function.UnaryOperator<Manner> how) {
        withSomebodyAt(
                at,
                incident,
                random,
                d -> fitting.test(d) && locked(d) && !d.twoPersons() && d.contact(),
                (there, p, door) -> {
                    happened(there, incident, door, p);
                    movements.tryDoor(there, p, door, true, how.apply(Manner.of(p)), random, Movements.Outcome.NONE);
                });
    }

    // Badges in other hands

    /** The owner is at home; somebody else goes about with the badge. */
    private void lent(long at, Incident incident, Random random) {
        for (PracticePerson p : persons(
                        incident,
                        random,
                        q -> !movements.onSite(q) && good(q, at) && movements.awaySince(q, at) > 10 * 60 * MINUTE)
                .stream()
                .limit(ENOUGH)
                .toList()) {
            Look other = somebodyElse(p, random);
            List<String> targets = new ArrayList<>(p.haunts());
            String target = targets.get(random.nextInt(targets.size()));
            if (place.way(
                            movements.zone(p),
                            target,
                            d -> timeline.control(d.id()).unlocked() || rules.opens(p, d, local(at, d)))
                    .isEmpty()) {
                continue;
            }
            truth.add(at, incident, target, List.of(p.id()));
            movements.go(
                    at,
                    p,
                    target,
                    other,
                    m -> m,
                    random,
                    (end, there) -> agenda.at(end + lasts(incident, random), now -> goOut(now, p, other, random)));
            return;
        }
    }

    private void goOut(long at, PracticePerson p, Look seen, Random random) {
        movements.go(at, p, movements.outdoors(p), seen, m -> m, random, (end, out) -> {
            if (!out && movements.onSite(p)) {
                agenda.at(end + 5 * MINUTE, now -> goOut(now, p, seen, random));
            }
        });
    }

    /** The owner is inside, and a copy of the badge opens a door somewhere else. */
    private void copied(long at, Incident incident, Random random) {
        for (PracticeDoor door : doors(incident, random, d -> locked(d) && isOutside(d))) {
            Optional<PracticePerson> p = persons(
                            incident,
                            random,
                            q -> movements.onSite(q)
                                    && good(q, at)
                                    && !movements.zone(q).equals(door.inside())
                                    && rules.opens(q, door, local(at, door)))
                    .stream()
                    .findFirst();
            if (p.isPresent()) {
                happened(at, incident, door, p.get());
                Manner thief = Manner.of(p.get()).seenAs(stranger(random));
                movements.attempt(at, door.id(), true, thief, random, (end, in) -> {
                    if (in) {
                        agenda.at(
                                end + lasts(incident, random),
                                now -> movements.attempt(now, door.id(), false, thief, random, Movements.Outcome.NONE));
                    }
                });
                return;
            }
        }
    }

    private boolean isOutside(PracticeDoor door) {
        return door.outside().equals(door.building().outdoors());
    }

    // Leaves that move without leave

    private void blownOpen(long at, Incident incident, Random random) {
        doors(incident, random, d -> d.contact() && locked(d)).stream()
                .findFirst()
                .ifPresent(door -> {
                    truth.add(at, incident, door.id(), List.of());
                    timeline.control(door.id()).open(at, lasts(incident, random));
                });
    }

    /** Somebody goes out without using reader or button. */
    private void byTheHandle(long at, Incident incident, Random random) {
        for (PracticeDoor door : doors(incident, random, d -> d.contact() && locked(d) && !d.turnstile())) {
            Optional<PracticePerson> p =
                    persons(incident, random, q -> movements.zone(q).equals(door.inside())).stream()
                            .findFirst();
            if (p.isPresent()) {
                happened(at, incident, door, p.get());
                movements.tryDoor(
                        at, p.get(), door, false, Manner.of(p.get()).byTheHandle(), random, Movements.Outcome.NONE);
                return;
            }
        }
    }

    private void brokenOpen(long at, Incident incident, Random random) {
        doors(incident, random, d -> d.contact() && locked(d)).stream()
                .findFirst()
                .ifPresent(door -> {
                    truth.add(at, incident, door.id(), List.of());
                    timeline.door(door.id()).forced(at, stranger(random), lasts(incident, random));
                });
    }

    /** A contact that is loose flutters after somebody has passed. */
    private void chatters(long at, Incident incident, Random random) {
        withSomebodyAt(
                at,
                incident,
                random,
                d -> d.contact() && locked(d) && !d.turnstile(),
                (there, p, door) -> movements.tryDoor(there, p, door, true, Manner.of(p), random, (end, through) -> {
                    if (through) {
                        happened(end, incident, door, p);
                        flutter(end + 6 * SECOND, door, 2 + random.nextInt(3), random);
                    }
                }));
    }

    private void flutter(long at, PracticeDoor door, int times, Random random) {
        agenda.at(at, now -> {
            timeline.control(door.id()).open(now, 150 + random.nextInt(250));
            if (times > 1) {
                flutter(now + 500 + random.nextInt(1_500), door, times - 1, random);
            }
        });
    }

    // Whoever has no badge, or no end of work

    private void waits(long at, Incident incident, Random random) {
        doors(incident, random, this::locked).stream().findFirst().ifPresent(door -> {
            truth.add(at, incident, door.id(), List.of());
            Look look = Look.random(random, random.nextInt(3) > 0 ? Dress.VEST : Dress.COAT, null);
            timeline.door(door.id()).waits(at, look, at + lasts(incident, random));
        });
    }

    private void staysLate(long at, Incident incident, Random random) {
        persons(incident, random, movements::onSite).stream().findFirst().ifPresent(p -> {
            truth.add(at, incident, p.base(), List.of(p.id()));
            movements.stay(p, at + lasts(incident, random));
        });
    }

    // Devices

    private void act(String what, String device, long now) {
        timeline.device(device).perform(Act.of(what).target(device), now, new Random(now));
    }

    private Optional<String> controller(Incident incident, Random random) {
        List<String> controllers = place.doors().stream()
                .filter(d -> among(incident.sites(), d.building().id()))
                .map(PracticeDoor::controller)
                .filter(c -> among(incident.units(), c))
                .distinct()
                .toList();
        return controllers.isEmpty()
                ? Optional.empty()
                : Optional.of(controllers.get(random.nextInt(controllers.size())));
    }

    private void controllerLost(long at, Incident incident, Random random) {
        controller(incident, random).ifPresent(controller -> {
            truth.add(at, incident, controller, List.of());
            act("controller-lost", controller, at);
            agenda.at(at + lasts(incident, random), now -> act("controller-back", controller, now));
        });
    }

    private void batteryLow(long at, Incident incident, Random random) {
        controller(incident, random).ifPresent(controller -> {
            truth.add(at, incident, controller, List.of());
            act("battery-low", controller, at);
        });
    }

    private void cameraLost(long at, Incident incident, Random random) {
        List<PracticeCamera> cameras = place.cameras().stream()
                .filter(c -> among(incident.sites(), c.building().id()))
                .filter(c -> among(incident.units(), c.id()))
                .toList();
        if (!cameras.isEmpty()) {
            String camera = cameras.get(random.nextInt(cameras.size())).id();
            truth.add(at, incident, camera, List.of());
            act("camera-lost", camera, at);
            agenda.at(at + lasts(incident, random), now -> act("camera-back", camera, now));
        }
    }

    private void trips(long at, Incident incident, Random random) {
        List<String> units = Incidents.orNone(incident.units());
        String unit = units.get(random.nextInt(units.size()));
        Act trip = Act.of("trip").target(unit).millis(lasts(incident, random));
        if (timeline.device(unit).perform(trip, at, random).isEmpty()) {
            truth.add(at, incident, unit, List.of());
        }
    }

    /** Everything at a site goes dark one after the other, and comes back one after the other. */
    private void powerCut(long at, Incident incident, Random random) {
        List<String> sites = incident.sites() == null || incident.sites().isEmpty()
                ? place.buildings().stream().map(Building::id).toList()
                : incident.sites();
        String site = sites.get(random.nextInt(sites.size()));
        long back = at + lasts(incident, random);
        truth.add(at, incident, site, List.of());
        place.cameras().stream().filter(c -> c.building().id().equals(site)).forEach(c -> {
            agenda.at(at + random.nextInt(4_000), now -> act("camera-lost", c.id(), now));
            agenda.at(back + (40 + random.nextInt(60)) * SECOND, now -> act("camera-back", c.id(), now));
        });
        // Batteries last longer at some than at others.
        place.doors().stream()
                .filter(d -> d.building().id().equals(site))
                .map(PracticeDoor::controller)
                .distinct()
                .forEach(c -> {
                    agenda.at(at + random.nextInt(8) * MINUTE, now -> act("controller-lost", c, now));
                    agenda.at(back + random.nextInt(3) * MINUTE, now -> act("controller-back", c, now));
                });
    }
}
