package org.custodia.desktop.shell;

import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.custodia.core.door.DoorState;
import org.custodia.core.door.DoorWords;
import org.custodia.core.event.Priority;
import org.custodia.core.footage.ClockBook;
import org.custodia.core.link.LinkStatus;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.SiteModel;

/** Says the worst there is to say of links, controllers and clocks. */
final class Health {
    /** Clocks further apart than this are worth knowing. */
    private static final Duration CLOCKS_APART = Duration.ofMillis(1500);

    private Health() {}

    /** Words and how much they matter. */
    record Line(Priority priority, String words, String details) {}

    static Line links(
            List<LinkStatus> links, Map<DoorId, DoorState> states, SiteModel sites, Instant now, long unread) {
        StringBuilder details = new StringBuilder();
        for (LinkStatus s : links) {
            details.append(s.name()).append(": ").append(words(s, now)).append('\n');
            s.notices().forEach(n -> details.append("    ").append(n).append('\n'));
        }
        if (unread > 0) {
            details.append(unread).append(" messages and records could not be understood and are kept as they came\n");
        }
        Optional<LinkStatus> down =
                links.stream().filter(s -> s.state() == LinkStatus.State.DOWN).findFirst();
        long downCount =
                links.stream().filter(s -> s.state() == LinkStatus.State.DOWN).count();
        if (down.isPresent()) {
            String more = downCount > 1 ? " and " + (downCount - 1) + " more" : "";
            return new Line(Priority.CAUTION, down.get().name() + more + " out of reach", details.toString());
        }
        Optional<LinkStatus> reading = links.stream()
                .filter(s -> s.state() == LinkStatus.State.READING_BACKLOG)
                .findFirst();
        if (reading.isPresent()) {
            return new Line(
                    Priority.NONE,
                    String.format(
                            java.util.Locale.ROOT,
                            "reading history, %,d of %,d",
                            reading.get().done(),
                            reading.get().of()),
                    details.toString());
        }
        boolean connecting = links.stream().anyMatch(s -> s.state() == LinkStatus.State.CONNECTING);
        if (connecting) {
            return new Line(Priority.NONE, "connecting", details.toString());
        }
        List<ControllerId> lost = sites.doors().stream()
                .filter(d -> states.getOrDefault(d.id(), DoorState.UNKNOWN)
                        .outOfReachSince()
                        .isPresent())
                .map(Door::controller)
                .distinct()
                .toList();
        if (!lost.isEmpty()) {
            lost.forEach(c -> details.append("controller ").append(c).append(": out of reach\n"));
            return new Line(
                    Priority.CAUTION,
                    lost.size() + (lost.size() == 1 ? " controller" : " controllers") + " out of reach",
                    details.toString());
        }
        List<LinkStatus> odd =
                links.stream().filter(s -> !s.notices().isEmpty()).toList();
        if (!odd.isEmpty()) {
            String more = odd.size() > 1 ? " and " + (odd.size() - 1) + " more" : "";
            return new Line(Priority.LOW, odd.get(0).name() + more + ": something is odd", details.toString());
        }
        return new Line(Priority.NONE, links.size() + " links up", details.toString());
    }

    private static String words(LinkStatus s, Instant now) {
        String heard = s.lastHeard()
                .map(t -> ", heard " + DoorWords.lasted(t, now) + " ago")
                .orElse("");
        return switch (s.state()) {
            case CONNECTING -> "connecting" + s.problem().map(p -> ", " + p).orElse("");
            case READING_BACKLOG -> "reading history, " + s.done() + " of " + s.of();
            case UP -> "up" + heard;
            case DOWN ->
                "out of reach for " + DoorWords.lasted(s.since(), now) + ", "
                        + s.problem().orElse("no answer")
                        + s.retryAt()
                                .map(t -> ", next try in " + DoorWords.lasted(now, t))
                                .orElse("");
            case CLOSED -> "closed";
        };
    }

    static Line clocks(ClockBook clocks) {
        StringBuilder details = new StringBuilder();
        Duration worst = Duration.ZERO;
        for (ClockBook.Estimate r : clocks.newest().values()) {
            details.append(r.system())
                    .append(": ")
                    .append(seconds(r.ahead().abs()))
                    .append(r.ahead().isNegative() ? " behind" : " ahead")
                    .append(" ± ")
                    .append(r.uncertainty().toMillis())
                    .append(" ms, corrected\n");
            worst = r.ahead().abs().compareTo(worst) > 0 ? r.ahead().abs() : worst;
        }
        Priority priority = worst.compareTo(CLOCKS_APART) > 0 ? Priority.LOW : Priority.NONE;
        return new Line(priority, "clocks up to " + seconds(worst) + " apart", details.toString());
    }

    private static String seconds(Duration d) {
        return String.format(java.util.Locale.ROOT, "%.1f s", d.toMillis() / 1000.0);
    }
}
