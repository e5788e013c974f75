package org.custodia.practice.timeline;

import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.DayOfWeek;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.Set;
import org.custodia.practice.place.Installation;
import org.custodia.practice.place.Place;
import org.custodia.wire.Wire;
import org.custodia.wire.WireException;

/**
 * What goes wrong at a place, as its incident file says: how often, where, at which hours, how it unfolds and what people
 * do then. What begins on a day follows from the seed and the day alone.
 */
public final class Incidents {
    private final List<Incident> all;
    private final Map<String, List<Hour>> hours;
    private final List<String> opening;

    /** How likely something is within an hour of the day, against the others. */
    public record Hour(int hour, double weight) {}

    /**
     * The file.
     *
     * @param opening with which of them a demo may begin
     */
    record Content(Map<String, List<Hour>> hours, List<String> opening, List<Incident> incidents) {}

    /**
     * Something that begins on a day.
     *
     * @param hour when, in hours from midnight by the clock of the site where it is
     * @param seed from which all chance in it is drawn
     */
    public record Drawn(Incident incident, double hour, long seed) {}

    private Incidents(Content content) {
        all = content.incidents();
        hours = content.hours();
        opening = content.opening();
    }

    /** Those of Sternwick. */
    public static Incidents sternwick() {
        try (InputStream in = Incidents.class.getResourceAsStream("sternwick-incidents.json")) {
            return parse(new String(in.readAllBytes(), StandardCharsets.UTF_8), "sternwick-incidents.json");
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    /** A place where nothing goes wrong. */
    public static Incidents none() {
        return new Incidents(new Content(Map.of(), List.of(), List.of()));
    }

    /**
     * Reads an incident file.
     *
     * @throws IllegalArgumentException if it cannot be read or does not fit together; the message says where
     */
    public static Incidents read(Path file) {
        try {
            return parse(Files.readString(file), file.toString());
        } catch (IOException e) {
            throw new IllegalArgumentException("The incident file " + file + " cannot be read.", e);
        }
    }

    private static Incidents parse(String text, String where) {
        try {
            Incidents incidents = new Incidents(Wire.read(text, Content.class));
            List<String> problems = incidents.problems();
            if (!problems.isEmpty()) {
                throw new IllegalArgumentException(
                        "The incident file " + where + " does not fit together: " + String.join("; ", problems) + ".");
            }
            return incidents;
        } catch (WireException e) {
            throw new IllegalArgumentException("The incident file " + where + ": " + e.getMessage() + ".", e);
        }
    }

    private List<String> problems() {
        List<String> problems = new ArrayList<>();
        Set<String> ids = new HashSet<>();
        for (Incident i : all) {
            if (!ids.add(i.id())) {
                problems.add("the incident " + i.id() + " is there twice");
            }
            if (!Plots.KNOWN.contains(i.does())) {
                problems.add("nothing unfolds as " + i.does() + ", which " + i.id() + " names");
            }
            if (!hours.containsKey(i.hours())) {
                problems.add("there are no hours " + i.hours() + ", which " + i.id() + " names");
            }
        }
        opening.stream()
                .filter(o -> !ids.contains(o))
                .forEach(o -> problems.add("there is no incident " + o + ", with which a demo is to begin"));
        return problems;
    }

    /** What of it names something that a place does not have, in words. */
    List<String> missingFrom(Place place, Installation installation) {
        Set<String> known = new HashSet<>();
        place.doors().forEach(d -> known.addAll(List.of(d.id(), d.controller())));
        place.cameras().forEach(c -> known.add(c.id()));
        installation.units().forEach(u -> known.add(u.id()));
        installation.roles().forEach(r -> known.add(r.id()));
        place.buildings().forEach(b -> known.add(b.id()));
        List<String> missing = new ArrayList<>();
        for (Incident i : all) {
            for (List<String> names :
                    List.of(orNone(i.doors()), orNone(i.sites()), orNone(i.units()), orNone(i.roles()))) {
                names.stream().filter(n -> !known.contains(n)).forEach(n -> missing.add(n + " of " + i.id()));
            }
        }
        return missing;
    }

    static List<String> orNone(List<String> list) {
        return Optional.ofNullable(list).orElse(List.of());
    }

    /** All that begins on a day, in order of the hour. */
    List<Drawn> on(LocalDate day, long seed) {
        boolean weekend = day.getDayOfWeek() == DayOfWeek.SATURDAY || day.getDayOfWeek() == DayOfWeek.SUNDAY;
        List<Drawn> drawn = new ArrayList<>();
        for (Incident incident : all) {
            Random random = new Random(mix(seed, day, incident.id().hashCode()));
            int times;
            if (incident.dayOfMonth() != null) {
                times = incident.dayOfMonth() == day.getDayOfMonth() ? 1 : 0;
            } else {
                Double rate = weekend ? incident.weekend() : incident.weekday();
                times = poisson(rate == null ? 0 : rate, random);
            }
            for (int i = 0; i < times; i++) {
                drawn.add(new Drawn(incident, hour(hours.get(incident.hours()), random), random.nextLong()));
            }
        }
        drawn.sort(Comparator.comparingDouble(Drawn::hour));
        return drawn;
    }

    /** The hour on a day, not before another, shortly after which a demo has something to see; nothing if it has not. */
    public Optional<Double> opening(LocalDate day, long seed, double notBefore) {
        return on(day, seed).stream()
                .filter(d -> opening.contains(d.incident().id()) && d.hour() >= notBefore)
                .map(Drawn::hour)
                .findFirst();
    }

    private static double hour(List<Hour> weights, Random random) {
        double left =
                random.nextDouble() * weights.stream().mapToDouble(Hour::weight).sum();
        for (Hour hour : weights) {
            left -= hour.weight();
            if (left < 0) {
                return hour.hour() + random.nextDouble();
            }
        }
        return weights.get(weights.size() - 1).hour() + random.nextDouble();
    }

    /** How often something happens that happens so often on the average (Knuth, The Art of Computer Programming, 3.4.1). */
    private static int poisson(double mean, Random random) {
        double limit = Math.exp(-mean);
        double product = random.nextDouble();
        int times = 0;
        while (product > limit) {
            product *= random.nextDouble();
            times++;
        }
        return times;
    }

    /** A number that follows from seed, day and something else, and looks like none that follows from others. */
    static long mix(long seed, LocalDate day, long what) {
        long x = seed * 0x9E3779B97F4A7C15L + day.toEpochDay() * 0xBF58476D1CE4E5B9L + what * 0x94D049BB133111EBL;
        x ^= x >>> 31;
        return x * 0xD6E8FEB86659FD93L;
    }
}
