package org.custodia.practice.serve;

import io.javalin.Javalin;
import io.javalin.http.Context;
import java.io.IOException;
import java.io.InputStream;
import java.time.Clock;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.custodia.practice.place.PracticeDoor;
import org.custodia.practice.post.PostOffice;
import org.custodia.practice.recorder.Recorder;
import org.custodia.practice.timeline.Act;
import org.custodia.practice.timeline.AlarmList;
import org.custodia.practice.timeline.Timeline;

/** Makes something happen now: a small page for people, and one HTTP call for programs. */
final class ControlApi {
    private static final List<String> OWN = List.of("link-drop", "message", "post-down");

    private final Timeline timeline;
    private final List<Recorder> recorders;
    private final String token;
    private final Links links;
    private final PostOffice post;
    private final Clock clock;

    /**
     * What to do.
     *
     * @param act as in {@link Act}, or link-drop, or message, or post-down
     * @param who id or name of the person to be seen
     * @param text for act text, what a display shows
     * @param message for act message: what the link of {@code target} sends next, as it is
     */
    record Order(
            String act,
            String door,
            String badge,
            String pin,
            String who,
            Boolean outwards,
            String target,
            Double seconds,
            String text,
            String message) {
        /** What was typed is not printed. */
        @Override
        public String toString() {
            return act + (door == null ? "" : " at " + door);
        }
    }

    record Things(
            List<Named> doors,
            List<Named> cameras,
            List<Named> units,
            List<String> controllers,
            List<Named> people,
            List<String> links,
            List<String> alarms,
            List<Way> ways,
            String token) {
        /** What lets a console in is not printed. */
        @Override
        public String toString() {
            return doors.size() + " doors and other things";
        }
    }

    /** How a console reaches a system here. */
    record Way(String kind, String name, String path) {}

    record Named(String id, String name) {}

    ControlApi(Timeline timeline, List<Recorder> recorders, Links links, PostOffice post, Clock clock, String token) {
        this.post = post;
        this.timeline = timeline;
        this.recorders = List.copyOf(recorders);
        this.token = token;
        this.links = links;
        this.clock = clock;
    }

    void register(Javalin app) {
        app.get("/control", this::page);
        app.get("/control/things", ctx -> Answers.json(ctx, things()));
        app.post("/control/do", this::order);
    }

    private void page(Context ctx) throws IOException {
        try (InputStream in = ControlApi.class.getResourceAsStream("control.html")) {
            ctx.contentType("text/html; charset=utf-8").result(in.readAllBytes());
        }
    }

    private Things things() {
        return new Things(
                timeline.place().doors().stream()
                        .map(d ->
                                new Named(d.id(), d.name() + ", " + d.building().title()))
                        .toList(),
                timeline.place().cameras().stream()
                        .map(c -> new Named(c.id(), c.name()))
                        .toList(),
                timeline.systems().stream()
                        .flatMap(s -> timeline.units(s.id()).stream())
                        .map(u -> new Named(u.id(), u.name()))
                        .toList(),
                timeline.place().doors().stream()
                        .map(PracticeDoor::controller)
                        .distinct()
                        .toList(),
                timeline.people().all().stream()
                        .map(p -> new Named(p.badge(), p.name() + " (" + p.badge() + ")"))
                        .toList(),
                links(),
                timeline.systems().stream().map(s -> s.id() + AlarmList.SUFFIX).toList(),
                ways(),
                token);
    }

    private List<Way> ways() {
        List<Way> all = new ArrayList<>();
        timeline.systems().forEach(s -> all.add(new Way("access system", s.name(), "/access/" + s.id() + "/")));
        recorders.forEach(r -> all.add(new Way("recorder", r.name(), "/recorder/" + r.id() + "/")));
        return all;
    }

    private List<String> links() {
        List<String> all = new ArrayList<>();
        timeline.systems().forEach(s -> all.add(s.id()));
        all.addAll(timeline.recorders());
        return all;
    }

    private void order(Context ctx) {
        Order order = Answers.body(ctx, Order.class);
        if (order.act() == null) {
            throw new Answers.BadRequest("say which act");
        }
        long millis = order.seconds() == null ? 60_000 : Math.round(order.seconds() * 1000);
        Optional<String> problem;
        if (OWN.contains(order.act())) {
            problem = own(order, millis);
        } else {
            Act act = Act.of(order.act())
                    .door(order.door())
                    .badge(
                            order.badge(),
                            order.pin(),
                            atDesk(order) ? order.who() : person(order.who()),
                            Boolean.TRUE.equals(order.outwards()))
                    .target(order.target())
                    .command(order.text(), null)
                    .millis(order.act().equals("present") && order.seconds() == null ? 0 : millis);
            problem = timeline.act(act, clock.instant());
        }
        if (problem.isPresent()) {
            throw new Answers.BadRequest(problem.get());
        }
        ctx.status(204);
    }

    /** Whoever sits at a system's desk need not be somebody with a badge. */
    private static boolean atDesk(Order order) {
        return order.target() != null && order.target().endsWith(AlarmList.SUFFIX);
    }

    private Optional<String> own(Order order, long millis) {
        if (order.target() == null) {
            return Optional.of("say which link, or mail or web, as target");
        }
        if (order.act().equals("link-drop")) {
            links.drop(order.target(), clock.instant().plusMillis(millis));
        } else if (order.act().equals("post-down")) {
            post.down(order.target().equals("web"), clock.instant().plusMillis(millis));
        } else {
            links.feed(order.target(), String.valueOf(order.message()));
        }
        return Optional.empty();
    }

    private String person(String who) {
        if (who == null) {
            return null;
        }
        return timeline.people().all().stream()
                .filter(p ->
                        p.id().equals(who) || p.name().equals(who) || p.badge().equals(who))
                .findFirst()
                .map(p -> p.id())
                .orElse(null);
    }
}
