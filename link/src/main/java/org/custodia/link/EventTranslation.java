package org.custodia.link;

import java.time.DateTimeException;
import java.time.Duration;
import java.time.Instant;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.function.Function;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventIntake.Unread;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.Provenance;
import org.custodia.core.footage.ClockBook;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.ReaderId;
import org.custodia.core.site.Side;
import org.custodia.core.site.SystemId;
import org.custodia.wire.Fields;
import org.custodia.wire.WireException;

/**
 * Turns a system's messages into events. What every event must have are its number and its kind; whatever else is odd about
 * it is left out, marked, and found in the message, which is kept.
 */
final class EventTranslation {
    /** Nothing that a system tells of happened before this. */
    private static final Instant EARLIEST = Instant.parse("2010-01-01T00:00:00Z");
    /** Nothing can be told so long before it happens, whatever the clock. */
    private static final Duration AHEAD = Duration.ofDays(1);
    /** Names the fields that are not what they should be. */
    private static final String ODD = Provenance.MARK + "odd";

    private final SystemId system;
    private final ClockBook clocks;

    EventTranslation(SystemId system, ClockBook clocks) {
        this.system = system;
        this.clocks = clocks;
    }

    /** What became of a message: one of the two is there. */
    record Understood(Optional<Event> event, Optional<Unread> unread) {
        private static Understood not(Unread unread) {
            return new Understood(Optional.empty(), Optional.of(unread));
        }
    }

    /**
     * One message.
     *
     * @param number the number it came under, where something else than the message itself tells
     */
    Understood read(String raw, Instant received, Optional<EventKey> number) {
        Fields fields;
        try {
            fields = Fields.of(raw);
        } catch (WireException e) {
            return Understood.not(new Unread(
                    system, number, received, raw, Saying.of("unread.malformed", String.valueOf(e.getMessage()))));
        }
        Optional<EventKey> key = key(fields).or(() -> number);
        if (key.isEmpty()) {
            return Understood.not(new Unread(system, key, received, raw, Saying.of("unread.no-number")));
        }
        Optional<EventKind> kind = fields.text("kind").flatMap(EventTranslation::kind);
        if (kind.isEmpty()) {
            return Understood.not(new Unread(system, key, received, raw, Saying.of("unread.no-kind")));
        }
        if (Provenance.own(kind.get())) {
            return Understood.not(new Unread(
                    system,
                    key,
                    received,
                    raw,
                    Saying.of("unread.own-kind", kind.get().id())));
        }
        return new Understood(Optional.of(event(fields, raw, received, key.get(), kind.get())), Optional.empty());
    }

    private Optional<EventKey> key(Fields fields) {
        Optional<Long> epoch = fields.number("epoch").filter(e -> e >= 0 && e <= EventKey.HIGHEST_EPOCH);
        Optional<Long> seq = fields.number("seq").filter(s -> s >= 1);
        return epoch.isPresent() && seq.isPresent()
                ? Optional.of(new EventKey(system, epoch.get(), seq.get()))
                : Optional.empty();
    }

    private static Optional<EventKind> kind(String text) {
        try {
            return Optional.of(Kinds.of(text));
        } catch (IllegalArgumentException e) {
            return Optional.empty();
        }
    }

    private Event event(Fields fields, String raw, Instant received, EventKey key, EventKind kind) {
        Optional<Instant> sent = fields.instant("time");
        Duration ahead = sent.map(t -> clocks.aheadWhenItShowed(system, t)).orElse(Duration.ZERO);
        boolean real = sent.isPresent()
                && !sent.get().isBefore(EARLIEST)
                && !sent.get().minus(ahead).isAfter(received.plus(AHEAD));
        Event.Builder b = Event.of(key, kind, real ? sent.get() : received)
                .received(received, real ? ahead : Duration.ZERO)
                .door(id(fields, "door", DoorId::new))
                .controller(id(fields, "controller", ControllerId::new))
                .reader(reader(fields))
                .side(side(fields.text("side")))
                .person(id(fields, "person", PersonId::new))
                .credential(fields.text("credential").orElse(null))
                .reason(fields.word("reason").orElse(null))
                .code(fields.word("code").orElse(null))
                .cause(fields.word("cause").orElse(null))
                .raw(raw);
        fields.map("details").forEach((name, value) -> b.detail(foreign(name), value));
        fields.word("unit").ifPresent(u -> b.detail("unit", u));
        fields.word("credentialKind").ifPresent(k -> b.detail("credential-kind", k));
        fields.word("side").filter(s -> side(Optional.of(s)) == null).ifPresent(s -> b.detail("side", s));
        if (!real) {
            b.detail(Event.UNREAL, fields.text("time").orElse("none"));
        }
        if (!fields.odd().isEmpty()) {
            b.detail(ODD, String.join(", ", fields.odd()));
        }
        return b.build();
    }

    /** A name that nobody takes for one of Custodia's own marks. */
    private static String foreign(String name) {
        return name.startsWith(Provenance.MARK) ? "_" + name : name;
    }

    /** The system's own id with the system before it; nothing, and marked, where it is too long. */
    private <T> T id(Fields fields, String name, Function<String, T> as) {
        Optional<String> id = fields.word(name);
        try {
            return id.map(i -> as.apply(system.value() + "/" + i)).orElse(null);
        } catch (IllegalArgumentException e) {
            fields.markOdd(name);
            return null;
        }
    }

    private static ReaderId reader(Fields fields) {
        try {
            return fields.word("reader")
                    .filter(r -> !r.isBlank())
                    .map(ReaderId::new)
                    .orElse(null);
        } catch (IllegalArgumentException e) {
            fields.markOdd("reader");
            return null;
        }
    }

    private static Side side(Optional<String> word) {
        return switch (word.orElse("").toLowerCase(Locale.ROOT)) {
            case "entry" -> Side.ENTRY;
            case "exit" -> Side.EXIT;
            default -> null;
        };
    }

    /**
     * A door's state as of a snapshot, as it is logged; Custodia gives it its own key.
     *
     * @param time when the snapshot was taken, in our own time
     * @param ahead by how much the system's clock was ahead then
     * @param asOf the number of the system's event up to which it holds
     */
    Event.Builder report(String door, Map<String, String> details, Instant time, Duration ahead, EventKey asOf) {
        Event.Builder b = Event.of(Counterpart.OWN, Kinds.REPORT, time)
                .door(new DoorId(system.value() + "/" + door))
                .detail("system", system.value());
        details.forEach((name, value) -> b.detail(foreign(name), corrected(value, ahead)));
        return b.detail(Provenance.MARK + "as-of", asOf.epoch() + ":" + asOf.sequence());
    }

    /** Times among the details are put right here, since Custodia's own events have no offset. */
    private static String corrected(String value, Duration ahead) {
        if (value.length() < 20 || value.charAt(value.length() - 1) != 'Z') {
            return value;
        }
        try {
            return Instant.parse(value).minus(ahead).toString();
        } catch (DateTimeException | ArithmeticException e) {
            return value;
        }
    }
}
