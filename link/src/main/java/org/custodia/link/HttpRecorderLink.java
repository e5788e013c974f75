package org.custodia.link;

import java.io.IOException;
import java.time.Clock;
import java.time.DateTimeException;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.EventIntake.Unread;
import org.custodia.core.event.EventLog;
import org.custodia.core.event.EventLogException;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Kinds;
import org.custodia.core.footage.ClockBook;
import org.custodia.core.footage.Footage;
import org.custodia.core.footage.JpegSize;
import org.custodia.core.link.ClockSource;
import org.custodia.core.link.LinkStatus;
import org.custodia.core.link.LinkStatus.State;
import org.custodia.core.link.RecorderLink;
import org.custodia.core.mishap.Threads;
import org.custodia.core.saying.Saying;
import org.custodia.core.saying.Says;
import org.custodia.core.site.Camera;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SystemId;
import org.custodia.wire.Fields;
import org.custodia.wire.RecorderMessages;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** A session with a recorder: it keeps asking how its cameras are and how far its clock is ahead. */
public final class HttpRecorderLink implements RecorderLink {
    private static final Logger LOG = LoggerFactory.getLogger(HttpRecorderLink.class);
    private static final Duration ASK_EVERY = Duration.ofSeconds(3);
    /** More gaps than this of one camera are not told apart. */
    private static final int MOST_MISSING = 2_000;

    private static final int LARGEST_STILL = 4 * 1024 * 1024;

    private final SystemId system;
    private final Requests requests;
    private final ClockBook clocks;
    private final Counterpart counterpart;
    private final Inventory inventory;
    private final EventIntake intake;
    private final EventLog log;
    private final Clock clock;
    private final Pace pace;
    private final StatusBox status;
    private final ExecutorService executor;
    private final Thread thread;
    private volatile Map<CameraId, Footage> footage = Map.of();
    /** The cameras as the inventory was told of them last; null before that. */
    private List<Camera> told;

    /** Whether the log's last word on a camera is that it is lost. */
    private final Map<CameraId, Boolean> lostCameras = new ConcurrentHashMap<>();

    /** The oldest that each camera had when it was first heard of, by the recorder's clock. */
    private final Map<CameraId, Instant> firstKept = new HashMap<>();

    private boolean logAsked;
    private volatile boolean closed;

    /** Starts connecting at once, in the background. */
    public HttpRecorderLink(LinkFactory.Destination to, Surroundings around) {
        this.system = to.system();
        this.clocks = around.clocks();
        this.inventory = around.inventory();
        this.intake = around.intake();
        this.clock = around.clock();
        this.pace = around.pace();
        this.log = around.log();
        this.executor = Executors.newCachedThreadPool(Threads.factory("link " + system + " worker"));
        this.requests = new Requests(to, executor);
        this.counterpart = new Counterpart(system, requests, around);
        this.status = new StatusBox(system, to.name(), clock, around.statusListener());
        this.thread = Threads.daemon("link " + system, this::run);
        thread.start();
    }

    @Override
    public SystemId system() {
        return system;
    }

    @Override
    public Optional<ClockSource> clockSource() {
        return counterpart.clockSource();
    }

    @Override
    public void syncClock() throws IOException {
        counterpart.syncClock();
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
        BackOff backOff = new BackOff(pace);
        boolean greeted = false;
        while (!closed) {
            Duration wait = pace.of(ASK_EVERY);
            Saying problem = null;
            try {
                if (!greeted) {
                    status.state(State.CONNECTING);
                    counterpart.hello().word("make").ifPresent(status::make);
                    counterpart.measureClock();
                    counterpart.measureClock();
                    greeted = true;
                }
                counterpart.measureClock();
                cameras();
                status.heard();
                if (status.get().state() != State.UP) {
                    counterpart.logBack();
                    status.state(State.UP);
                }
                backOff.reset();
            } catch (LinkException | EventLogException e) {
                problem = Says.of(e, Saying.of("link.broke"));
            } catch (IOException e) {
                problem = Saying.of("link.broke");
            } catch (RuntimeException | Error e) {
                Threads.stumbled(e);
                problem = Saying.of("link.stumbled");
            }
            if (closed) {
                break;
            }
            if (problem != null) {
                greeted = false;
                wait = backOff.next();
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

    private void logLost(Saying problem) {
        try {
            counterpart.logLost(status.get().lastHeard().orElse(clock.instant()), problem);
        } catch (EventLogException e) {
            LOG.debug("The log could not be asked; it is asked again");
        }
    }

    private void cameras() throws IOException {
        Fields answer = requests.fields("cameras");
        if (!answer.hasList("cameras")) {
            throw LinkException.unreadable("link.answer-odd", "cameras", "cameras");
        }
        Map<CameraId, Footage> now = new HashMap<>();
        List<Camera> named = new ArrayList<>();
        int odd = 0;
        for (Fields c : answer.list("cameras")) {
            Optional<Camera> camera = camera(c);
            if (camera.isEmpty()) {
                odd++;
                intake.keepUnread(Unread.of(system, clock.instant(), c.json(), Saying.of("inventory.camera-id")));
                continue;
            }
            named.add(camera.get());
            now.put(
                    camera.get().id(),
                    new Footage(
                            c.instant("keptFrom").map(this::ours).orElse(Instant.EPOCH),
                            Duration.ofMillis(
                                    Math.max(0, c.number("readyAfterMillis").orElse(0L))),
                            c.instant("lostSince").map(this::ours),
                            missing(c),
                            rolls(camera.get().id(), c.instant("keptFrom"))));
        }
        if (odd > 0) {
            status.notice("odd cameras", Saying.of("link.cameras-left-out", odd));
        } else {
            status.settled("odd cameras");
        }
        if (!named.equals(told)) {
            inventory.cameras(system, named);
            told = named;
        }
        footage = now;
        logCameras(now);
    }

    /** Spans that were not recorded, as far as they can be read. */
    private List<Footage.Missing> missing(Fields c) {
        List<Footage.Missing> all = new ArrayList<>();
        for (Fields m : c.list("missing")) {
            Optional<Instant> from = m.instant("from").map(this::ours);
            Optional<Instant> to = m.instant("to").map(this::ours);
            if (from.isPresent() && to.isPresent() && from.get().isBefore(to.get()) && all.size() < MOST_MISSING) {
                all.add(new Footage.Missing(from.get(), to.get()));
            }
        }
        return all;
    }

    /** Whether the oldest that is kept has moved on since it was first heard of. */
    private boolean rolls(CameraId camera, Optional<Instant> keptFrom) {
        return keptFrom.map(now -> now.isAfter(firstKept.computeIfAbsent(camera, c -> now)))
                .orElse(false);
    }

    private Optional<Camera> camera(Fields c) {
        return c.word("id").filter(id -> id.length() <= 200).map(id -> {
            CameraId camera = new CameraId(system.value() + "/" + id);
            SiteId site = new SiteId(c.word("site")
                    .filter(s -> s.length() <= 200 && !s.isBlank())
                    .orElse(system.value()));
            return new Camera(camera, system, c.word("name").orElse(id), site);
        });
    }

    /** Logs which cameras were lost and which are back, by what the log says of them, be it from an earlier run. */
    private void logCameras(Map<CameraId, Footage> now) {
        if (!logAsked) {
            counterpart
                    .lastWords(log, EventQuery.all().kinds(Kinds.CAMERA_LOST, Kinds.CAMERA_BACK), "camera")
                    .forEach((camera, event) ->
                            lostCameras.put(new CameraId(camera), event.kind().equals(Kinds.CAMERA_LOST)));
            logAsked = true;
        }
        now.forEach((id, f) -> {
            boolean isLost = f.lostSince().isPresent();
            if (isLost != lostCameras.getOrDefault(id, false)) {
                lostCameras.put(id, isLost);
                Instant when =
                        f.lostSince().filter(t -> t.isBefore(clock.instant())).orElse(clock.instant());
                intake.recordInOrder(counterpart
                                .event(isLost ? Kinds.CAMERA_LOST : Kinds.CAMERA_BACK, when)
                                .detail("camera", id.value()))
                        .whenComplete((e, failure) -> {
                            if (failure != null) {
                                lostCameras.put(id, !isLost);
                            }
                        });
            }
        });
    }

    private Instant ours(Instant recorderTime) {
        return recorderTime.minus(clocks.aheadWhenItShowed(system, recorderTime));
    }

    private Instant theirs(Instant ours) {
        return ours.plus(clocks.ahead(system, ours));
    }

    @Override
    public Duration clockAhead() {
        return clocks.ahead(system, clock.instant());
    }

    private String local(CameraId camera) {
        return Requests.segment(camera.value().substring(system.value().length() + 1));
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
        } catch (DateTimeException | ArithmeticException e) {
            response.body().close();
            throw LinkException.of("picture.no-first-instant");
        }
    }

    @Override
    public Still still(CameraId camera, Instant at, int width) throws IOException {
        Requests.Answer response =
                requests.open("cameras/" + local(camera) + "/still?at=" + theirs(at) + "&width=" + width, null, null);
        Instant shows = firstFrame(response);
        byte[] jpeg = requests.whole(response, LARGEST_STILL);
        if (JpegSize.of(jpeg).filter(JpegSize::reasonable).isEmpty()) {
            throw LinkException.of("picture.no-jpeg");
        }
        return new Still(jpeg, shows);
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
