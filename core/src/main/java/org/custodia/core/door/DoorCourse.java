package org.custodia.core.door;

import java.time.DateTimeException;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.function.BiConsumer;
import org.custodia.core.door.DoorState.Next;
import org.custodia.core.door.DoorState.Position;
import org.custodia.core.event.Coverage;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Kinds;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorCapability;

/**
 * What is known of a door after everything up to some event, with all that later answers need: not only how it stands, but
 * what allowed it to be opened, which grants still wait for their opening, and up to which number that holds. Going on from
 * a copy gives the same as having gone through everything. Not safe for use by several threads.
 */
final class DoorCourse {
    /** How long after a grant the leaf may move for it to be that person's passage. */
    static final Duration PASSAGE_WINDOW = Duration.ofSeconds(10);
    /** How far back something may lie that allowed a door to open, when a forced door is derived. */
    static final Duration ALLOWING_WINDOW = Duration.ofSeconds(10);

    /** Whether something allowed the leaf to move. */
    private enum Allowed {
        YES,
        NO,
        /** Nobody saw it move, or how the lock stood is not known. */
        CANNOT_TELL
    }

    /** A grant that waits for its opening; in doubt where something stands against telling that nobody came. */
    private record Waiting(EventKey key, Instant time, boolean inDoubt) {}

    private final Door door;
    private final boolean contact;
    private Position position = Position.UNKNOWN;
    private Optional<Instant> positionSince = Optional.empty();
    private LockMode lock = LockMode.UNKNOWN;
    private Optional<String> lockBy = Optional.empty();
    private Optional<Instant> lockUntil = Optional.empty();
    private Optional<Next> next = Optional.empty();
    private boolean readerOff;
    private Optional<Instant> controllerLost = Optional.empty();
    private Optional<Instant> linkLost = Optional.empty();
    private Optional<Instant> reportedForced = Optional.empty();
    private Optional<Instant> reportedHeld = Optional.empty();
    private Allowed allowed = Allowed.CANNOT_TELL;
    /** From when the time counts for which it may stand open; nothing while it may stand open for ever. */
    private Optional<Instant> heldFrom = Optional.empty();
    /** An exit request or a release that no opening has followed yet. */
    private Optional<Instant> otherWay = Optional.empty();

    private Optional<Instant> lastAllowing = Optional.empty();
    private List<Waiting> waiting = new ArrayList<>();
    private Optional<EventKey> asOf = Optional.empty();

    /** Knows nothing yet. */
    DoorCourse(Door door) {
        this.door = door;
        this.contact = door.can(DoorCapability.CONTACT);
    }

    DoorCourse copy() {
        DoorCourse c = new DoorCourse(door);
        c.position = position;
        c.positionSince = positionSince;
        c.lock = lock;
        c.lockBy = lockBy;
        c.lockUntil = lockUntil;
        c.next = next;
        c.readerOff = readerOff;
        c.controllerLost = controllerLost;
        c.linkLost = linkLost;
        c.reportedForced = reportedForced;
        c.reportedHeld = reportedHeld;
        c.allowed = allowed;
        c.heldFrom = heldFrom;
        c.otherWay = otherWay;
        c.lastAllowing = lastAllowing;
        c.waiting = new ArrayList<>(waiting);
        c.asOf = asOf;
        return c;
    }

    private static final String FORM = "1";
    private static final String NEXT = "\u001f";
    private static final String WITHIN = "\u001e";

    /** As text, for {@link #read}. */
    String write() {
        List<String> grants = waiting.stream()
                .map(w -> w.key().text() + WITHIN + w.time() + WITHIN + w.inDoubt())
                .toList();
        return String.join(
                NEXT,
                FORM,
                position.name(),
                text(positionSince),
                lock.name(),
                // Blank before it, so that an empty word is not taken for none.
                lockBy.map(by -> " " + by.replace(NEXT, " ").replace(WITHIN, " "))
                        .orElse(""),
                text(lockUntil),
                next.map(n -> n.lock().name() + WITHIN + n.at()).orElse(""),
                Boolean.toString(readerOff),
                text(controllerLost),
                text(linkLost),
                text(reportedForced),
                text(reportedHeld),
                allowed.name(),
                text(heldFrom),
                text(otherWay),
                text(lastAllowing),
                asOf.map(EventKey::text).orElse(""),
                String.join(WITHIN + WITHIN, grants));
    }

    private static String text(Optional<Instant> instant) {
        return instant.map(Instant::toString).orElse("");
    }

    /** What {@link #write} wrote; nothing if it is anything else. */
    static Optional<DoorCourse> read(Door door, String text) {
        String[] parts = text.split(NEXT, -1);
        if (parts.length != 18 || !parts[0].equals(FORM)) {
            return Optional.empty();
        }
        try {
            DoorCourse c = new DoorCourse(door);
            c.position = Position.valueOf(parts[1]);
            c.positionSince = instant(parts[2]);
            c.lock = LockMode.valueOf(parts[3]);
            c.lockBy = parts[4].isEmpty() ? Optional.empty() : Optional.of(parts[4].substring(1));
            c.lockUntil = instant(parts[5]);
            if (!parts[6].isEmpty()) {
                String[] change = parts[6].split(WITHIN);
                c.next = Optional.of(new Next(LockMode.valueOf(change[0]), Instant.parse(change[1])));
            }
            c.readerOff = Boolean.parseBoolean(parts[7]);
            c.controllerLost = instant(parts[8]);
            c.linkLost = instant(parts[9]);
            c.reportedForced = instant(parts[10]);
            c.reportedHeld = instant(parts[11]);
            c.allowed = Allowed.valueOf(parts[12]);
            c.heldFrom = instant(parts[13]);
            c.otherWay = instant(parts[14]);
            c.lastAllowing = instant(parts[15]);
            c.asOf = parts[16].isEmpty() ? Optional.empty() : Optional.of(key(parts[16]));
            for (String grant : parts[17].isEmpty() ? new String[0] : parts[17].split(WITHIN + WITHIN)) {
                String[] of = grant.split(WITHIN);
                c.waiting.add(new Waiting(key(of[0]), Instant.parse(of[1]), Boolean.parseBoolean(of[2])));
            }
            return Optional.of(c);
        } catch (IllegalArgumentException | DateTimeException | ArrayIndexOutOfBoundsException e) {
            return Optional.empty();
        }
    }

    private static EventKey key(String text) {
        return EventKey.parse(text).orElseThrow(() -> new IllegalArgumentException("no key: " + text));
    }

    private static Optional<Instant> instant(String text) {
        return text.isEmpty() ? Optional.empty() : Optional.of(Instant.parse(text));
    }

    boolean open() {
        return position == Position.OPEN;
    }

    Optional<Instant> openSince() {
        return open() ? positionSince : Optional.empty();
    }

    /** The link was lost before anything else that is known. */
    void linkWasLost(Instant since) {
        linkLost = Optional.of(since);
    }

    /**
     * Goes on by one event.
     *
     * @param outcomes told what became of grants, as soon as it is known
     */
    void apply(DoorFact fact, BiConsumer<EventKey, GrantOutcome> outcomes) {
        settle(fact.time(), outcomes);
        EventKind kind = fact.kind();
        if (DoorFact.ofALink().contains(kind)) {
            linkLost = kind.equals(Kinds.LINK_BACK) ? Optional.empty() : linkLost.or(() -> Optional.of(fact.time()));
            doubtIfOutOfReach();
            return;
        }
        if (kind.equals(Kinds.REPORT)) {
            if (!stale(fact)) {
                report(fact, outcomes);
                counted(fact);
            }
            return;
        }
        counted(fact);
        if (kind.equals(Kinds.OPENED)) {
            if (contact && !open()) {
                opened(fact.time(), outcomes);
            }
        } else if (kind.equals(Kinds.CLOSED)) {
            closed(fact.time(), outcomes);
        } else if (kind.equals(Kinds.FORCED)) {
            foundOpen(fact.time(), outcomes);
            reportedForced = reportedForced.or(() -> Optional.of(fact.time()));
        } else if (kind.equals(Kinds.HELD)) {
            foundOpen(fact.time(), outcomes);
            reportedHeld = reportedHeld.or(() -> Optional.of(fact.time()));
        } else if (kind.equals(Kinds.MODE)) {
            lock(fact);
        } else if (kind.equals(Kinds.READER_OFF) || kind.equals(Kinds.READER_ON)) {
            readerOff = kind.equals(Kinds.READER_OFF);
        } else if (kind.equals(Kinds.CONTROLLER_LOST)) {
            controllerLost = controllerLost.or(() -> Optional.of(fact.time()));
            doubtIfOutOfReach();
        } else if (kind.equals(Kinds.CONTROLLER_BACK)) {
            controllerLost = Optional.empty();
        } else if (kind.equals(Kinds.GRANTED)) {
            granted(fact, outcomes);
        } else if (kind.equals(Kinds.RELEASED) || kind.equals(Kinds.EXIT_REQUESTED)) {
            otherWay = Optional.of(fact.time());
            lastAllowing = Optional.of(fact.time());
        }
    }

    private void counted(DoorFact fact) {
        Optional<EventKey> number = fact.asOf(door);
        if (number.isPresent()
                && (asOf.isEmpty() || asOf.get().epoch() != number.get().epoch() || later(number.get(), asOf.get()))) {
            asOf = number;
        }
    }

    private static boolean later(EventKey a, EventKey b) {
        return a.sequence() > b.sequence();
    }

    /** Whether a report tells how things were before something that is known already. */
    private boolean stale(DoorFact report) {
        Optional<EventKey> number = report.asOf(door);
        return number.isPresent()
                && asOf.isPresent()
                && number.get().systemsEpoch() == asOf.get().systemsEpoch()
                && later(asOf.get(), number.get())
                // A number that far ahead is stray: it says nothing of what came before it.
                && asOf.get().sequence() - number.get().sequence() <= Coverage.STRAY;
    }

    private void granted(DoorFact fact, BiConsumer<EventKey, GrantOutcome> outcomes) {
        lastAllowing = Optional.of(fact.time());
        if (!contact || open()) {
            outcomes.accept(fact.key(), GrantOutcome.CANNOT_TELL);
        } else {
            waiting.add(new Waiting(fact.key(), fact.time(), outOfReachSince().isPresent()));
        }
    }

    private void doubtIfOutOfReach() {
        if (outOfReachSince().isPresent()) {
            waiting.replaceAll(w -> new Waiting(w.key(), w.time(), true));
        }
    }

    private Optional<Instant> outOfReachSince() {
        if (controllerLost.isPresent() && linkLost.isPresent()) {
            return controllerLost.get().isBefore(linkLost.get()) ? controllerLost : linkLost;
        }
        return controllerLost.or(() -> linkLost);
    }

    /** The leaf moved, and its contact said so. */
    private void opened(Instant time, BiConsumer<EventKey, GrantOutcome> outcomes) {
        boolean another =
                otherWay.filter(t -> !t.isBefore(time.minus(PASSAGE_WINDOW))).isPresent();
        if (!waiting.isEmpty()) {
            // Where somebody else could have opened it as well, nobody can say who did.
            Waiting first = waiting.remove(0);
            outcomes.accept(first.key(), another ? GrantOutcome.CANNOT_TELL : GrantOutcome.WENT_THROUGH);
        }
        cannotTell(outcomes);
        otherWay = Optional.empty();
        allowed = allowedAt(time);
        nowOpen(time);
    }

    private Allowed allowedAt(Instant time) {
        if (lastAllowing.filter(t -> !t.isBefore(time.minus(ALLOWING_WINDOW))).isPresent()) {
            return Allowed.YES;
        }
        return switch (lock) {
            case UNLOCKED -> Allowed.YES;
            case UNKNOWN -> Allowed.CANNOT_TELL;
            case LOCKED, BLOCKED -> Allowed.NO;
        };
    }

    /** It stands open, and nobody has heard it being opened. */
    private void foundOpen(Instant since, BiConsumer<EventKey, GrantOutcome> outcomes) {
        if (contact && !open()) {
            cannotTell(outcomes);
            allowed = Allowed.CANNOT_TELL;
            nowOpen(since);
        }
    }

    private void nowOpen(Instant since) {
        position = Position.OPEN;
        positionSince = Optional.of(since);
        reportedForced = Optional.empty();
        reportedHeld = Optional.empty();
        heldFrom = lock == LockMode.UNLOCKED ? Optional.empty() : Optional.of(since);
    }

    private void closed(Instant time, BiConsumer<EventKey, GrantOutcome> outcomes) {
        if (!contact) {
            reportedForced = Optional.empty();
            reportedHeld = Optional.empty();
            return;
        }
        if (!open()) {
            // A leaf that closes was open: somebody may have gone through whom nobody saw open it.
            cannotTell(outcomes);
        }
        nowClosed(time);
    }

    private void nowClosed(Instant since) {
        position = Position.CLOSED;
        positionSince = Optional.of(since);
        reportedForced = Optional.empty();
        reportedHeld = Optional.empty();
        heldFrom = Optional.empty();
        allowed = Allowed.CANNOT_TELL;
    }

    private void cannotTell(BiConsumer<EventKey, GrantOutcome> outcomes) {
        waiting.forEach(w -> outcomes.accept(w.key(), GrantOutcome.CANNOT_TELL));
        waiting.clear();
    }

    private void lock(DoorFact fact) {
        fact.detail("mode").map(LockMode::parse).ifPresent(mode -> lock = mode);
        lockBy = fact.detail("by");
        lockUntil = fact.instant("until");
        next = fact.detail("next-mode")
                .flatMap(m -> fact.instant("next-at").map(at -> new Next(LockMode.parse(m), at)));
        if (open()) {
            heldFrom = lock == LockMode.UNLOCKED ? Optional.empty() : heldFrom.or(() -> Optional.of(fact.time()));
        }
    }

    private void report(DoorFact fact, BiConsumer<EventKey, GrantOutcome> outcomes) {
        lock(fact);
        readerOff = fact.detail("reader").equals(Optional.of("off"));
        boolean lost = fact.detail("reach").equals(Optional.of("lost"));
        controllerLost = !lost
                ? Optional.empty()
                : fact.instant("reach-since").or(() -> controllerLost).or(() -> Optional.of(fact.time()));
        doubtIfOutOfReach();
        Optional<String> leaf = contact ? fact.position() : Optional.empty();
        Optional<Instant> since = fact.instant("position-since").filter(t -> !t.isAfter(fact.time()));
        if (leaf.equals(Optional.of("open"))) {
            foundOpen(since.orElse(fact.time()), outcomes);
        } else if (leaf.equals(Optional.of("closed"))) {
            reportedClosed(fact, since, outcomes);
        }
        if (open() || !contact) {
            reportedForced = fact.instant("forced-since").map(f -> reportedForced.orElse(f));
            reportedHeld = fact.instant("held-since").map(h -> reportedHeld.orElse(h));
        }
    }

    private void reportedClosed(DoorFact fact, Optional<Instant> since, BiConsumer<EventKey, GrantOutcome> outcomes) {
        if (position == Position.CLOSED) {
            // It may have been open in between, and nobody saw it.
            boolean moved = since.isPresent()
                    && positionSince
                            .filter(t -> since.get().isAfter(t.plus(MOVED)))
                            .isPresent()
                    && waiting.stream().anyMatch(w -> since.get().isAfter(w.time()));
            if (moved) {
                cannotTell(outcomes);
            }
            positionSince = since.or(() -> positionSince);
        } else {
            if (open()) {
                cannotTell(outcomes);
            }
            nowClosed(since.orElse(fact.time()));
        }
    }

    /** Two times that a system gives for one movement lie no further apart. */
    private static final Duration MOVED = Duration.ofMillis(1_500);

    /**
     * Settles the grants whose time is over.
     *
     * @param now anything up to here is known
     */
    void settle(Instant now, BiConsumer<EventKey, GrantOutcome> outcomes) {
        while (!waiting.isEmpty() && now.isAfter(waiting.get(0).time().plus(PASSAGE_WINDOW))) {
            Waiting grant = waiting.remove(0);
            boolean doubt = grant.inDoubt() || position == Position.UNKNOWN;
            outcomes.accept(grant.key(), doubt ? GrantOutcome.CANNOT_TELL : GrantOutcome.NOBODY_ENTERED);
        }
    }

    /** The grants that still wait. */
    List<EventKey> pending() {
        return waiting.stream().map(Waiting::key).toList();
    }

    /**
     * How the door stands.
     *
     * @param lasting the instant up to which what lasts is counted, for deriving what the controller does not decide
     */
    DoorState state(Instant lasting) {
        Optional<Instant> forced = forcedSince(lasting);
        return new DoorState(
                position,
                positionSince,
                lock,
                lockBy,
                lockUntil,
                next,
                forced,
                heldSince().filter(t -> !t.isAfter(lasting)),
                outOfReachSince(),
                readerOff);
    }

    private Optional<Instant> forcedSince(Instant lasting) {
        if (!contact) {
            // Nothing will ever say that it is closed again.
            return reportedForced.filter(t -> lasting.isBefore(t.plus(door.heldLimit())));
        }
        return forced().filter(f -> f).flatMap(f -> reportedForced.or(this::openSince));
    }

    /** Whether it was forced open; nothing while it is not open. */
    Optional<Boolean> forced() {
        if (!open()) {
            return Optional.empty();
        }
        return Optional.of(
                reportedForced.isPresent() || !door.can(DoorCapability.REPORTS_FORCED) && allowed == Allowed.NO);
    }

    /** The same where the controller has not said so and does not decide that; nothing otherwise. */
    Optional<Instant> heldByLimit() {
        return reportedHeld.isPresent() || door.can(DoorCapability.REPORTS_HELD) ? Optional.empty() : heldSince();
    }

    /** From when it is open for longer than its limit; may lie ahead. */
    Optional<Instant> heldSince() {
        if (!contact || door.can(DoorCapability.REPORTS_HELD)) {
            return reportedHeld;
        }
        return reportedHeld.or(() -> open() ? heldFrom.map(t -> t.plus(door.heldLimit())) : Optional.empty());
    }
}
