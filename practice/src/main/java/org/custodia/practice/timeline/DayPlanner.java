package org.custodia.practice.timeline;

import java.time.DayOfWeek;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.ZonedDateTime;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Random;
import org.custodia.practice.place.Building;
import org.custodia.practice.place.Look;
import org.custodia.practice.place.Look.Dress;
import org.custodia.practice.place.People;
import org.custodia.practice.place.PracticePerson;
import org.custodia.practice.place.PracticePerson.Role;
import org.custodia.practice.timeline.Movements.Manner;

/** Plans one day at Sternwick from the seed: who comes when and moves where, visitors, deliveries, and what goes wrong. */
final class DayPlanner {
    private static final long MINUTE = 60_000;
    /** Brings the badge events of a weekday to about three thousand. */
    private static final double MOVES = 0.37;

    private final People people;
    private final Movements movements;
    private final Agenda agenda;
    private final Timeline timeline;
    private final long seed;

    DayPlanner(People people, Movements movements, Agenda agenda, Timeline timeline, long seed) {
        this.people = people;
        this.movements = movements;
        this.agenda = agenda;
        this.timeline = timeline;
        this.seed = seed;
    }

    void plan(LocalDate day) {
        boolean weekend = day.getDayOfWeek() == DayOfWeek.SATURDAY || day.getDayOfWeek() == DayOfWeek.SUNDAY;
        for (PracticePerson person : people.all()) {
            if (usable(person)) {
                person(person, day, weekend, new Random(mix(day, person.id().hashCode())));
            }
        }
        visitors(day, weekend, new Random(mix(day, 7_001)));
        yardCode(day, weekend, new Random(mix(day, 7_002)));
        incidents(day, weekend, new Random(mix(day, 7_003)));
    }

    private static boolean usable(PracticePerson p) {
        return p.badges().get(0).status().equals("active") && p.until().isEmpty()
                || p.until().filter(u -> u.isAfter(Instant.EPOCH)).isPresent()
                        && p.badges().get(0).status().equals("active")
                        && !p.name().equals("Odo Castellane");
    }

    private long mix(LocalDate day, long what) {
        long x = seed * 0x9E3779B97F4A7C15L + day.toEpochDay() * 0xBF58476D1CE4E5B9L + what * 0x94D049BB133111EBL;
        x ^= x >>> 31;
        return x * 0xD6E8FEB86659FD93L;
    }

    private long at(LocalDate day, Building building, double hour) {
        return day.atStartOfDay(building.zone()).toInstant().toEpochMilli() + Math.round(hour * 3_600_000);
    }

    private static String outdoors(PracticePerson p) {
        return switch (p.home()) {
            case HARBOUR -> "Quay";
            case NORTHGATE -> "Northgate road";
            case YARD -> "Yard lane";
        };
    }

    /** When a role comes and goes, and how often it moves. */
    private record Shift(double from, double to, double movesPerHour, double weekday, double weekend) {}

    private static Shift shift(Role role, Random random, boolean night) {
        if (role == Role.GUARD && night) {
            return new Shift(21.6, 30.2, 2.4, 0.8, 0.8);
        }
        return switch (role) {
            case CURATOR -> new Shift(8.7, 17.6, 2.0, 0.8, 0.08);
            case CONSERVATOR -> new Shift(8.3, 17.2, 2.3, 0.82, 0.08);
            case ATTENDANT -> new Shift(9.0, 17.9, 1.9, 0.72, 0.62);
            case GUARD -> new Shift(6.3, 18.3, 2.6, 0.75, 0.7);
            case SHOP -> new Shift(9.2, 18.0, 1.6, 0.8, 0.7);
            case CAFE -> new Shift(7.8, 17.8, 1.7, 0.8, 0.7);
            case TECHNICIAN -> new Shift(7.2, 16.4, 2.9, 0.82, 0.1);
            case VOLUNTEER -> new Shift(9.6 + random.nextInt(3), 14.6 + random.nextInt(3), 1.4, 0.45, 0.5);
            case CLEANER -> new Shift(5.5, 9.4, 4.2, 0.9, 0.6);
            case CARRIER -> new Shift(7.3 + random.nextInt(5), 8.0 + random.nextInt(6), 1.2, 0.7, 0);
            case LIFT_ENGINEER -> new Shift(8.5, 11.5, 2.0, 0.15, 0);
            case OFFICE -> new Shift(8.6, 17.3, 1.4, 0.8, 0.04);
            case READER -> new Shift(13.05 + random.nextDouble() * 2, 16.8, 0.5, 0.5, 0);
            case EDUCATOR -> new Shift(8.8, 16.3, 1.9, 0.8, 0.3);
        };
    }

    private void person(PracticePerson p, LocalDate day, boolean weekend, Random random) {
        boolean night = p.role() == Role.GUARD && p.id().hashCode() % 3 == 0;
        Shift shift = shift(p.role(), random, night);
        if (random.nextDouble() > (weekend ? shift.weekend() : shift.weekday())) {
            return;
        }
        double from = shift.from() + random.nextGaussian() * 0.22;
        double to = Math.max(from + 0.4, shift.to() + random.nextGaussian() * 0.3);
        String outdoors = outdoors(p);
        long start = at(day, p.home(), from);
        long end = at(day, p.home(), to);
        go(start, p, outdoors, p.base(), random, 0.01);
        double moves = shift.movesPerHour() * (to - from) * MOVES;
        for (int i = 0; i < moves; i++) {
            long t = start + 4 * MINUTE + (long) (random.nextDouble() * Math.max(1, end - start - 8 * MINUTE));
            String target = random.nextInt(5) < 3
                    ? p.haunts().get(random.nextInt(p.haunts().size()))
                    : p.base();
            go(t, p, outdoors, target, random, 0.012);
        }
        if (p.role() == Role.OFFICE || p.role() == Role.CURATOR || random.nextInt(3) == 0) {
            long lunch = at(day, p.home(), 12.2 + random.nextDouble() * 1.2);
            if (lunch > start && lunch < end - 60 * MINUTE) {
                go(lunch, p, outdoors, outdoors, random, 0);
                go(lunch + (25 + random.nextInt(20)) * MINUTE, p, outdoors, p.base(), random, 0.01);
            }
        }
        go(end, p, outdoors, outdoors, random, 0);
    }

    /**
     * @param slip how likely the person is to do something a little wrong at the last door
     */
    private void go(long at, PracticePerson p, String outdoors, String to, Random random, double slip) {
        Random own = new Random(random.nextLong());
        Manner manner = Manner.of(p);
        double chance = own.nextDouble();
        if (chance < slip * 0.35) {
            manner = manner.notEntering();
        } else if (chance < slip * 0.75) {
            manner = manner.followedBy(List.of(somebody(own).look()));
        } else if (chance < slip) {
            manner = manner.holding(25_000L + own.nextInt(90_000));
        }
        Manner chosen = manner;
        agenda.at(at, now -> movements.go(now, p, outdoors, to, chosen, own));
    }

    private PracticePerson somebody(Random random) {
        List<PracticePerson> all = people.all();
        return all.get(random.nextInt(all.size()));
    }

    /** People without badges at the doors that stand unlocked. */
    private void visitors(LocalDate day, boolean weekend, Random random) {
        int count = weekend ? 200 : 120;
        for (int i = 0; i < count; i++) {
            double hour = 10.05 + Math.abs(random.nextGaussian()) * 2.6;
            if (hour > 17.0) {
                continue;
            }
            passPublic(at(day, Building.HARBOUR, hour), "quay-entrance", true, random, 1 + random.nextInt(3));
            passPublic(
                    at(day, Building.HARBOUR, Math.min(17.4, hour + 0.6 + random.nextDouble() * 1.5)),
                    "quay-entrance",
                    false,
                    random,
                    1 + random.nextInt(3));
            if (random.nextInt(3) == 0) {
                passPublic(at(day, Building.HARBOUR, Math.min(17.3, hour + 0.5)), "shop", true, random, 1);
            }
        }
        if (!weekend) {
            for (double hour : new double[] {10.5, 11.25, 13.5, 14.45}) {
                if (random.nextInt(4) > 0) {
                    passPublic(
                            at(day, Building.HARBOUR, hour + random.nextDouble() * 0.1),
                            "quay-entrance",
                            true,
                            random,
                            14 + random.nextInt(12));
                }
            }
        }
    }

    private void passPublic(long at, String door, boolean inwards, Random random, int party) {
        Random own = new Random(random.nextLong());
        List<Look> others = new ArrayList<>();
        for (int i = 1; i < party; i++) {
            others.add(Look.random(own, Dress.COAT, null));
        }
        Manner manner = new Manner(Look.random(own, Dress.COAT, null), "", Optional.empty(), 0, others, true, 0);
        agenda.at(at, now -> {
            if (timeline.control(door).unlocked()) {
                movements.attempt(now, door, inwards, manner, own, t -> {});
            }
        });
    }

    /** Volunteers of the garden share a code. */
    private void yardCode(LocalDate day, boolean weekend, Random random) {
        for (int i = 0; i < (weekend ? 14 : 22); i++) {
            Random own = new Random(random.nextLong());
            long t = at(day, Building.YARD, 8.5 + random.nextDouble() * 8);
            String typed = own.nextInt(14) == 0 ? "1428" : "1482";
            agenda.at(t, now -> timeline.typeCode(now, "cy-garden", typed, Look.random(own, Dress.COAT, null), own));
        }
    }

    private void incidents(LocalDate day, boolean weekend, Random random) {
        PracticePerson tove = people.named("Tove Ingleholm");
        PracticePerson juniper = people.named("Juniper Thistlewood");
        PracticePerson asta = people.named("Asta Brandvold");
        PracticePerson piers = people.named("Piers Wrenfield");
        PracticePerson odo = people.named("Odo Castellane");
        PracticePerson nedko = people.named("Nedko Dragan");
        PracticePerson maren = people.named("Maren Solheim");
        PracticePerson brisa = people.named("Brisa Ferreyra");
        if (weekend) {
            heldOpen(day, "cy-gate", 11 + random.nextDouble() * 3, 180_000, random);
            stranger(day, 15.2 + random.nextDouble(), "quay-entrance", "77120", random);
            return;
        }
        at(day, 9.2 + random.nextDouble() * 0.8, "staff-lobby", Manner.of(nedko).trying(1), random);
        at(day, 12.2 + random.nextDouble() * 0.3, "loading-bay", Manner.of(odo).trying(1), random);
        at(
                day,
                13.8 + random.nextDouble() * 0.4,
                "loading-bay",
                Manner.of(piers).trying(1),
                random);
        at(day, 13.6 + random.nextDouble() * 0.2, "map-store", Manner.of(asta).trying(2), random);
        at(day, 14.4 + random.nextDouble() * 0.08, "map-store", Manner.of(asta).trying(1), random);
        at(
                day,
                10.5 + random.nextDouble() * 5,
                "vault",
                Manner.of(tove).typing("0000").trying(1),
                random);
        at(day, 14.2 + random.nextDouble(), "reading-room", Manner.of(brisa), random);
        stranger(day, 11.8 + random.nextDouble() * 0.2, "quay-entrance", "77120", random);
        stranger(day, 14.36 + random.nextDouble() * 0.1, "staff-lobby", "77120", random);
        stranger(day, 15 + random.nextDouble(), "staff-lobby", "004F-91", random);
        // Two go into the strongroom together; sometimes only one comes.
        for (double hour : new double[] {10.2, 11.6, 14.48, 15.9}) {
            double h = hour + random.nextDouble() * 0.06;
            at(day, h, "strongroom", Manner.of(juniper), random);
            if (random.nextInt(3) > 0) {
                at(day, h + 5 / 3600.0, "strongroom", Manner.of(tove), random);
            }
        }
        // A badge handed back through the turnstile.
        PracticePerson generous = somebodyOf(Role.VOLUNTEER, random);
        double passed = 9.8 + random.nextDouble() * 5;
        at(day, passed, "staff-lobby", Manner.of(generous), random);
        at(
                day,
                passed + 40 / 3600.0,
                "staff-lobby",
                Manner.of(generous).seenAs(somebody(random).look()),
                random);
        // A badge in other hands.
        PracticePerson borrower = somebody(random);
        at(
                day,
                14.41 + random.nextDouble() * 0.15,
                "print-room-north",
                Manner.of(maren).seenAs(borrower.look()),
                random);
        at(
                day,
                10 + random.nextDouble() * 6,
                "staff-lobby",
                Manner.of(somebodyOf(Role.ATTENDANT, random))
                        .seenAs(somebody(random).look()),
                random);
        at(
                day,
                14.38 + random.nextDouble() * 0.2,
                "paper-studio",
                Manner.of(juniper).notEntering(),
                random);
        at(
                day,
                9 + random.nextDouble() * 7,
                "paper-studio",
                Manner.of(maren)
                        .followedBy(List.of(
                                somebody(random).look(), somebody(random).look())),
                random);
        heldOpen(day, "print-room-north", 14.35 + random.nextDouble() * 0.12, 170_000, random);
        heldOpen(day, "loading-bay", 8.5 + random.nextDouble() * 3, 500_000, random);
        heldOpen(day, "ng-dry-2", 10 + random.nextDouble() * 5, 150_000, random);
        heldOpen(day, "ng-dry-1", 10 + random.nextDouble() * 5, 90_000, random);
        heldOpen(day, "cy-workshop", 9 + random.nextDouble() * 6, 260_000, random);
        heldOpen(day, "shop-store", 10 + random.nextDouble() * 6, 80_000, random);
        caller(day, 14.34 + random.nextDouble() * 0.05, "loading-bay", 110_000, random);
        caller(day, 14.62 + random.nextDouble() * 0.1, "quay-entrance", 90_000, random);
        caller(day, 9 + random.nextDouble() * 4, "loading-bay", 100_000, random);
        if (random.nextInt(3) == 0) {
            double hour = 14.5 + random.nextDouble() * 0.2;
            Look who = Look.random(random, Dress.COAT, null);
            agenda.at(at(day, Building.HARBOUR, hour), now -> timeline.forced(now, "strongroom-corr", who, 95_000));
        }
        if (random.nextInt(2) == 0) {
            long lost = at(day, Building.HARBOUR, 14.3);
            agenda.at(lost, now -> timeline.controllerLost(now, "c6"));
            agenda.at(lost + 8 * MINUTE, now -> timeline.controllerBack(now, "c6"));
        }
        String camera = random.nextBoolean() ? "ng-racks-b-outside" : "cycle-gate-outside";
        long dark = at(day, Building.HARBOUR, 8 + random.nextDouble() * 9);
        agenda.at(dark, now -> timeline.cameraLost(now, camera));
        agenda.at(dark + (2 + random.nextInt(9)) * MINUTE, now -> timeline.cameraBack(now, camera));
    }

    private PracticePerson somebodyOf(Role role, Random random) {
        List<PracticePerson> some =
                people.all().stream().filter(p -> p.role() == role).toList();
        return some.get(random.nextInt(some.size()));
    }

    private void at(LocalDate day, double hour, String door, Manner manner, Random random) {
        Random own = new Random(random.nextLong());
        agenda.at(at(day, Building.HARBOUR, hour), now -> movements.attempt(now, door, true, manner, own, t -> {}));
    }

    private void stranger(LocalDate day, double hour, String door, String badge, Random random) {
        Look look = Look.random(random, Dress.COAT, null);
        at(day, hour, door, new Manner(look, badge, Optional.empty(), 0, List.of(), true, 1), random);
    }

    private void caller(LocalDate day, double hour, String door, long stays, Random random) {
        Look look = Look.random(random, Dress.VEST, 0xc4b13a);
        agenda.at(at(day, Building.HARBOUR, hour), now -> movements.linger(now, door, true, look, now + stays, '-'));
    }

    private void heldOpen(LocalDate day, String door, double hour, long millis, Random random) {
        Random own = new Random(random.nextLong());
        PracticePerson who = timeline.somebodyWithAccess(door, own);
        agenda.at(
                at(day, timeline.control(door).door().building(), hour),
                now -> movements.attempt(now, door, true, Manner.of(who).holding(millis), own, t -> {}));
    }

    /** Midnight of a day, where the day begins for the planner. */
    static long midnight(LocalDate day) {
        return ZonedDateTime.of(day, LocalTime.MIDNIGHT, Building.HARBOUR.zone())
                .toInstant()
                .toEpochMilli();
    }
}
