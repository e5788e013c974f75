package org.custodia.core.setup;

import java.time.DateTimeException;
import java.time.Instant;
import java.util.Optional;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Kinds;
import org.custodia.core.site.PairId;

/**
 * What somebody said of a pair when something was presented at the door and its picture was played.
 *
 * @param version the pair as it stood then
 * @param about what happened at the door
 * @param shown the instant of the picture that was judged
 * @param door whether it was the right door
 * @param person whether it was the right person
 * @param moment whether it was the right moment
 * @param by who said so
 * @param when they did
 */
public record Trial(
        PairId pair,
        long version,
        EventKey about,
        Instant shown,
        boolean door,
        boolean person,
        boolean moment,
        String by,
        Instant when) {
    static final EventKind KIND = Kinds.TRIED;

    /** Whether all was as it should be. */
    public boolean passed() {
        return door && person && moment;
    }

    Event.Builder onRecord(Event.Builder event) {
        return event.detail("pair", pair.value())
                .detail("version", Long.toString(version))
                .detail("about", about.text())
                .detail("shown", shown.toString())
                .detail("right-door", Boolean.toString(door))
                .detail("right-person", Boolean.toString(person))
                .detail("right-moment", Boolean.toString(moment));
    }

    /** The trial that an event tells of; nothing if it tells of none. */
    static Optional<Trial> of(Event event) {
        try {
            return Optional.of(new Trial(
                    new PairId(event.detail("pair").orElse("")),
                    Long.parseLong(event.detail("version").orElse("")),
                    event.detail("about").flatMap(EventKey::parse).orElseThrow(IllegalArgumentException::new),
                    Instant.parse(event.detail("shown").orElse("")),
                    yes(event, "right-door"),
                    yes(event, "right-person"),
                    yes(event, "right-moment"),
                    event.detail("operator-name").orElse(""),
                    event.time()));
        } catch (IllegalArgumentException | DateTimeException e) {
            // It was written by another version, or cut; then the pair counts as never tried.
            return Optional.empty();
        }
    }

    private static boolean yes(Event event, String detail) {
        return event.detail(detail).filter("true"::equals).isPresent();
    }
}
