package org.custodia.link;

import java.time.Duration;
import java.time.Instant;
import java.util.Locale;
import java.util.Map;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Kinds;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.ReaderId;
import org.custodia.core.site.Side;
import org.custodia.core.site.SystemId;
import org.custodia.wire.AccessMessages.DoorReport;
import org.custodia.wire.WireEvent;
import org.custodia.wire.WireException;

/** Turns a system's messages into events. */
final class EventTranslation {
    private static final int LONGEST_WORD = 2_000;
    private static final Instant EARLIEST = Instant.parse("1990-01-01T00:00:00Z");
    private static final Instant LATEST = Instant.parse("2200-01-01T00:00:00Z");

    private final SystemId system;

    EventTranslation(SystemId system) {
        this.system = system;
    }

    /**
     * One event.
     *
     * @throws WireException if something that every event must have is missing or impossible
     */
    Event event(WireEvent w, String raw, Instant received, Duration ahead) {
        if (w.seq() < 1 || w.epoch() < 0) {
            throw new WireException("the number " + w.epoch() + ":" + w.seq() + " is not one that an event can have");
        }
        if (w.time() == null || w.time().isBefore(EARLIEST) || w.time().isAfter(LATEST)) {
            throw new WireException("the time is missing or impossible: " + w.time());
        }
        if (w.kind() == null) {
            throw new WireException("the kind is missing");
        }
        try {
            Event.Builder b = Event.of(new EventKey(system, w.epoch(), w.seq()), Kinds.of(w.kind()), w.time())
                    .received(received, ahead)
                    .door(w.door() == null ? null : new DoorId(local(w.door())))
                    .controller(w.controller() == null ? null : new ControllerId(local(w.controller())))
                    .reader(w.reader() == null ? null : new ReaderId(w.reader()))
                    .side(side(w.side()))
                    .person(w.person() == null ? null : new PersonId(local(w.person())))
                    .credential(word(w.credential()))
                    .reason(word(w.reason()))
                    .code(word(w.code()))
                    .cause(word(w.cause()))
                    .raw(raw);
            for (Map.Entry<String, String> detail : w.details().entrySet()) {
                b.detail(word(detail.getKey()), word(detail.getValue()));
            }
            if (w.credentialKind() != null) {
                b.detail("credential-kind", word(w.credentialKind()));
            }
            return b.build();
        } catch (IllegalArgumentException | NullPointerException e) {
            throw new WireException(String.valueOf(e.getMessage()));
        }
    }

    private static Side side(String word) {
        return word == null
                ? null
                : switch (word.toLowerCase(Locale.ROOT)) {
                    case "entry" -> Side.ENTRY;
                    case "exit" -> Side.EXIT;
                    default -> null;
                };
    }

    /** The system's own id with the system before it. */
    private String local(String id) {
        if (id.isBlank()) {
            throw new WireException("an id is blank");
        }
        return system.value() + "/" + id;
    }

    private static String word(String text) {
        if (text != null && text.length() > LONGEST_WORD) {
            throw new WireException("a field is longer than " + LONGEST_WORD + " characters");
        }
        return text;
    }

    /** A door's state as of a snapshot, for the log; Custodia gives it its own key. */
    Event.Builder report(DoorReport report, Instant time, Duration ahead, EventKind kind, EventKey key) {
        Event.Builder b = Event.of(key, kind, time.minus(ahead))
                .door(new DoorId(system.value() + "/" + report.door()))
                .detail("system", system.value());
        report.details().forEach((name, value) -> b.detail(name, corrected(value, ahead)));
        return b;
    }

    /** Times among the details are put right here, since Custodia's own events have no offset. */
    private static String corrected(String value, Duration ahead) {
        if (value.length() < 20 || value.charAt(value.length() - 1) != 'Z') {
            return value;
        }
        try {
            return Instant.parse(value).minus(ahead).toString();
        } catch (java.time.format.DateTimeParseException e) {
            return value;
        }
    }
}
