package org.custodia.practice.place;

import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.time.LocalTime;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Deque;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Predicate;

/** The place: its doors, its cameras, and the ways between its zones. Immutable. */
public final class Sternwick {
    private static final List<String> WATCHED =
            List.of("staff-lobby", "gallery-north", "print-room-north", "quay-entrance", "loading-bay", "vault-ante");

    private final Map<String, PracticeDoor> doors = new LinkedHashMap<>();
    private final Map<String, PracticeCamera> cameras = new LinkedHashMap<>();
    private final Map<String, List<PracticeDoor>> byZone = new HashMap<>();

    public Sternwick() {
        for (String line : lines()) {
            PracticeDoor door = parse(line);
            doors.put(door.id(), door);
            byZone.computeIfAbsent(door.outside(), z -> new ArrayList<>()).add(door);
            byZone.computeIfAbsent(door.inside(), z -> new ArrayList<>()).add(door);
            for (char view : door.views().toCharArray()) {
                if (view != '-') {
                    String what = view == 'o' ? "outside" : view == 'i' ? "inside" : "overview";
                    PracticeCamera camera =
                            new PracticeCamera(door.id() + "-" + what, door.name() + " " + what, door, view);
                    cameras.put(camera.id(), camera);
                }
            }
        }
    }

    private static List<String> lines() {
        try (InputStream in = Sternwick.class.getResourceAsStream("doors.txt")) {
            return new String(in.readAllBytes(), StandardCharsets.UTF_8)
                    .lines()
                    .filter(l -> !l.isBlank() && !l.startsWith("#"))
                    .toList();
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    private static PracticeDoor parse(String line) {
        String[] f = Arrays.stream(line.split("\\|", -1)).map(String::trim).toArray(String[]::new);
        Map<String, String> options = new HashMap<>();
        for (String option : f[9].split("\\s+")) {
            int equals = option.indexOf('=');
            options.put(
                    equals < 0 ? option : option.substring(0, equals), equals < 0 ? "" : option.substring(equals + 1));
        }
        Optional<String[]> open = Optional.ofNullable(options.get("public")).map(s -> s.split("-"));
        return new PracticeDoor(
                f[0],
                f[1],
                Building.of(f[2]),
                f[3],
                f[4],
                f[5],
                f[6],
                f[7],
                f[8],
                Duration.ofSeconds(Long.parseLong(options.getOrDefault("held", "30"))),
                !options.containsKey("nocontact"),
                !options.containsKey("button"),
                options.containsKey("turnstile"),
                options.containsKey("pin"),
                options.containsKey("two"),
                options.containsKey("antipassback"),
                open.map(o -> LocalTime.parse(o[0])),
                open.map(o -> LocalTime.parse(o[1])),
                Optional.ofNullable(options.get("code")));
    }

    public List<PracticeDoor> doors() {
        return List.copyOf(doors.values());
    }

    public PracticeDoor door(String id) {
        PracticeDoor door = doors.get(id);
        if (door == null) {
            throw new IllegalArgumentException("there is no door " + id);
        }
        return door;
    }

    /** The doors that the guard room keeps an eye on, the most used first. */
    public List<PracticeDoor> watched() {
        return WATCHED.stream().map(this::door).toList();
    }

    public List<PracticeCamera> cameras() {
        return List.copyOf(cameras.values());
    }

    public Optional<PracticeCamera> camera(String id) {
        return Optional.ofNullable(cameras.get(id));
    }

    /** One door on somebody's way. */
    public record Step(PracticeDoor door, boolean inwards) {}

    /**
     * The way with the fewest doors; empty if there is none or it is the same zone.
     *
     * @param mayEnter the doors by which somebody can get in
     */
    public List<Step> way(String from, String to, Predicate<PracticeDoor> mayEnter) {
        if (from.equals(to)) {
            return List.of();
        }
        Map<String, Step> cameBy = new HashMap<>();
        Deque<String> next = new ArrayDeque<>(List.of(from));
        while (!next.isEmpty() && !cameBy.containsKey(to)) {
            String zone = next.poll();
            for (PracticeDoor door : byZone.getOrDefault(zone, List.of())) {
                boolean inwards = door.outside().equals(zone);
                String other = inwards ? door.inside() : door.outside();
                if (!other.equals(from) && !cameBy.containsKey(other) && (!inwards || mayEnter.test(door))) {
                    cameBy.put(other, new Step(door, inwards));
                    next.add(other);
                }
            }
        }
        List<Step> way = new ArrayList<>();
        String zone = to;
        while (!zone.equals(from)) {
            Step step = cameBy.get(zone);
            if (step == null) {
                return List.of();
            }
            way.add(0, step);
            zone = step.inwards() ? step.door().outside() : step.door().inside();
        }
        return way;
    }
}
