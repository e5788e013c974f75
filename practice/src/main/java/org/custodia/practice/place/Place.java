package org.custodia.practice.place;

import java.time.Duration;
import java.time.LocalTime;
import java.time.ZoneId;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Deque;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Predicate;

/** The place: its sites, doors and cameras, and the ways between its zones. Immutable. */
public final class Place {
    private final Map<String, Building> buildings = new LinkedHashMap<>();
    private final Map<String, PracticeDoor> doors = new LinkedHashMap<>();
    private final Map<String, PracticeCamera> cameras = new LinkedHashMap<>();
    private final Map<String, List<PracticeDoor>> byZone = new HashMap<>();
    private final List<String> watched;

    public Place(Installation installation) {
        watched = installation.watched();
        for (Installation.SiteEntry site : installation.sites()) {
            boolean saysSide =
                    installation.systems().stream().anyMatch(s -> s.id().equals(site.system()) && s.saysSide());
            buildings.put(
                    site.id(),
                    new Building(
                            site.id(),
                            site.name(),
                            ZoneId.of(site.timeZone()),
                            site.system(),
                            site.recorder(),
                            site.outdoors(),
                            saysSide));
        }
        for (Installation.DoorEntry entry : installation.doors()) {
            PracticeDoor door = door(entry);
            doors.put(door.id(), door);
            byZone.computeIfAbsent(door.outside(), z -> new ArrayList<>()).add(door);
            byZone.computeIfAbsent(door.inside(), z -> new ArrayList<>()).add(door);
            for (char view : door.views().toCharArray()) {
                String what = view == 'o' ? "outside" : view == 'i' ? "inside" : "overview";
                PracticeCamera camera =
                        new PracticeCamera(door.id() + "-" + what, door.name() + " " + what, door, view);
                cameras.put(camera.id(), camera);
            }
        }
    }

    private PracticeDoor door(Installation.DoorEntry d) {
        List<String> asks = d.asks();
        return new PracticeDoor(
                d.id(),
                d.name(),
                buildings.get(d.site()),
                d.level(),
                d.outside(),
                d.inside(),
                d.controller(),
                d.room(),
                d.views(),
                Duration.ofSeconds(d.heldSeconds() == null ? 30 : d.heldSeconds()),
                !Boolean.FALSE.equals(d.contact()),
                !"button".equals(d.exit()),
                Boolean.TRUE.equals(d.turnstile()),
                asks.contains("pin"),
                asks.contains("two-persons"),
                asks.contains("once-inside"),
                Optional.ofNullable(d.publicFrom()).map(LocalTime::parse),
                Optional.ofNullable(d.publicTo()).map(LocalTime::parse),
                Optional.ofNullable(d.code()));
    }

    public List<Building> buildings() {
        return List.copyOf(buildings.values());
    }

    /** The site with an id, which the installation has. */
    public Building building(String id) {
        return buildings.get(id);
    }

    /** The doors of a zone, on either side. */
    public List<PracticeDoor> doorsOf(String zone) {
        return List.copyOf(byZone.getOrDefault(zone, List.of()));
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
        return watched.stream().map(this::door).toList();
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
