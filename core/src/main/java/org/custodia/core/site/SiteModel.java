package org.custodia.core.site;

import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Predicate;
import java.util.stream.Collectors;

/** All places as they stand at one time. Immutable; a change makes a new one. */
public final class SiteModel {
    private final Map<SiteId, Site> sites = new LinkedHashMap<>();
    private final Map<DoorId, Door> doors = new LinkedHashMap<>();
    private final Map<CameraId, Camera> cameras = new LinkedHashMap<>();
    private final List<Pairing> paired;
    private final Map<DoorId, List<Pairing>> pairings;
    private final Map<DoorId, CameraId> unheard = new LinkedHashMap<>();
    private final Map<ControllerId, List<Door>> byController;
    private final Map<SystemId, List<Door>> bySystem;
    private final Map<ReaderId, Reader> readers = new LinkedHashMap<>();
    private final Map<DeviceId, Device> devices = new LinkedHashMap<>();
    private final List<Lookout> lookouts;
    private final Set<DoorId> leftOut;
    private final List<Walk> walks;
    private final Map<DoorId, List<Walk>> walksOf = new LinkedHashMap<>();

    /** A model with nothing in it. */
    public static final SiteModel EMPTY = new SiteModel(List.of(), List.of(), List.of(), List.of());

    /** Pairings of doors that are not there are left out; those with cameras that are not there yet wait for them. */
    public SiteModel(
            Collection<Site> sites, Collection<Door> doors, Collection<Camera> cameras, Collection<Pairing> pairings) {
        this(sites, doors, cameras, pairings, List.of());
    }

    /** The same, with readers. */
    public SiteModel(
            Collection<Site> sites,
            Collection<Door> doors,
            Collection<Camera> cameras,
            Collection<Pairing> pairings,
            Collection<Reader> readers) {
        this(sites, doors, cameras, pairings, readers, List.of(), List.of(), List.of(), Set.of());
    }

    /**
     * The same, with what is no door, which cameras show that, and which doors are neighbours. What is said of doors, cameras
     * or devices that are not there is left out.
     */
    public SiteModel(
            Collection<Site> sites,
            Collection<Door> doors,
            Collection<Camera> cameras,
            Collection<Pairing> pairings,
            Collection<Reader> readers,
            Collection<Device> devices,
            Collection<Walk> walks,
            Collection<Lookout> lookouts,
            Set<DoorId> leftOut) {
        this.leftOut = Set.copyOf(leftOut);
        devices.forEach(d -> this.devices.put(d.id(), d));
        readers.forEach(r -> this.readers.put(r.id(), r));
        sites.forEach(s -> this.sites.put(s.id(), s));
        doors.forEach(d -> this.doors.put(d.id(), d));
        cameras.forEach(c -> this.cameras.put(c.id(), c));
        this.paired = List.copyOf(pairings);
        this.pairings = paired.stream()
                .filter(p -> this.doors.containsKey(p.door()) && this.cameras.containsKey(p.camera()))
                .collect(Collectors.groupingBy(Pairing::door));
        pairings.stream()
                .filter(p -> this.doors.containsKey(p.door()) && !this.pairings.containsKey(p.door()))
                .forEach(p -> unheard.putIfAbsent(p.door(), p.camera()));
        this.lookouts = lookouts.stream().filter(this::isThere).toList();
        this.walks = walks.stream()
                .filter(w -> this.doors.containsKey(w.first()) && this.doors.containsKey(w.second()))
                .toList();
        for (Walk walk : this.walks) {
            for (DoorId end : List.of(walk.first(), walk.second())) {
                walksOf.computeIfAbsent(end, d -> new ArrayList<>()).add(walk);
            }
        }
        walksOf.values().forEach(all -> all.sort(Comparator.comparing(Walk::takes)));
        this.byController = doors.stream().collect(Collectors.groupingBy(Door::controller));
        this.bySystem = doors.stream().collect(Collectors.groupingBy(Door::system));
    }

    /**
     * The same with some sites and doors only, and nothing of cameras that are at other sites, whichever door they look at. A
     * door brings its site along.
     */
    public SiteModel only(Predicate<SiteId> wanted, Predicate<DoorId> wantedDoors) {
        List<Door> kept =
                doors.values().stream().filter(d -> wantedDoors.test(d.id())).toList();
        Set<SiteId> theirs = kept.stream().map(Door::site).collect(Collectors.toSet());
        return new SiteModel(
                sites.values().stream()
                        .filter(s -> wanted.test(s.id()) || theirs.contains(s.id()))
                        .toList(),
                kept,
                cameras.values().stream().filter(c -> wanted.test(c.site())).toList(),
                paired.stream()
                        .filter(p -> camera(p.camera())
                                .filter(c -> !wanted.test(c.site()))
                                .isEmpty())
                        .toList(),
                readers.values().stream()
                        .filter(r -> wantedDoors.test(r.door()))
                        .toList(),
                devices.values().stream()
                        .filter(d -> wanted.test(d.site()))
                        .map(d -> d.door().filter(wantedDoors::test).isPresent() ? d : d.withoutDoor())
                        .toList(),
                walks,
                lookouts,
                leftOut);
    }

    public Collection<Site> sites() {
        return sites.values();
    }

    public Collection<Door> doors() {
        return doors.values();
    }

    public Collection<Camera> cameras() {
        return cameras.values();
    }

    public Optional<Door> door(DoorId id) {
        return Optional.ofNullable(doors.get(id));
    }

    public Optional<Camera> camera(CameraId id) {
        return Optional.ofNullable(cameras.get(id));
    }

    public Optional<Reader> reader(ReaderId id) {
        return Optional.ofNullable(readers.get(id));
    }

    /** What is no door: inputs, call stations, displays, muster readers. */
    public Collection<Device> devices() {
        return devices.values();
    }

    public Optional<Device> device(DeviceId id) {
        return Optional.ofNullable(devices.get(id));
    }

    /** All doors that are neighbours. */
    public List<Walk> walks() {
        return walks;
    }

    /** The neighbours of a door, the nearest first. */
    public List<Walk> walks(DoorId door) {
        return List.copyOf(walksOf.getOrDefault(door, List.of()));
    }

    private boolean isThere(Lookout lookout) {
        boolean there = lookout.of() instanceof Lookout.OfDevice device
                ? devices.containsKey(device.device())
                : lookout.of() instanceof Lookout.OfZone zone && sites.containsKey(zone.site());
        return there && cameras.containsKey(lookout.camera());
    }

    /** Doors that a system has and that were left out here; what happens there is logged and not shown. */
    public Set<DoorId> leftOut() {
        return leftOut;
    }

    /** Which cameras show something other than a door. */
    public List<Lookout> lookouts() {
        return lookouts;
    }

    /** The cameras that show a device or a zone. */
    public List<Lookout> lookouts(Lookout.Subject of) {
        return lookouts.stream().filter(l -> l.of().equals(of)).toList();
    }

    /** The doors one controller drives. */
    public List<Door> doorsOf(ControllerId controller) {
        return byController.getOrDefault(controller, List.of());
    }

    /** The doors of one access system. */
    public List<Door> doorsOf(SystemId system) {
        return bySystem.getOrDefault(system, List.of());
    }

    /** The cameras of a door, the most telling first. */
    public List<Pairing> pairings(DoorId door) {
        return pairings.getOrDefault(door, List.of());
    }

    /** The camera that sees who stands on this side; any camera of the door where none is set for the side. */
    public Optional<Pairing> pairing(DoorId door, Side side) {
        List<Pairing> all = pairings(door);
        return all.stream().filter(p -> p.side() == side).findFirst().or(() -> all.stream()
                .findFirst());
    }

    /** Of a door none of whose cameras is known: the one that is paired with it, but that no recorder has named so far. */
    public Optional<CameraId> unheardCamera(DoorId door) {
        return Optional.ofNullable(unheard.get(door));
    }

    /** The time zone in which a door's times are shown; UTC where its site is not known. */
    public ZoneId zoneOf(DoorId door) {
        return door(door).map(Door::site).map(sites::get).map(Site::timeZone).orElse(ZoneOffset.UTC);
    }

    /** The name of a door's site, or nothing. */
    public Optional<Site> siteOf(DoorId door) {
        return door(door).map(Door::site).map(sites::get);
    }
}
