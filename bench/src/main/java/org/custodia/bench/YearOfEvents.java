package org.custodia.bench;

import java.time.DayOfWeek;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Random;
import java.util.function.Consumer;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Kinds;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.ReaderId;
import org.custodia.core.site.Side;
import org.custodia.core.site.SystemId;

/**
 * The events of a year at 300 doors of two systems, with 10,000 people who come and go: badges by day more than by night and
 * less on weekends, leaves that open and close, exit buttons, refusals, and now and then something that is wrong. The same
 * each time.
 */
final class YearOfEvents {
    static final LocalDate FIRST_DAY = LocalDate.of(2025, 11, 25);
    static final int DAYS = 365;
    static final int DOORS = 300;
    static final int PEOPLE = 10_000;

    private static final double PER_PASS = 2.95;
    private static final double[] BY_HOUR = {
        1, 1, 1, 1, 1, 4, 14, 40, 48, 30, 26, 28, 44, 40, 28, 26, 36, 44, 24, 10, 6, 4, 2, 1
    };
    private static final String[] WHY = {
        "outside timetable", "no level for this door", "unknown credential", "wrong PIN"
    };

    private final Random random = new Random(20261124);
    private final double passesPerDay;
    private final long[] sequences = {0, 0};

    private record Happening(
            Instant at, int door, EventKind kind, int person, boolean in, String reason, String details) {}

    YearOfEvents(long events) {
        this.passesPerDay = events / PER_PASS / DAYS;
    }

    /** All days, one after the other; the events of one in the order of their times. */
    void days(Consumer<List<Event>> day) {
        for (int d = 0; d < DAYS; d++) {
            LocalDate date = FIRST_DAY.plusDays(d);
            boolean weekend = date.getDayOfWeek() == DayOfWeek.SATURDAY || date.getDayOfWeek() == DayOfWeek.SUNDAY;
            List<Happening> happenings = new ArrayList<>();
            Instant midnight = date.atStartOfDay(ZoneOffset.UTC).toInstant();
            int passes = (int) (passesPerDay * (weekend ? 0.4 : 1.24));
            for (int i = 0; i < passes; i++) {
                pass(midnight.plusMillis(timeOfDay()), happenings);
            }
            for (int door = 0; door < 60; door++) {
                happenings.add(new Happening(
                        midnight.plusSeconds(7 * 3600 + door),
                        door,
                        Kinds.MODE,
                        -1,
                        true,
                        null,
                        "{\"mode\":\"unlocked\",\"by\":\"timetable\",\"next-mode\":\"locked\",\"next-at\":\"" + date
                                + "T18:00:00Z\"}"));
                happenings.add(new Happening(
                        midnight.plusSeconds(18 * 3600 + door),
                        door,
                        Kinds.MODE,
                        -1,
                        true,
                        null,
                        "{\"mode\":\"locked\",\"by\":\"timetable\"}"));
            }
            happenings.sort(Comparator.comparing(Happening::at));
            day.accept(happenings.stream().map(this::event).toList());
        }
    }

    private long timeOfDay() {
        double all = 0;
        for (double weight : BY_HOUR) {
            all += weight;
        }
        double point = random.nextDouble() * all;
        int hour = 0;
        while (point >= BY_HOUR[hour]) {
            point -= BY_HOUR[hour];
            hour++;
        }
        return hour * 3_600_000L + random.nextInt(3_600_000);
    }

    private void pass(Instant at, List<Happening> out) {
        int door = (int) (DOORS * Math.pow(random.nextDouble(), 1.6));
        int person = random.nextInt(PEOPLE);
        boolean in = random.nextBoolean();
        double fate = random.nextDouble();
        if (fate < 0.015) {
            out.add(new Happening(at, door, Kinds.REFUSED, person, in, WHY[random.nextInt(WHY.length)], null));
            return;
        }
        boolean button = !in && door % 3 == 0;
        out.add(new Happening(
                at, door, button ? Kinds.EXIT_REQUESTED : Kinds.GRANTED, button ? -1 : person, in, null, null));
        if (fate > 0.97) {
            return;
        }
        Instant opened = at.plusMillis(700 + random.nextInt(2_500));
        out.add(new Happening(opened, door, Kinds.OPENED, -1, in, null, null));
        if (fate < 0.0155) {
            out.add(new Happening(opened.plusMillis(2), door, Kinds.FORCED, -1, in, null, null));
        }
        boolean held = fate > 0.967;
        if (held) {
            out.add(new Happening(opened.plusSeconds(30), door, Kinds.HELD, -1, in, null, null));
        }
        out.add(new Happening(
                opened.plusMillis(held ? 45_000 : 2_500 + random.nextInt(4_000)),
                door,
                Kinds.CLOSED,
                -1,
                in,
                null,
                null));
    }

    private Event event(Happening h) {
        boolean first = h.door() < 200;
        String system = first ? "tidewater" : "larkspur";
        long sequence = ++sequences[first ? 0 : 1];
        String door = "door-" + h.door();
        String controller = "c" + h.door() / 4;
        boolean badge = h.kind().equals(Kinds.GRANTED) || h.kind().equals(Kinds.REFUSED);
        String code = (first ? "T" : "L") + (100 + Math.floorMod(h.kind().id().hashCode(), 40));
        StringBuilder raw = new StringBuilder(260)
                .append("{\"epoch\":1,\"seq\":")
                .append(sequence)
                .append(",\"time\":\"")
                .append(h.at().plusMillis(350))
                .append("\",\"kind\":\"")
                .append(h.kind().id())
                .append("\",\"code\":\"")
                .append(code)
                .append("\",\"door\":\"")
                .append(door)
                .append("\",\"controller\":\"")
                .append(controller)
                .append('"');
        Event.Builder b = Event.of(new EventKey(new SystemId(system), 1, sequence), h.kind(), h.at().plusMillis(350))
                .received(
                        h.at().plusMillis(20 + sequence % 190),
                        Duration.ofNanos(350_000_000L + sequence / 5_000 % 700 * 1_000))
                .time(h.at())
                .door(new DoorId(system + "/" + door))
                .controller(new ControllerId(system + "/" + controller))
                .code(code);
        if (badge) {
            String reader = door + (h.in() ? ".in" : ".out");
            String credential = Integer.toString(20_000 + h.person());
            raw.append(",\"reader\":\"").append(reader).append("\",\"side\":\"").append(h.in() ? "entry" : "exit");
            raw.append("\",\"credential\":\"").append(credential).append("\",\"credentialKind\":\"card\"");
            b.reader(new ReaderId(reader))
                    .side(h.in() ? Side.ENTRY : Side.EXIT)
                    .credential(credential)
                    .detail("credential-kind", "card");
            if (!"unknown credential".equals(h.reason())) {
                raw.append(",\"person\":\"p-").append(h.person()).append('"');
                b.person(new PersonId(system + "/p-" + h.person()));
            }
        }
        if (h.reason() != null) {
            raw.append(",\"reason\":\"").append(h.reason()).append('"');
            b.reason(h.reason());
        }
        if (h.details() != null) {
            raw.append(",\"details\":").append(h.details());
            for (String pair :
                    h.details().substring(2, h.details().length() - 2).split("\",\"")) {
                String[] parts = pair.split("\":\"");
                b.detail(parts[0], parts[1]);
            }
        }
        return b.raw(raw.append('}').toString()).build();
    }
}
