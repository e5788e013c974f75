package org.custodia.core.event;

import java.time.Duration;
import java.time.Instant;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.TreeMap;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.ReaderId;
import org.custodia.core.site.Side;

/**
 * One thing that happened. Times are UTC to the microsecond.
 *
 * @param position place in the log in order of storing, from 1; 0 while it is not stored
 * @param deviceTime when the device says it happened
 * @param received when it reached Custodia
 * @param offset by how much the system's clock was ahead when it was received
 * @param time when it really happened: device time less the offset, not after it was received and not before what its
 *     controller numbered lower; fixed at intake
 * @param late stored after a later event of the same system was, outside a backlog
 * @param code the make's own code for it
 * @param cause key of the command that caused it
 * @param details anything else that is known, by name; names that begin with {@link Provenance#MARK} are Custodia's own
 * @param raw the message as it was received
 */
public record Event(
        EventKey key,
        long position,
        Instant deviceTime,
        Instant received,
        Duration offset,
        Instant time,
        boolean late,
        EventKind kind,
        Optional<DoorId> door,
        Optional<ControllerId> controller,
        Optional<ReaderId> reader,
        Optional<Side> side,
        Optional<PersonId> person,
        Optional<String> credential,
        Optional<String> operator,
        Optional<String> reason,
        Optional<String> code,
        Optional<String> cause,
        Map<String, String> details,
        String raw)
        implements Comparable<Event> {

    public Event {
        Objects.requireNonNull(key);
        Objects.requireNonNull(kind);
        details = Map.copyOf(details);
    }

    /** Order in time: corrected time, then system, epoch and sequence. */
    @Override
    public int compareTo(Event other) {
        int byTime = time.compareTo(other.time);
        if (byTime != 0) {
            return byTime;
        }
        return compareKeys(key, other.key);
    }

    /** The order of what happened at the same instant: system, epoch, sequence. */
    public static int compareKeys(EventKey a, EventKey b) {
        int bySystem = a.system().value().compareTo(b.system().value());
        if (bySystem != 0) {
            return bySystem;
        }
        int byEpoch = Long.compare(a.epoch(), b.epoch());
        return byEpoch != 0 ? byEpoch : Long.compare(a.sequence(), b.sequence());
    }

    /** One detail by name. */
    public Optional<String> detail(String name) {
        return Optional.ofNullable(details.get(name));
    }

    /** The details as the system sent them, without Custodia's own marks. */
    public Map<String, String> sentDetails() {
        if (details.keySet().stream().noneMatch(n -> n.startsWith(Provenance.MARK))) {
            return details;
        }
        Map<String, String> sent = new TreeMap<>(details);
        sent.keySet().removeIf(n -> n.startsWith(Provenance.MARK));
        return sent;
    }

    /** Whether another event says the same as this one: everything that was sent agrees. */
    public boolean saysTheSameAs(Event other) {
        return (deviceTime.equals(other.deviceTime)
                        || detail(UNREAL).isPresent() && other.detail(UNREAL).isPresent())
                && Translation.sentKind(this).equals(Translation.sentKind(other))
                && door.equals(other.door)
                && controller.equals(other.controller)
                && reader.equals(other.reader)
                && side.equals(other.side)
                && person.equals(other.person)
                && credential.equals(other.credential)
                && Translation.sentReason(this).equals(Translation.sentReason(other))
                && code.equals(other.code)
                && cause.equals(other.cause)
                && detail(UNREAL).equals(other.detail(UNREAL))
                && sentDetails().equals(other.sentDetails());
    }

    /** Mark: the time as it was sent, where that cannot be; the event then happened when it was received. */
    public static final String UNREAL = Provenance.MARK + "time-sent";

    /** A builder with everything this event has. */
    public Builder toBuilder() {
        Builder b = new Builder(key, kind, deviceTime);
        b.position = position;
        b.received = received;
        b.offset = offset;
        b.time = time;
        b.late = late;
        b.door = door;
        b.controller = controller;
        b.reader = reader;
        b.side = side;
        b.person = person;
        b.credential = credential;
        b.operator = operator;
        b.reason = reason;
        b.code = code;
        b.cause = cause;
        b.details.putAll(details);
        b.raw = raw;
        return b;
    }

    /** Starts an event; until told otherwise it was received when it happened, by a clock that is right. */
    public static Builder of(EventKey key, EventKind kind, Instant deviceTime) {
        return new Builder(key, kind, deviceTime);
    }

    /** Puts an event together. */
    public static final class Builder {
        private EventKey key;
        private EventKind kind;
        private final Instant deviceTime;
        private long position;
        private Instant received;
        private Duration offset = Duration.ZERO;
        private Instant time;
        private boolean late;
        private Optional<DoorId> door = Optional.empty();
        private Optional<ControllerId> controller = Optional.empty();
        private Optional<ReaderId> reader = Optional.empty();
        private Optional<Side> side = Optional.empty();
        private Optional<PersonId> person = Optional.empty();
        private Optional<String> credential = Optional.empty();
        private Optional<String> operator = Optional.empty();
        private Optional<String> reason = Optional.empty();
        private Optional<String> code = Optional.empty();
        private Optional<String> cause = Optional.empty();
        private final Map<String, String> details = new TreeMap<>();
        private String raw = "";

        private Builder(EventKey key, EventKind kind, Instant deviceTime) {
            this.key = key;
            this.kind = kind;
            this.deviceTime = micros(deviceTime);
            this.received = this.deviceTime;
            this.time = this.deviceTime;
        }

        public Builder key(EventKey value) {
            key = value;
            return this;
        }

        public Builder kind(EventKind value) {
            kind = value;
            return this;
        }

        public Builder position(long value) {
            position = value;
            return this;
        }

        /** Sets when it arrived and how far the system's clock was ahead, and from that when it really happened. */
        public Builder received(Instant at, Duration clockAhead) {
            received = micros(at);
            offset = Duration.ofNanos(clockAhead.toNanos() / 1000 * 1000);
            time = micros(deviceTime.minus(offset));
            return this;
        }

        /** Sets when it really happened, where more is known than its clock's offset. Call after {@link #received}. */
        public Builder time(Instant value) {
            time = micros(value);
            return this;
        }

        public Builder late(boolean value) {
            late = value;
            return this;
        }

        public Builder door(DoorId value) {
            door = Optional.ofNullable(value);
            return this;
        }

        public Builder controller(ControllerId value) {
            controller = Optional.ofNullable(value);
            return this;
        }

        public Builder reader(ReaderId value) {
            reader = Optional.ofNullable(value);
            return this;
        }

        public Builder side(Side value) {
            side = Optional.ofNullable(value);
            return this;
        }

        public Builder person(PersonId value) {
            person = Optional.ofNullable(value);
            return this;
        }

        public Builder credential(String value) {
            credential = Optional.ofNullable(value);
            return this;
        }

        public Builder operator(String value) {
            operator = Optional.ofNullable(value);
            return this;
        }

        public Builder reason(String value) {
            reason = Optional.ofNullable(value);
            return this;
        }

        public Builder code(String value) {
            code = Optional.ofNullable(value);
            return this;
        }

        public Builder cause(String value) {
            cause = Optional.ofNullable(value);
            return this;
        }

        public Builder detail(String name, String value) {
            details.put(name, value);
            return this;
        }

        public Builder details(Map<String, String> values) {
            details.putAll(values);
            return this;
        }

        public Builder raw(String value) {
            raw = value;
            return this;
        }

        public Event build() {
            return new Event(
                    key,
                    position,
                    deviceTime,
                    received,
                    offset,
                    time,
                    late,
                    kind,
                    door,
                    controller,
                    reader,
                    side,
                    person,
                    credential,
                    operator,
                    reason,
                    code,
                    cause,
                    details,
                    raw);
        }

        private static Instant micros(Instant t) {
            return t.minusNanos(t.getNano() % 1000);
        }
    }
}
