package org.custodia.practice.timeline;

import java.time.DayOfWeek;
import java.time.LocalDate;
import java.time.temporal.ChronoField;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import org.custodia.practice.place.Building;
import org.custodia.practice.place.Installation;
import org.custodia.practice.place.Installation.Crowd;
import org.custodia.practice.place.Installation.Role;
import org.custodia.practice.place.Installation.Round;
import org.custodia.practice.place.Installation.Routine;
import org.custodia.practice.place.Installation.Shift;
import org.custodia.practice.place.Look;
import org.custodia.practice.place.Look.Dress;
import org.custodia.practice.place.People;
import org.custodia.practice.place.Place;
import org.custodia.practice.place.PracticePerson;

/** An ordinary day: who comes when and moves where, the rounds, the visitors without badges. */
final class OrdinaryLife {
    private static final long MINUTE = 60_000;
    private static final long REST = 9 * 60 * MINUTE;
    /** Chance draws that belong to no person begin here. */
    private static final long CROWDS = 7_001;

    private static final long ROUNDS = 7_501;

    private final Installation installation;
    private final Place place;
    private final People people;
    private final Movements movements;
    private final Agenda agenda;
    private final Timeline timeline;
    private final long seed;
    private final Map<String, Role> roles = new HashMap<>();

    OrdinaryLife(
            Installation installation,
            Place place,
            People people,
            Movements movements,
            Agenda agenda,
            Timeline timeline,
            long seed) {
        this.installation = installation;
        this.place = place;
        this.people = people;
        this.movements = movements;
        this.agenda = agenda;
        this.timeline = timeline;
        this.seed = seed;
        installation.roles().forEach(r -> roles.put(r.id(), r));
    }

    void plan(LocalDate day) {
        boolean weekend = day.getDayOfWeek() == DayOfWeek.SATURDAY || day.getDayOfWeek() == DayOfWeek.SUNDAY;
        for (PracticePerson person : people.all()) {
            person(
                    person,
                    day,
                    weekend,
                    new Random(Incidents.mix(seed, day, person.id().hashCode())));
        }
        long number = CROWDS;
        for (Crowd crowd : installation.crowds()) {
            crowd(crowd, day, weekend, new Random(Incidents.mix(seed, day, number++)));
        }
        for (Routine routine : installation.routines()) {
            Random random = new Random(Incidents.mix(seed, day, number++));
            Installation.UnitEntry unit = installation.units().stream()
                    .filter(u -> u.id().equals(routine.unit()))
                    .findFirst()
                    .orElseThrow();
            double hour = routine.hour() + random.nextGaussian() * routine.spreadHours();
            agenda.at(at(day, place.building(unit.site()), hour), now -> timeline.device(unit.id())
                    .perform(Act.of(routine.act()).target(unit.id()), now, random));
        }
        number = ROUNDS;
        for (Round round : installation.rounds()) {
            round(round, day, new Random(Incidents.mix(seed, day, number++)));
        }
    }

    /** A time of a site's day. */
    static long at(LocalDate day, Building building, double hour) {
        return day.atStartOfDay(building.zone()).toInstant().toEpochMilli() + Math.round(hour * 3_600_000);
    }

    /** Whether somebody comes to work at all: whoever may not go in learns that after a try or two, which is an incident. */
    private static boolean comes(PracticePerson p, LocalDate day, Building building) {
        return p.badges().get(0).status().equals("active")
                && p.until()
                        .filter(u -> !u.atZone(building.zone()).toLocalDate().isAfter(day))
                        .isEmpty();
    }

    private Shift shift(PracticePerson p, LocalDate day) {
        List<Shift> shifts = roles.get(p.role()).shifts();
        long week = ChronoUnit.WEEKS.between(LocalDate.EPOCH, day.with(ChronoField.DAY_OF_WEEK, 1));
        return shifts.get((int) Math.floorMod(week + p.id().hashCode(), (long) shifts.size()));
    }

    private void person(PracticePerson p, LocalDate day, boolean weekend, Random random) {
        Role role = roles.get(p.role());
        Building building = place.building(p.home());
        Shift shift = shift(p, day);
        if (random.nextDouble() > (weekend ? role.weekend() : role.weekday()) || !comes(p, day, building)) {
            return;
        }
        double from = shift.from() + random.nextGaussian() * role.lateInHours();
        double to = Math.max(from + 0.4, shift.to() + random.nextGaussian() * role.lateOutHours());
        long start = at(day, building, from);
        long end = at(day, building, to);
        agenda.at(start, now -> {
            if (movements.awaySince(p, now) >= REST) {
                work(p, now, end, role, new Random(random.nextLong()));
            }
        });
    }

    private void work(PracticePerson p, long start, long end, Role role, Random random) {
        movements.goesHome(p, end, random);
        go(start, p, p.base(), random);
        double moves = role.movesPerHour() * (end - start) / (60.0 * MINUTE);
        for (int i = 0; i < moves; i++) {
            long t = start + 4 * MINUTE + (long) (random.nextDouble() * Math.max(1, end - start - 8 * MINUTE));
            String target = random.nextInt(5) < 3
                    ? p.haunts().get(random.nextInt(p.haunts().size()))
                    : p.base();
            agenda.at(t, now -> {
                if (movements.onSite(p)) {
                    movements.go(now, p, target, m -> m, random, Movements.Outcome.NONE);
                }
            });
        }
        if (random.nextDouble() < role.lunch()) {
            long lunch = start + (long) ((end - start) * (0.4 + random.nextDouble() * 0.16));
            if (lunch < end - 60 * MINUTE) {
                agenda.at(lunch, now -> movements.leave(now, p, random));
                go(lunch + (25 + random.nextInt(20)) * MINUTE, p, p.base(), random);
            }
        }
    }

    private void go(long at, PracticePerson p, String to, Random random) {
        agenda.at(at, now -> movements.go(now, p, to, m -> m, random, Movements.Outcome.NONE));
    }

    private void round(Round round, LocalDate day, Random random) {
        Building building = place.building(round.site());
        for (double hour = round.from() + random.nextDouble() * 0.3;
                hour < round.to();
                hour += round.everyMinutes() * (0.85 + random.nextDouble() * 0.3) / 60) {
            agenda.at(at(day, building, hour), now -> {
                List<PracticePerson> onDuty = people.all().stream()
                        .filter(p -> p.role().equals(round.role()) && p.home().equals(round.site()))
                        .filter(p -> movements.onSite(p) && movements.free(p))
                        .toList();
                if (!onDuty.isEmpty()) {
                    PracticePerson p = onDuty.get(random.nextInt(onDuty.size()));
                    next(now, p, round.zones(), 0, new Random(random.nextLong()));
                }
            });
        }
    }

    private void next(long at, PracticePerson p, List<String> zones, int i, Random random) {
        if (i == zones.size()) {
            return;
        }
        movements.go(
                at,
                p,
                zones.get(i),
                m -> m,
                random,
                (end, there) -> agenda.at(
                        end + (40 + random.nextInt(120)) * 1_000L, now -> next(now, p, zones, i + 1, random)));
    }

    private void crowd(Crowd crowd, LocalDate day, boolean weekend, Random random) {
        Building building = place.door(crowd.door()).building();
        int count = weekend ? crowd.weekend() : crowd.weekday();
        for (int i = 0; i < count; i++) {
            double hour = crowd.code() == null
                    ? crowd.from() + Math.abs(random.nextGaussian()) * (crowd.to() - crowd.from()) * 0.37
                    : crowd.from() + random.nextDouble() * (crowd.to() - crowd.from());
            int party = crowd.leastParty() + random.nextInt(crowd.mostParty() - crowd.leastParty() + 1);
            if (hour >= crowd.to()) {
                continue;
            }
            if (crowd.code() != null) {
                Random own = new Random(random.nextLong());
                String typed = own.nextDouble() < crowd.wrongShare() ? wrong(crowd.code(), own) : crowd.code();
                agenda.at(at(day, building, hour), now -> timeline.door(crowd.door())
                        .typeCode(now, typed, Look.random(own, Dress.COAT, null), own));
            } else {
                double out = Math.min(crowd.to() + 0.3, hour + 0.5 + random.nextDouble() * 1.6);
                pass(at(day, building, hour), crowd.door(), true, random, party);
                pass(at(day, building, out), crowd.door(), false, random, party);
            }
        }
    }

    /** A code with two of its digits changed over, as people do. */
    private static String wrong(String code, Random random) {
        char[] digits = code.toCharArray();
        int i = random.nextInt(digits.length - 1);
        char first = digits[i];
        digits[i] = digits[i + 1];
        digits[i + 1] = first;
        return new String(digits);
    }

    private void pass(long at, String door, boolean inwards, Random random, int party) {
        Random own = new Random(random.nextLong());
        List<Look> others = new ArrayList<>();
        for (int i = 1; i < party; i++) {
            others.add(Look.random(own, Dress.COAT, null));
        }
        Manner manner = Manner.of(Look.random(own, Dress.COAT, null)).followedBy(others);
        agenda.at(at, now -> {
            if (timeline.control(door).unlocked()) {
                movements.attempt(now, door, inwards, manner, own, Movements.Outcome.NONE);
            }
        });
    }
}
