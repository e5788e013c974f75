package org.custodia.core.evidence;

import java.io.IOException;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.Set;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.MemoryLog;
import org.custodia.core.site.Camera;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorCapability;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Side;
import org.custodia.core.site.Site;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.SystemId;

/**
 * Doors that open and cameras that see some of them, with all that makes it hard: noise, a clock in the picture, people who
 * pass, light that changes, stills that are missing, pictures that are a little early or late.
 */
final class SimulatedPlace implements Peeks {
    static final Instant END = Instant.parse("2026-11-24T18:00:00Z");
    static final SystemId SYSTEM = new SystemId("tidewater");
    static final SystemId RECORDER = new SystemId("lanthorn");
    static final SiteId SITE = new SiteId("harbour");
    static final SiteId OTHER = new SiteId("ferry");

    /** Somebody goes through a door. */
    private record Passage(DoorId door, Instant at, Side from, long comes, long goes) {}

    final MemoryLog log = new MemoryLog();
    final Random random;
    final Map<CameraId, Set<DoorId>> sees = new HashMap<>();
    /** From outside, unless it is said here. */
    final Set<CameraId> inside = new HashSet<>();

    private final List<Door> doors = new ArrayList<>();
    private final List<Camera> cameras = new ArrayList<>();
    private final Map<DoorId, List<Passage>> passages = new HashMap<>();
    private long number;
    /** How often something moves in a picture that has nothing to do with a door. */
    double stirs = 0.05;
    /** How often there is no still. */
    double missing;
    /** How much too late pictures are, against doors. */
    Duration late = Duration.ZERO;
    /** How much later some cameras are besides. */
    final Map<CameraId, Duration> later = new HashMap<>();
    /** Cameras that never give a picture. */
    final Set<CameraId> blind = new HashSet<>();
    /** How far each still may lie from where it should. */
    int jitterMillis = 100;

    int asked;

    SimulatedPlace(long seed) {
        random = new Random(seed);
    }

    DoorId door(String name, DoorCapability... can) {
        return door(name, SITE, can);
    }

    DoorId door(String name, SiteId site, DoorCapability... can) {
        DoorId id = new DoorId("tidewater/" + name);
        doors.add(new Door(
                id,
                SYSTEM,
                new ControllerId("tidewater/c1"),
                name,
                site,
                "0",
                "",
                "",
                Duration.ofSeconds(60),
                can.length == 0 ? Set.of(DoorCapability.CONTACT) : Set.of(can)));
        return id;
    }

    CameraId camera(String name, DoorId... shown) {
        CameraId id = new CameraId("lanthorn/" + name);
        cameras.add(new Camera(id, RECORDER, name, SITE));
        sees.put(id, Set.of(shown));
        return id;
    }

    SiteModel sites() {
        return new SiteModel(
                List.of(
                        new Site(SITE, "Harbour House", java.time.ZoneOffset.UTC),
                        new Site(OTHER, "Ferry House", java.time.ZoneOffset.UTC)),
                doors,
                cameras,
                List.of());
    }

    /** A door opens, so many seconds before the end. */
    void opens(DoorId door, double before, Side from) {
        Instant at = END.minusMillis(Math.round(before * 1000));
        passages.computeIfAbsent(door, d -> new ArrayList<>())
                .add(new Passage(door, at, from, -1_600 - random.nextInt(2_000), 400 + random.nextInt(600)));
        log.store(
                event(at.minusMillis(900), Kinds.GRANTED).door(door).side(from).build(),
                event(at, Kinds.OPENED).door(door).build(),
                event(at.plusSeconds(4), Kinds.CLOSED).door(door).build());
    }

    private Event.Builder event(Instant at, org.custodia.core.event.EventKind kind) {
        return Event.of(new EventKey(SYSTEM, 1, ++number), kind, at);
    }

    /** Each door opens so often, at random in the hours before the end. */
    void opensAtRandom(int times, int seconds) {
        for (Door door : doors) {
            for (int i = 0; i < times; i++) {
                opens(door.id(), 120 + random.nextInt(seconds), random.nextBoolean() ? Side.ENTRY : Side.EXIT);
            }
        }
    }

    @Override
    public Glimpse at(Camera camera, Instant instant) throws IOException {
        asked++;
        if (random.nextDouble() < missing || blind.contains(camera.id())) {
            throw new IOException("no picture");
        }
        Instant shown = instant.minus(late)
                .minus(later.getOrDefault(camera.id(), Duration.ZERO))
                .plusMillis(jitterMillis == 0 ? 0 : random.nextInt(2 * jitterMillis) - jitterMillis);
        Random room = new Random(camera.id().hashCode());
        double light = 0.7 + 0.3 * Math.sin(shown.getEpochSecond() / 9_000.0);
        int[] cells = new int[Glimpse.CELLS];
        for (int i = 0; i < cells.length; i++) {
            cells[i] = 60 + room.nextInt(120);
        }
        int place = 0;
        for (DoorId door : sees.get(camera.id())) {
            for (Passage p : passages.getOrDefault(door, List.of())) {
                draw(cells, p, shown, place, inside.contains(camera.id()));
            }
            place++;
        }
        if (random.nextDouble() < stirs) {
            block(cells, 18 + random.nextInt(8), 8 + random.nextInt(4), 3, 4, 10);
        }
        // A clock in the corner.
        for (int i = 0; i < 9; i++) {
            cells[i] = random.nextBoolean() ? 30 : 220;
        }
        for (int i = 0; i < cells.length; i++) {
            cells[i] = (int) Math.max(0, Math.min(255, cells[i] * light + random.nextGaussian() * 2));
        }
        return Glimpse.ofCells(instant, cells);
    }

    private static void draw(int[] cells, Passage p, Instant shown, int place, boolean inside) {
        long since = Duration.between(p.at(), shown).toMillis();
        if (since >= 0 && since < 4_000) {
            block(cells, 4 + 12 * place, 6, 3, 6, 20);
        }
        boolean near = (p.from() == Side.ENTRY) != inside;
        if (near ? since > p.comes() && since < p.goes() : since > p.goes() && since < p.goes() + 2_500) {
            block(cells, 8 + 12 * place, 8, 3, 8, 235);
        }
    }

    private static void block(int[] cells, int left, int top, int wide, int high, int value) {
        for (int y = top; y < Math.min(Glimpse.ROWS, top + high); y++) {
            for (int x = left; x < Math.min(Glimpse.COLUMNS, left + wide); x++) {
                cells[y * Glimpse.COLUMNS + x] = value;
            }
        }
    }

    Optional<Camera> camera(CameraId id) {
        return cameras.stream().filter(c -> c.id().equals(id)).findFirst();
    }
}
