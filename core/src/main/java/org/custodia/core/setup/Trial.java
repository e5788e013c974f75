package org.custodia.core.setup;

import java.time.DateTimeException;
import java.time.Instant;
import java.util.Base64;
import java.util.Optional;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Kinds;
import org.custodia.core.site.Crop;
import org.custodia.core.site.PairId;
import org.custodia.core.site.Pairing;

/**
 * What somebody said of a pair when something was presented at the door and its picture was played.
 *
 * @param as the pair as it stood then, as {@link #as} writes it
 * @param about what happened at the door
 * @param shown the instant of the picture that was judged
 * @param still that picture, small, as a JPEG in Base64; nothing where there was none
 * @param door whether it was the right door
 * @param person whether it was the right person
 * @param moment whether it was the right moment
 * @param by who said so
 * @param when they did
 */
public record Trial(
        PairId pair,
        String as,
        EventKey about,
        Instant shown,
        Optional<String> still,
        boolean door,
        boolean person,
        boolean moment,
        String by,
        Instant when) {
    static final EventKind KIND = Kinds.TRIED;
    /** Characters; it lies in the log for good. */
    private static final int MOST_STILL = 32_000;

    /** The picture that was judged, as a JPEG; nothing where there was none, or it is damaged. */
    public Optional<byte[]> picture() {
        try {
            return still.map(Base64.getDecoder()::decode);
        } catch (IllegalArgumentException e) {
            return Optional.empty();
        }
    }

    /** Whether all was as it should be. */
    public boolean passed() {
        return door && person && moment;
    }

    /** All of a pair that makes a difference to what is seen, in a line. */
    public static String as(Pairing pairing) {
        Crop face = pairing.face();
        return String.join(
                " ",
                pairing.side().name(),
                pairing.view().name(),
                pairing.leadIn().toString(),
                pairing.faceAfter().toString(),
                Double.toString(face.x()),
                Double.toString(face.y()),
                Double.toString(face.width()),
                Double.toString(face.height()));
    }

    /** Whether a pair is as it was when it was tried. */
    public boolean holds(Pairing now) {
        return as.equals(as(now));
    }

    Event.Builder onRecord(Event.Builder event) {
        still.filter(s -> s.length() <= MOST_STILL).ifPresent(s -> event.detail("still", s));
        return event.detail("pair", pair.value())
                .detail("as", as)
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
                    event.detail("as").orElseThrow(IllegalArgumentException::new),
                    event.detail("about").flatMap(EventKey::parse).orElseThrow(IllegalArgumentException::new),
                    Instant.parse(event.detail("shown").orElse("")),
                    event.detail("still"),
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
