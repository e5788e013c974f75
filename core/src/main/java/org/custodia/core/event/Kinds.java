package org.custodia.core.event;

import java.util.HashMap;
import java.util.Map;
import java.util.Set;

/** The kinds Custodia knows: their names for people and their default priority. The list stays open. */
public final class Kinds {
    /** What a kind is called and how much it matters when a site has not said otherwise. */
    public record Entry(EventKind kind, String name, Priority priority) {}

    private static final Map<EventKind, Entry> KNOWN = new HashMap<>();
    private static final Map<String, EventKind> BY_ID = new HashMap<>();

    public static final EventKind GRANTED = kind("access.granted", "granted", Priority.NONE);
    public static final EventKind REFUSED = kind("access.refused", "refused", Priority.NOTE);
    /** Somebody was let in who typed what they type when they are forced to. Beside the grant, at the same time. */
    public static final EventKind DURESS = kind("access.duress", "duress PIN typed", Priority.URGENT);

    public static final EventKind EXIT_REQUESTED = kind("exit.requested", "exit button", Priority.NONE);
    public static final EventKind OPENED = kind("door.opened", "opened", Priority.NONE);
    public static final EventKind CLOSED = kind("door.closed", "closed", Priority.NONE);
    public static final EventKind FORCED = kind("door.forced", "forced open", Priority.URGENT);
    public static final EventKind HELD = kind("door.held", "held open", Priority.CAUTION);
    /** The door's lock mode changed. Details: mode, by, until, next-mode, next-at. */
    public static final EventKind MODE = kind("door.mode", "lock changed", Priority.NONE);
    /** Released once, from the desk; it locks again by itself. */
    public static final EventKind RELEASED = kind("door.released", "let through", Priority.NONE);
    /** A door's state as its controller reports it. Details as for {@link #MODE}, and position, held, forced, reader. */
    public static final EventKind REPORT = kind("door.report", "state report", Priority.NONE);

    public static final EventKind READER_OFF = kind("reader.off", "reader off", Priority.CAUTION);
    public static final EventKind READER_ON = kind("reader.on", "reader on", Priority.NONE);
    public static final EventKind CONTROLLER_LOST =
            kind("controller.lost", "controller out of reach", Priority.CAUTION);
    public static final EventKind CONTROLLER_BACK = kind("controller.back", "controller back", Priority.NONE);
    /** A device that is no door changed from rest: a panic button, a fire contact, a detector. Details: unit, device. */
    public static final EventKind INPUT_ON = kind("input.on", "input tripped", Priority.CAUTION);

    public static final EventKind INPUT_OFF = kind("input.off", "input at rest", Priority.NONE);
    public static final EventKind CALL_STARTED = kind("call.started", "somebody rings", Priority.NOTE);
    public static final EventKind CALL_ENDED = kind("call.ended", "call ended", Priority.NONE);
    public static final EventKind PANEL_ALARM = kind("panel.alarm", "intruder alarm", Priority.URGENT);
    public static final EventKind PANEL_ARMED = kind("panel.armed", "intruder panel armed", Priority.NONE);
    public static final EventKind PANEL_DISARMED = kind("panel.disarmed", "intruder panel disarmed", Priority.NONE);
    public static final EventKind DISPLAY_TEXT = kind("display.text", "text shown", Priority.NONE);
    /** Somebody presented themselves at a muster point. */
    public static final EventKind MUSTERED = kind("muster.presented", "at a muster point", Priority.NONE);

    /** The prop alarm at a door sounds there, by itself, before the door counts as held open. Details: unit, device. */
    public static final EventKind PROP_ON = kind("door.prop-on", "prop alarm sounds at the door", Priority.NOTE);
    /** It does no more. Details as for {@link #PROP_ON}. */
    public static final EventKind PROP_OFF = kind("door.prop-off", "prop alarm quiet again", Priority.NONE);
    /** Somebody at the access system itself has seen what an event told. Details: of (epoch:number), by. */
    public static final EventKind SEEN_THERE = kind("event.acknowledged", "seen at the system", Priority.NONE);
    /** Somebody there is done with it. Details as for {@link #SEEN_THERE}. */
    public static final EventKind FINISHED_THERE = kind("event.finished", "finished at the system", Priority.NONE);

    public static final EventKind CAMERA_LOST = kind("camera.lost", "camera lost", Priority.CAUTION);
    public static final EventKind CAMERA_BACK = kind("camera.back", "camera back", Priority.NONE);
    public static final EventKind LINK_LOST = kind("link.lost", "link lost", Priority.CAUTION);
    /** An operator paused or removed the link: nothing is known of its system until it is back. Details: system. */
    public static final EventKind LINK_CLOSED = kind("link.closed", "link closed", Priority.NONE);

    public static final EventKind LINK_BACK = kind("link.back", "link back", Priority.NONE);
    /** A system's clock is off by more than is allowed. Details: system, ahead-millis, uncertainty-millis, allowed-millis. */
    public static final EventKind CLOCK_OFF = kind("link.clock-off", "clock off", Priority.CAUTION);
    /** It is no more. Details as for {@link #CLOCK_OFF}. */
    public static final EventKind CLOCK_BACK = kind("link.clock-back", "clock right again", Priority.NONE);

    public static final EventKind GAP = kind("log.gap", "events missing", Priority.CAUTION);
    /** Events that were missing have come after all. Details as for {@link #GAP}. */
    public static final EventKind GAP_CLOSED = kind("log.gap-closed", "missing events came", Priority.NONE);
    /** A system counts on from a lower number than it had reached, as after a restore. Details: system, epoch, from, to. */
    public static final EventKind COUNTS_AGAIN =
            kind("log.counts-again", "system counts again from an earlier number", Priority.CAUTION);

    /** What a system sends means something else from now on, for the past too. Details: system, version. */
    public static final EventKind TRANSLATED = kind("log.translated", "translation changed", Priority.NONE);

    public static final EventKind CONFLICT =
            kind("log.conflict", "event sent twice with other content", Priority.CAUTION);
    public static final EventKind COMMAND_SENT = kind("command.sent", "command sent", Priority.NONE);
    public static final EventKind COMMAND_DONE = kind("command.done", "command confirmed", Priority.NONE);
    public static final EventKind COMMAND_FAILED = kind("command.failed", "command failed", Priority.CAUTION);
    public static final EventKind COMMAND_UNKNOWN =
            kind("command.unknown", "command, outcome not known", Priority.CAUTION);
    /** Who somebody was and why, noted after an act. */
    public static final EventKind NOTE = kind("operator.note", "note", Priority.NONE);

    public static final EventKind VERDICT = kind("operator.verdict", "verdict", Priority.NONE);
    public static final EventKind SIGNED_IN = kind("operator.signed-in", "signed in", Priority.NONE);
    /** Somebody set something up otherwise. Details: what, change, and what it is about. */
    public static final EventKind SET_UP = kind("operator.set-up", "set up", Priority.NONE);

    /** Somebody tried a pair of a door and a camera. Details: pair, as, about, shown, right-door, right-person, right-moment. */
    public static final EventKind TRIED = kind("operator.tried-pair", "pair tried", Priority.NONE);

    /** Nothing moves any more in a camera's picture when its door opens. Details: camera, looked, moved. */
    public static final EventKind PAIR_IN_DOUBT = kind("custodia.pair-in-doubt", "pair in doubt", Priority.CAUTION);
    /** Something does again. Details: camera. */
    public static final EventKind PAIR_HOLDS = kind("custodia.pair-holds", "pair holds again", Priority.NONE);

    /**
     * Somebody was granted and the door was not opened. It is not stored: it follows from grants and contacts, and rules can
     * name it.
     */
    public static final EventKind NOBODY_ENTERED =
            kind("custodia.nobody-entered", "granted and nobody entered", Priority.NONE);

    public static final EventKind REFUSED_TO_OPERATOR =
            kind("operator.not-permitted", "operator not permitted", Priority.CAUTION);

    /** An alarm. Details: rule, rule-version, name, priority, about, of (the key of what raised it), since, condition; forward and sound where not. */
    public static final EventKind ALARM_RAISED = kind("alarm.raised", "alarm raised", Priority.NONE);
    /** The same again while it is not finished. Details: alarm, of, times. */
    public static final EventKind ALARM_AGAIN = kind("alarm.again", "alarm again", Priority.NONE);
    /** Its condition is no more. Details: alarm, of. */
    public static final EventKind ALARM_ENDED = kind("alarm.ended", "alarm condition ended", Priority.NONE);

    public static final EventKind ALARM_ACKNOWLEDGED = kind("alarm.acknowledged", "alarm acknowledged", Priority.NONE);
    /** Somebody took it in hand, or was handed it. Details: alarm, owner, owner-name. */
    public static final EventKind ALARM_TAKEN = kind("alarm.taken", "alarm in hand", Priority.NONE);
    /** Put aside for a time. Details: alarm, until; the reason is the event's. */
    public static final EventKind ALARM_SHELVED = kind("alarm.shelved", "alarm shelved", Priority.NONE);
    /** It came back from being shelved. Details: alarm. */
    public static final EventKind ALARM_BACK = kind("alarm.back", "alarm back", Priority.NONE);
    /** Nobody came, so it calls louder, or others too. Details: alarm, step. */
    public static final EventKind ALARM_ESCALATED = kind("alarm.escalated", "alarm escalated", Priority.NONE);
    /** A step of its procedure is done. Details: alarm, procedure, procedure-version, step; done where it is not after all. */
    public static final EventKind ALARM_TICKED = kind("alarm.ticked", "alarm step done", Priority.NONE);
    /** Details: alarm, text. */
    public static final EventKind ALARM_NOTE = kind("alarm.note", "alarm note", Priority.NONE);
    /** Details: alarm, outcome, text. */
    public static final EventKind ALARM_FINISHED = kind("alarm.finished", "alarm finished", Priority.NONE);
    /** A message about an alarm has arrived. Details: alarm, receiver, receiver-name, occasion, attempts. */
    public static final EventKind ALARM_TOLD = kind("alarm.told", "alarm told", Priority.NONE);
    /** A message about an alarm was given up. Details: as of one that arrived, and why. */
    public static final EventKind ALARM_NOT_TOLD = kind("alarm.not-told", "alarm not told", Priority.NONE);
    /** Rules are watched from now on; what happened before raises nothing. Details: rules. */
    public static final EventKind ALARM_RULES = kind("alarm.rules-on", "alarm rules on", Priority.NONE);

    private Kinds() {}

    private static EventKind kind(String id, String name, Priority priority) {
        EventKind kind = new EventKind(id);
        KNOWN.put(kind, new Entry(kind, name, priority));
        BY_ID.put(id, kind);
        return kind;
    }

    /**
     * The kind of an identifier, always the same object for one that is known here.
     *
     * @throws IllegalArgumentException if it is no identifier of a kind
     */
    public static EventKind of(String id) {
        EventKind known = BY_ID.get(id);
        return known != null ? known : new EventKind(id);
    }

    /** All kinds that are known here. */
    public static Set<EventKind> all() {
        return Set.copyOf(KNOWN.keySet());
    }

    /** The entry of a kind; for one nobody knows, its own identifier serves as its name. */
    public static Entry entry(EventKind kind) {
        Entry known = KNOWN.get(kind);
        return known != null ? known : new Entry(kind, kind.id(), Priority.NONE);
    }
}
