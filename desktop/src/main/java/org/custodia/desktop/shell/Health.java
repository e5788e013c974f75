package org.custodia.desktop.shell;

import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.custodia.core.door.DoorState;
import org.custodia.core.event.Priority;
import org.custodia.core.footage.ClockBook;
import org.custodia.core.link.LinkStatus;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.SiteModel;
import org.custodia.desktop.saying.SayingWords;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.words.LinkWords;

/** Says the worst there is to say of links, controllers and clocks. */
final class Health {
    private static final Texts TEXTS = Texts.of(Health.class);

    /** Clocks further apart than this are worth knowing. */
    private static final Duration CLOCKS_APART = Duration.ofMillis(1500);

    private Health() {}

    /** Words and how much they matter. */
    record Line(Priority priority, String words, String details) {}

    static Line links(
            List<LinkStatus> links, Map<DoorId, DoorState> states, SiteModel sites, Instant now, long unread) {
        StringBuilder details = new StringBuilder();
        for (LinkStatus s : links) {
            details.append(TEXTS.say("detail", s.name(), LinkWords.of(s, now))).append('\n');
            s.notices()
                    .forEach(n ->
                            details.append("    ").append(SayingWords.of(n)).append('\n'));
        }
        if (unread > 0) {
            details.append(TEXTS.say("detail-unread", unread)).append('\n');
        }
        Optional<LinkStatus> down =
                links.stream().filter(s -> s.state() == LinkStatus.State.DOWN).findFirst();
        long downCount =
                links.stream().filter(s -> s.state() == LinkStatus.State.DOWN).count();
        if (down.isPresent()) {
            String words = downCount > 1
                    ? TEXTS.say("out-of-reach-more", down.get().name(), downCount - 1)
                    : TEXTS.say("out-of-reach", down.get().name());
            return new Line(Priority.CAUTION, words, details.toString());
        }
        Optional<LinkStatus> reading = links.stream()
                .filter(s -> s.state() == LinkStatus.State.READING_BACKLOG)
                .findFirst();
        if (reading.isPresent()) {
            return new Line(
                    Priority.NONE,
                    TEXTS.say(
                            "reading-history",
                            reading.get().done(),
                            reading.get().of()),
                    details.toString());
        }
        boolean connecting = links.stream().anyMatch(s -> s.state() == LinkStatus.State.CONNECTING);
        if (connecting) {
            return new Line(Priority.NONE, TEXTS.say("connecting"), details.toString());
        }
        List<LinkStatus> paused =
                links.stream().filter(s -> s.state() == LinkStatus.State.CLOSED).toList();
        List<ControllerId> lost = sites.doors().stream()
                .filter(d -> paused.stream().noneMatch(s -> s.system().equals(d.system())))
                .filter(d -> states.getOrDefault(d.id(), DoorState.UNKNOWN)
                        .outOfReachSince()
                        .isPresent())
                .map(Door::controller)
                .distinct()
                .toList();
        if (!lost.isEmpty()) {
            lost.forEach(c -> details.append(TEXTS.say("detail-controller", c)).append('\n'));
            return new Line(Priority.CAUTION, TEXTS.say("controllers-out-of-reach", lost.size()), details.toString());
        }
        if (links.isEmpty()) {
            return new Line(Priority.NONE, TEXTS.say("no-links"), TEXTS.say("no-links-tip"));
        }
        if (!paused.isEmpty()) {
            String words = paused.size() > 1
                    ? TEXTS.say("paused-more", paused.get(0).name(), paused.size() - 1)
                    : TEXTS.say("paused", paused.get(0).name());
            return new Line(Priority.LOW, words, details.toString());
        }
        List<LinkStatus> odd =
                links.stream().filter(s -> !s.notices().isEmpty()).toList();
        if (!odd.isEmpty()) {
            String words = odd.size() > 1
                    ? TEXTS.say("something-odd-more", odd.get(0).name(), odd.size() - 1)
                    : TEXTS.say("something-odd", odd.get(0).name());
            return new Line(Priority.LOW, words, details.toString());
        }
        return new Line(Priority.NONE, TEXTS.say("links-up", links.size()), details.toString());
    }

    static Line clocks(ClockBook clocks) {
        StringBuilder details = new StringBuilder();
        if (clocks.newest().isEmpty()) {
            return new Line(Priority.NONE, "", "");
        }
        Duration worst = Duration.ZERO;
        for (ClockBook.Estimate r : clocks.newest().values()) {
            details.append(TEXTS.say(
                            r.ahead().isNegative() ? "clock-behind" : "clock-ahead",
                            r.system(),
                            seconds(r.ahead().abs()),
                            r.uncertainty().toMillis()))
                    .append('\n');
            worst = r.ahead().abs().compareTo(worst) > 0 ? r.ahead().abs() : worst;
        }
        Priority priority = worst.compareTo(CLOCKS_APART) > 0 ? Priority.LOW : Priority.NONE;
        return new Line(priority, TEXTS.say("clocks-apart", seconds(worst)), details.toString());
    }

    private static double seconds(Duration d) {
        return d.toMillis() / 1000.0;
    }
}
