package org.custodia.practice.timeline;

import java.time.DayOfWeek;
import java.time.Instant;
import java.time.ZonedDateTime;
import java.util.EnumSet;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.custodia.core.access.AccessRules;
import org.custodia.core.access.AccessRules.DoorRules;
import org.custodia.core.access.AccessRules.Request;
import org.custodia.core.access.Credential;
import org.custodia.core.access.Decision;
import org.custodia.core.access.Pin;
import org.custodia.core.access.Timetable;
import org.custodia.core.event.Reasons;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.Side;
import org.custodia.practice.place.PracticeDoor;
import org.custodia.practice.timeline.AccessSystem.Draft;

/** A controller's part for one door: it decides by its own copy, drives the lock and watches the contact. */
final class DoorControl {
    /** How long a second person has to follow, in milliseconds. */
    static final long SECOND_PERSON = 15_000;
    /** How long the same badge may not come in again without having gone out, in milliseconds. */
    static final long PASSBACK = 180_000;
    /** How long a release lasts, in milliseconds. */
    static final long RELEASE = 6_000;

    private final PracticeDoor door;
    private final AccessSystem system;
    private final AccessRules copy;
    private final Agenda agenda;
    private final Scenes scenes;
    private final boolean reportsHeld;
    private final Timetable openToPublic;
    private final Map<PersonId, Long> wentIn = new HashMap<>();

    private String mode = "locked";
    private String by = "timetable";
    private long until = -1;
    private long modeNumber;
    private boolean open;
    private long openSince;
    private long positionSince;
    private long closeAt;
    private long openings;
    private long releasedUntil = -1;
    private long forcedSince = -1;
    private long heldSince = -1;
    private Optional<PropAlarm> propAlarm = Optional.empty();
    private boolean readerOff;
    private PersonId waiting;
    private long waitingSince;

    DoorControl(
            PracticeDoor door,
            AccessSystem system,
            AccessRules copy,
            Agenda agenda,
            Scenes scenes,
            boolean reportsHeld) {
        this.door = door;
        this.openToPublic = publicHours(door);
        this.system = system;
        this.copy = copy;
        this.agenda = agenda;
        this.scenes = scenes;
        this.reportsHeld = reportsHeld;
        this.positionSince = agenda.now();
    }

    /** Puts the lock where its timetable wants it, and again at each change. */
    void start(long at) {
        followTimetable(at, null);
        scheduleTimetable(at);
    }

    private void scheduleTimetable(long at) {
        nextChange(at)
                .ifPresent(t -> agenda.at(t.toInstant().toEpochMilli(), now -> {
                    if (by.equals("timetable")) {
                        followTimetable(now, null);
                    }
                    scheduleTimetable(now);
                }));
    }

    private boolean timetableOpen(long at) {
        return openToPublic.on(local(at));
    }

    private Optional<ZonedDateTime> nextChange(long at) {
        return openToPublic.nextChange(local(at));
    }

    /** When the lock is open by itself. */
    private static Timetable publicHours(PracticeDoor door) {
        List<Timetable.Span> spans = door.opensToPublic()
                ? List.of(new Timetable.Span(
                        EnumSet.allOf(DayOfWeek.class),
                        door.openFrom().orElseThrow(),
                        door.openTo().orElseThrow()))
                : List.of();
        return new Timetable(door.id(), door.name(), spans);
    }

    private ZonedDateTime local(long at) {
        return Instant.ofEpochMilli(at).atZone(door.building().zone());
    }

    private void followTimetable(long at, String cause) {
        set(at, timetableOpen(at) ? "unlocked" : "locked", "timetable", -1, cause);
    }

    private void set(long at, String newMode, String newBy, long newUntil, String cause) {
        mode = newMode;
        by = newBy;
        until = newUntil;
        modeNumber++;
        emit(at, "door.mode", null, null, cause, lockDetails(at));
    }

    private Map<String, String> lockDetails(long at) {
        Map<String, String> d = new LinkedHashMap<>();
        d.put("mode", mode);
        d.put("by", by);
        if (until >= 0) {
            d.put("until", shown(until));
        }
        if (by.equals("timetable")) {
            nextChange(at).ifPresent(t -> {
                d.put("next-mode", timetableOpen(t.toInstant().toEpochMilli()) ? "unlocked" : "locked");
                d.put("next-at", shown(t.toInstant().toEpochMilli()));
            });
        } else if (until >= 0) {
            d.put("next-mode", timetableOpen(until) ? "unlocked" : "locked");
            d.put("next-at", shown(until));
        }
        return d;
    }

    private String shown(long at) {
        return Instant.ofEpochMilli(system.clock().shows(at)).toString();
    }

    /** Everything the controller knows of the door. */
    Map<String, String> report(long at) {
        Map<String, String> d = lockDetails(at);
        if (door.contact()) {
            d.put("position", open ? "open" : "closed");
            d.put("position-since", shown(open ? openSince : positionSince));
            if (forcedSince >= 0) {
                d.put("forced-since", shown(forcedSince));
            }
            if (heldSince >= 0) {
                d.put("held-since", shown(heldSince));
            }
        }
        if (readerOff) {
            d.put("reader", "off");
        }
        long lost = system.lostSince(door.controller());
        if (lost >= 0) {
            d.put("reach", "lost");
            d.put("reach-since", shown(lost));
        }
        return d;
    }

    void reportDaily(long at) {
        emit(at, "door.report", null, null, null, report(at));
    }

    boolean unlocked() {
        return mode.equals("unlocked");
    }

    boolean released(long at) {
        return unlocked() || at <= releasedUntil;
    }

    /** A badge at a reader. */
    Decision present(long at, String number, Optional<Pin> pin, boolean inwards, String credentialKind) {
        if (waiting != null && at - waitingSince > SECOND_PERSON) {
            waiting = null;
        }
        boolean entering = inwards;
        DoorRules rules = new DoorRules(
                door.pin(),
                door.twoPersons(),
                Optional.ofNullable(waiting),
                p -> door.antiPassback() && entering && at - wentIn.getOrDefault(p, Long.MIN_VALUE / 2) < PASSBACK,
                mode.equals("blocked"),
                readerOff);
        Decision decision = copy.decide(new Request(
                new DoorId(door.id()),
                inwards ? Side.ENTRY : Side.EXIT,
                number,
                Optional.of(Credential.Kind.of(credentialKind)),
                pin,
                local(at),
                rules));
        PersonId person = decision.credential().map(c -> c.person()).orElse(null);
        switch (decision.result()) {
            case GRANTED -> {
                releasedUntil = Math.max(releasedUntil, at + RELEASE);
                waiting = null;
                if (inwards) {
                    wentIn.put(person, at);
                } else {
                    wentIn.remove(person);
                }
                badge(at, "access.granted", number, person, inwards, credentialKind, null, decision);
            }
            case REFUSED ->
                badge(
                        at,
                        "access.refused",
                        number,
                        person,
                        inwards,
                        credentialKind,
                        decision.reason().orElseThrow(),
                        decision);
            case NOT_CLEAR_WHOSE -> throw new IllegalStateException("no number is given out twice here: " + number);
            case SECOND_PERSON_NEEDED -> {
                waiting = person;
                waitingSince = at;
                PersonId first = person;
                agenda.at(at + SECOND_PERSON, now -> {
                    if (first.equals(waiting) && waitingSince == at) {
                        waiting = null;
                        badge(
                                now,
                                "access.refused",
                                number,
                                first,
                                inwards,
                                credentialKind,
                                Reasons.SECOND_PERSON_MISSING,
                                decision);
                    }
                });
            }
        }
        if (decision.underDuress()) {
            // Told at once where a second person is still waited for.
            badge(at, "access.duress", number, person, inwards, credentialKind, null, decision);
        }
        return decision;
    }

    /** The door code at the keypad. */
    boolean code(long at, String typed) {
        boolean right = door.code().equals(Optional.of(typed)) && !readerOff && !mode.equals("blocked");
        if (right) {
            releasedUntil = Math.max(releasedUntil, at + RELEASE);
        }
        system.emit(new Draft(
                at,
                right ? "access.granted" : "access.refused",
                door.id(),
                door.controller(),
                door.id() + ".in",
                "entry",
                null,
                null,
                "door-code",
                right ? null : Reasons.WRONG_PIN,
                null,
                Map.of(),
                null));
        return right;
    }

    private void badge(
            long at,
            String kind,
            String number,
            PersonId person,
            boolean inwards,
            String credentialKind,
            String reason,
            Decision decision) {
        boolean side = door.building().saysSide();
        system.emit(new Draft(
                at,
                kind,
                door.id(),
                door.controller(),
                door.id() + (inwards ? ".in" : ".out"),
                side ? (inwards ? "entry" : "exit") : null,
                person == null ? null : person.value(),
                number,
                credentialKind,
                reason,
                null,
                reason == null ? Map.of() : Map.of("explanation", ControllerWords.of(reason, number, decision)),
                null));
    }

    void exitRequest(long at) {
        releasedUntil = Math.max(releasedUntil, at + RELEASE);
        emit(at, "exit.requested", "exit", null, null, Map.of());
    }

    /** The leaf is moved open and will stay so at least for a while. */
    void open(long at, long forMillis) {
        closeAt = Math.max(closeAt, at + forMillis);
        agenda.at(closeAt, this::maybeClose);
        if (open) {
            return;
        }
        open = true;
        openSince = at;
        long opening = ++openings;
        boolean allowed = released(at);
        scenes.open(door.id(), at);
        if (!door.contact()) {
            return;
        }
        emit(at, "door.opened", null, null, null, Map.of());
        if (!allowed) {
            forcedSince = at;
            emit(at, "door.forced", null, null, null, Map.of());
        }
        propAlarm.ifPresent(p -> agenda.at(at + door.heldLimit().toMillis() / 2, now -> {
            if (open && openings == opening && !unlocked()) {
                p.sound(now, true);
            }
        }));
        if (reportsHeld && !door.turnstile()) {
            agenda.at(at + door.heldLimit().toMillis(), now -> {
                if (open && openings == opening && !unlocked()) {
                    heldSince = now;
                    emit(now, "door.held", null, null, null, Map.of());
                }
            });
        }
    }

    private void maybeClose(long at) {
        if (!open || at < closeAt) {
            return;
        }
        open = false;
        positionSince = at;
        forcedSince = -1;
        heldSince = -1;
        propAlarm.ifPresent(p -> p.sound(at, false));
        scenes.close(door.id(), at);
        if (door.contact()) {
            emit(at, "door.closed", null, null, null, Map.of());
        }
    }

    /** One that sounds here when the door stands open. */
    void has(PropAlarm alarm) {
        propAlarm = Optional.of(alarm);
    }

    /** Somebody pushes a leaf shut that stood open. */
    void shut(long at) {
        closeAt = at;
        maybeClose(at);
    }

    /** Does what the desk says; nothing if it did, else why not. */
    Optional<String> command(long at, String command, long untilMillis, String cause) {
        switch (command) {
            case "let-through" -> {
                releasedUntil = Math.max(releasedUntil, at + RELEASE);
                emit(at, "door.released", null, null, cause, Map.of());
            }
            case "leave-unlocked" -> {
                set(at, "unlocked", "command", untilMillis, cause);
                revertAt(untilMillis);
            }
            case "lock" -> set(at, "locked", "command", -1, cause);
            case "block" -> set(at, "blocked", "command", -1, cause);
            case "timetable" -> followTimetable(at, cause);
            default -> {
                return Optional.of("this controller knows no command " + command);
            }
        }
        return Optional.empty();
    }

    private void revertAt(long untilMillis) {
        if (untilMillis < 0) {
            return;
        }
        long number = modeNumber;
        agenda.at(untilMillis, now -> {
            if (modeNumber == number) {
                followTimetable(now, null);
            }
        });
    }

    private void emit(long at, String kind, String side, String reason, String cause, Map<String, String> details) {
        system.emit(new Draft(
                at, kind, door.id(), door.controller(), null, side, null, null, null, reason, cause, details, null));
    }

    PracticeDoor door() {
        return door;
    }
}
