package org.custodia.practice.serve;

import io.javalin.Javalin;
import io.javalin.http.Context;
import java.io.IOException;
import java.io.OutputStream;
import java.time.Instant;
import java.time.format.DateTimeParseException;
import java.util.Optional;
import org.custodia.practice.place.PracticeCamera;
import org.custodia.practice.recorder.LiveCamera;
import org.custodia.practice.recorder.Recorder;
import org.custodia.wire.RecorderMessages;
import org.custodia.wire.RecorderMessages.Cameras;
import org.custodia.wire.RecorderMessages.Hello;
import org.custodia.wire.RecorderMessages.WireCamera;
import org.custodia.wire.Wire;

/** A recorder's side of the link protocol. */
final class RecorderApi {
    private final Recorder recorder;
    private final Links links;
    private final ClockApi clock;

    /**
     * @param clock answers what the recorder's clock shows
     */
    RecorderApi(Recorder recorder, Links links, ClockApi clock) {
        this.clock = clock;
        this.recorder = recorder;
        this.links = links;
    }

    void register(Javalin app) {
        String base = "/recorder/" + recorder.id() + "/";
        app.get(
                base + "hello",
                ctx -> Answers.json(ctx, new Hello(Wire.VERSION, recorder.id(), recorder.name(), "Practice recorder")));
        clock.register(app, base);
        app.get(base + "cameras", ctx -> Answers.json(ctx, cameras()));
        app.get(base + "cameras/{id}/live", this::live);
        app.get(base + "cameras/{id}/playback", this::playback);
        app.get(base + "cameras/{id}/still", this::still);
    }

    private Cameras cameras() {
        Instant keptFrom = recorder.keptFrom();
        return new Cameras(recorder.cameras().stream()
                .map(c -> new WireCamera(
                        c.id(),
                        c.name(),
                        c.building().id(),
                        PracticeCamera.WIDTH,
                        PracticeCamera.HEIGHT,
                        keptFrom,
                        recorder.readyAfter().toMillis(),
                        recorder.lostSince(c).orElse(null),
                        recorder.missing(c)))
                .toList());
    }

    private PracticeCamera camera(Context ctx) {
        return recorder.camera(ctx.pathParam("id"))
                .orElseThrow(() -> new Answers.NotFound("there is no camera " + ctx.pathParam("id")));
    }

    private static Instant instant(Context ctx, String name) {
        String text = Optional.ofNullable(ctx.queryParam(name))
                .orElseThrow(() -> new Answers.BadRequest(name + " is missing"));
        try {
            return Instant.parse(text);
        } catch (DateTimeParseException e) {
            throw new Answers.BadRequest(
                    name + " is an instant such as 2026-11-24T14:32:05.200Z, not \"" + text + "\"");
        }
    }

    private void live(Context ctx) throws IOException {
        try (LiveCamera.Watcher watcher = recorder.watch(camera(ctx))) {
            ctx.header(RecorderMessages.FIRST_FRAME, watcher.firstFrame().toString());
            OutputStream out = begin(ctx);
            long opened = links.opened(recorder.id());
            watcher.stream(out, () -> links.still(recorder.id(), opened));
            if (!links.still(recorder.id(), opened)) {
                links.cut(ctx);
            }
        }
    }

    private void playback(Context ctx) throws IOException {
        PracticeCamera camera = camera(ctx);
        Instant first = recorder.firstFrame(camera, instant(ctx, "from"));
        Instant to = instant(ctx, "to");
        if (to.isAfter(first.plusSeconds(3600))) {
            throw new Answers.BadRequest("at most an hour at a time");
        }
        ctx.header(RecorderMessages.FIRST_FRAME, first.toString());
        recorder.playback(camera, first, to, begin(ctx));
    }

    private static OutputStream begin(Context ctx) throws IOException {
        ctx.res().setContentType("video/mp2t");
        return ctx.res().getOutputStream();
    }

    private void still(Context ctx) throws IOException {
        String width = Optional.ofNullable(ctx.queryParam("width")).orElse("640");
        int wanted;
        try {
            wanted = Integer.parseInt(width);
        } catch (NumberFormatException e) {
            throw new Answers.BadRequest("width is a number, not \"" + width + "\"");
        }
        Recorder.Still still = recorder.still(camera(ctx), instant(ctx, "at"), wanted);
        ctx.header(RecorderMessages.FIRST_FRAME, still.at().toString());
        ctx.contentType("image/jpeg").result(still.jpeg());
    }
}
