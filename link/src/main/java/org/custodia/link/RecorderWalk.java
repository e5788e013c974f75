package org.custodia.link;

import java.io.IOException;
import java.io.InputStream;
import java.time.Clock;
import java.time.DateTimeException;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.function.Consumer;
import org.custodia.core.footage.JpegSize;
import org.custodia.core.link.Finding;
import org.custodia.core.link.Finding.Step;
import org.custodia.core.saying.Saying;
import org.custodia.wire.Fields;
import org.custodia.wire.RecorderMessages;

/** A walk through a recorder: its list of cameras, and pictures of the first that gives any. */
public final class RecorderWalk extends SystemWalk {
    private static final int PACKET = 188;
    private static final int SYNC = 0x47;

    private Instant theirNow = Instant.EPOCH;

    public RecorderWalk(LinkFactory.Destination to, Clock clock, Consumer<Finding> told) {
        super(to, clock, told);
    }

    /** Walks through it to the end, or as far as it lets one in. */
    @Override
    public void walk() throws InterruptedException {
        if (greeting().isEmpty()) {
            return;
        }
        wrongToken();
        unknownPath();
        part(Step.CLOCK, "GET time tells the system's time", () -> {
            clock();
            theirNow = requests.fields("time").instant("time").orElse(clock.instant());
        });
        part(Step.HAS, "GET cameras lists its cameras", this::cameras);
    }

    private void cameras() throws IOException, InterruptedException {
        Fields answer = requests.fields("cameras");
        List<String> problems = new ArrayList<>();
        Set<String> ids = new HashSet<>();
        Optional<Fields> first = Optional.empty();
        for (Fields c : answer.list("cameras")) {
            Optional<String> id = c.word("id");
            if (id.isEmpty() || id.get().length() > 200 || !ids.add(id.get())) {
                problems.add(
                        "a camera without an id, with one of more than 200 characters, or one that is there twice");
                continue;
            }
            if (c.instant("keptFrom").isEmpty()) {
                problems.add("of " + id.get() + " it does not say \"keptFrom\", so all footage is thought to be kept");
            }
            if (first.isEmpty() && c.instant("lostSince").isEmpty()) {
                first = Optional.of(c);
            }
        }
        either(
                answer.hasList("cameras") && problems.isEmpty(),
                "GET cameras lists its cameras",
                ids.size() + " cameras",
                answer.hasList("cameras") ? String.join("; ", problems) : "there is no list of cameras");
        if (first.isEmpty()) {
            step(Step.PICTURES);
            notTried("pictures", "no camera gives any");
            return;
        }
        Fields camera = first.get();
        String path = "cameras/" + Requests.segment(camera.word("id").orElseThrow());
        Duration ready = Duration.ofMillis(camera.number("readyAfterMillis").orElse(0L));
        part(Step.PICTURES, "GET cameras/ID/live streams", () -> stream(path + "/live", "GET cameras/ID/live"));
        Instant at = theirNow.minus(ready).minusSeconds(30);
        part(
                Step.PICTURES,
                "GET cameras/ID/playback streams",
                () -> stream(path + "/playback?from=" + at + "&to=" + at.plusSeconds(5), "GET cameras/ID/playback"));
        part(Step.PICTURES, "GET cameras/ID/still gives a JPEG", () -> still(path, at));
        camera.instant("keptFrom").ifPresent(kept -> overwritten(path, kept));
    }

    private Optional<Instant> firstFrame(Requests.Answer answer) {
        try {
            return answer.headers().firstValue(RecorderMessages.FIRST_FRAME).map(Instant::parse);
        } catch (DateTimeException e) {
            return Optional.empty();
        }
    }

    private void stream(String path, String requirement) throws IOException {
        Requests.Answer answer = requests.open(path, null, null);
        try (InputStream body = answer.body()) {
            Optional<Instant> first = firstFrame(answer);
            either(
                    first.isPresent(),
                    requirement + " says in " + RecorderMessages.FIRST_FRAME + " which instant its first frame shows",
                    first.map(Instant::toString).orElse(""),
                    "that header is missing or is no instant, so the picture is not shown");
            byte[] packets = body.readNBytes(3 * PACKET);
            boolean transport = packets.length == 3 * PACKET
                    && packets[0] == SYNC
                    && packets[PACKET] == SYNC
                    && packets[2 * PACKET] == SYNC;
            either(
                    transport,
                    requirement + " is an MPEG transport stream",
                    "its packets begin as they should",
                    packets.length < 3 * PACKET
                            ? "it ended after " + packets.length + " bytes"
                            : "it is something else");
        }
    }

    private void still(String path, Instant at) throws IOException {
        Requests.Answer answer = requests.open(path + "/still?at=" + at + "&width=320", null, null);
        Optional<Instant> first = firstFrame(answer);
        Optional<JpegSize> size = JpegSize.of(requests.whole(answer, 4 * 1024 * 1024));
        boolean near = first.filter(t -> !t.isAfter(at) && t.isAfter(at.minusSeconds(10)))
                .isPresent();
        either(
                size.filter(JpegSize::reasonable).isPresent() && near,
                "GET cameras/ID/still gives the last frame at or before an instant as JPEG",
                size.map(s -> s.width() + " by " + s.height()).orElse("") + ", of "
                        + first.map(t -> Duration.between(t, at).toMillis() + " ms before it")
                                .orElse(""),
                size.isEmpty()
                        ? "it is no JPEG"
                        : first.map(t -> "it is of " + t + ", asked for was " + at)
                                .orElse("the header " + RecorderMessages.FIRST_FRAME + " is missing or odd"));
    }

    private void overwritten(String path, Instant kept) {
        String requirement = "footage that is overwritten is answered with status 409 and the reason";
        try {
            requests.open(path + "/still?at=" + kept.minusSeconds(3_600) + "&width=320", null, null)
                    .body()
                    .close();
            notMet(requirement, "a still of an hour before \"keptFrom\" was given");
        } catch (LinkException e) {
            either(
                    e.status() == 409,
                    requirement,
                    Saying.of("check.it-says", e.saying()),
                    seen("it answered with status " + e.status()));
        } catch (IOException e) {
            tell(requirement, Finding.Verdict.NOT_MET, LinkException.saying(e));
        }
    }
}
