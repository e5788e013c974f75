package org.custodia.wire;

import java.time.Instant;
import java.util.Map;

/**
 * One event of an access system. Absent values are null here and left out of the JSON.
 *
 * @param seq from 1 within the epoch, without holes
 * @param time by the system's own clock
 * @param kind one of the common kinds, or the make's own word
 * @param code the make's own code
 * @param credentialKind card, phone, fingerprint, door-code
 * @param cause key of the command that caused it
 * @param unit the device it is of, where that is no door
 */
public record WireEvent(
        long epoch,
        long seq,
        Instant time,
        String kind,
        String code,
        String door,
        String controller,
        String reader,
        String side,
        String person,
        String credential,
        String credentialKind,
        String reason,
        String cause,
        Map<String, String> details,
        String unit) {
    public WireEvent {
        details = details == null ? Map.of() : Map.copyOf(details);
    }
}
