package org.custodia.link;

import java.io.IOException;
import java.net.URI;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.time.format.DateTimeParseException;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.Kinds;
import org.custodia.core.footage.ClockBook;
import org.custodia.core.footage.Footage;
import org.custodia.core.link.LinkStatus;
import org.custodia.core.link.LinkStatus.State;
import org.custodia.core.link.RecorderLink;
import org.custodia.core.site.Camera;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SystemId;
import org.custodia.wire.RecorderMessages;
import org.custodia.wire.RecorderMessages.Cameras;
import org.custodia.wire.RecorderMessages.Hello;
import org.custodia.wire.RecorderMessages.WireCamera;

/** A session with a recorder: it keeps asking how its cameras are and how far its clock is ahead. */
public final class HttpRecorderLink implements RecorderLink {
    private static final Duration ASK_EVERY = Duration.ofSeconds(3);
    private static final int LARGEST_STILL = 4 * 1024 * 1024;

    private final SystemId system;
    private final Requests requests;
    private final ClockBook clocks;
    private final Counterpart counterpart;
    private final Inventory inventory;
    private final EventIntake intake;
    private final Clock clock;
    private final StatusBox status;
    private final ExecutorService executor;
    private final Thread thread;
    private volatile Map<CameraId, Footage> footage = Map.of();
    /** The cameras as the inventory was told of them last; null before that. */
    private List<Camera> told;

    private volatile boolean closed;
    private boolean lostLogged;

    /** Starts connecting at once, in the background. */
    public HttpRecorderLink(
            SystemId system, String name, URI address, String token, HttpAccessLink.Surroundings around) {
        this.system = system;
        this.clocks = around.clocks();
        this.inventory = around.inventory();
        this.intake = around.intake();
        this.clock = around.clock();
        this.executor = Executors.newCachedThreadPool(r -> HttpAccessLink.daemon(r, "link " + system + " worker"));
        this.requests = new Requests(address, token, executor);
        this.counterpart = new Counterpart(system, requests, around);
        this.status = new StatusBox(system, name, clock, around.statusListener());
        this.thread = HttpAccessLink.daemon(this::run, "link " + system);
        thread.start();
    }

    @Override
    public SystemId system() {
        return system;
    }

    @Override
    public LinkStatus status() {
        return status.get();
    }

    @Override
    public Optional<Footage> footage(CameraId camera) {
        return Optional.ofNullable(footage.get(camera));
    }

    private void run() {
        BackOff backOff = new BackOff();
        boolean greeted = false;
        while (!closed) {
            Duration wait = ASK_EVERY;
            try {
                if (!greeted) {
                    status.state(State.CONNECTING);
                    Hello hello = requests.get("hello", Hello.class);
                    counterpart.check(hello.protocol(), hello.system());
                    counterpart.measureClock();
                    counterpart.measureClock();
                    greeted = true;
                }
                counterpart.measureClock();
                cameras();
                status.heard();
                if (status.get().state() != State.UP) {
                    status.state(State.UP);
                    logBack();
                }
                backOff.reset();
            } catch (IOException | RuntimeException e) {
                if (closed) {
                    break;
                }
                greeted = false;
                wait = backOff.next();
                String problem = e instanceof LinkException ? e.getMessage() : "the connection broke";
                logLost(problem);
                status.down(problem, clock.instant().plus(wait));
            }
            try {
                Thread.sleep(wait.toMillis());
            } catch (InterruptedException e) {
                break;
            }
        }
        status.state(State.CLOSED);
    }

    private void logLost(String problem) {
        if (!lostLogged) {
            lostLogged = true;
            intake.record(counterpart.lost(clock.instant(), problem));
        }
    }

    private void logBack() {
        if (lostLogged) {
            lostLogged = false;
            intake.record(counterpart.event(Kinds.LINK_BACK, clock.instant()));
        }
    }

    private void cameras() throws IOException {
        List<WireCamera> cameras = requests.get("cameras", Cameras.class).cameras();
        Map<CameraId, Footage> now = new HashMap<>();
        for (WireCamera c : cameras) {
            now.put(
                    id(c),
                    new Footage(
                            ours(c.keptFrom()),
                            Duration.ofMillis(Math.max(0, c.readyAfterMillis())),
                            Optional.ofNullable(c.lostSince()).map(this::ours)));
        }
        List<Camera> named = cameras.stream()
                .map(c -> new Camera(id(c), system, c.name(), new SiteId(c.site())))
                .toList();
        if (!named.equals(told)) {
            inventory.cameras(system, named);
            told = named;
        }
        Map<CameraId, Footage> before = footage;
        footage = now;
        now.forEach((id, f) -> {
            boolean wasLost = Optional.ofNullable(before.get(id))
                    .flatMap(Footage::lostSince)
                    .isPresent();
            if (f.lostSince().isPresent() != wasLost) {
                Instant when = f.lostSince().orElse(clock.instant());
                intake.record(counterpart
                        .event(wasLost ? Kinds.CAMERA_BACK : Kinds.CAMERA_LOST, when)
                        .detail("camera", id.value()));
            }
        });
    }

    private CameraId id(WireCamera c) {
        return new CameraId(system.value() + "/" + c.id());
    }

    private Instant ours(Instant recorderTime) {
        return recorderTime.minus(clocks.ahead(system, recorderTime));
    }

    private Instant theirs(Instant ours) {
        return ours.plus(clocks.ahead(system, ours));
    }

    private String local(CameraId camera) {
        return camera.value().substring(system.value().length() + 1);
    }

    @Override
    public Stream live(CameraId camera) throws IOException {
        return stream("cameras/" + local(camera) + "/live");
    }

    @Override
    public Stream playback(CameraId camera, Instant from, Instant to) throws IOException {
        return stream("cameras/" + local(camera) + "/playback?from=" + theirs(from) + "&to=" + theirs(to));
    }

    private Stream stream(String path) throws IOException {
        Requests.Answer response = requests.open(path, null, null);
        return new Stream(response.body(), firstFrame(response));
    }

    private Instant firstFrame(Requests.Answer response) throws IOException {
        String header =
                response.headers().firstValue(RecorderMessages.FIRST_FRAME).orElse("missing");
        try {
            return ours(Instant.parse(header));
        } catch (DateTimeParseException e) {
            response.body().close();
            throw new LinkException(0, "the recorder does not say which instant its first frame shows");
        }
    }

    @Override
    public Still still(CameraId camera, Instant at, int width) throws IOException {
        Requests.Answer response =
                requests.open("cameras/" + local(camera) + "/still?at=" + theirs(at) + "&width=" + width, null, null);
        Instant shows = firstFrame(response);
        return new Still(requests.whole(response, LARGEST_STILL), shows);
    }

    @Override
    public void close() {
        closed = true;
        thread.interrupt();
        requests.close();
        executor.shutdownNow();
        try {
            thread.join(3_000);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }
}
