package org.custodia.core.evidence;

import java.util.Comparator;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Pairing;

/**
 * A camera that may show a door, and why.
 *
 * @param confidence in words
 * @param weight the logarithm of how much likelier what was seen is if it does show the door
 * @param moved at how many of the door's openings something moved in its picture
 * @param looked at how many it was looked
 * @param elsewhereMoved how often something moved when the door did not open
 * @param elsewhere how often it was looked then
 * @param view what it sees, where who stands there tells so
 * @param together doors that opened whenever this one did, so that it may be one of them
 * @param openings the openings at which something moved, the latest first
 */
public record Candidate(
        CameraId camera,
        Confidence confidence,
        double weight,
        int moved,
        int looked,
        int elsewhereMoved,
        int elsewhere,
        Optional<Pairing.View> view,
        Set<DoorId> together,
        List<KnownOpening> openings) {
    /** The likeliest first. */
    static final Comparator<Candidate> LIKELIEST_FIRST = Comparator.comparingDouble(Candidate::weight)
            .reversed()
            .thenComparing(c -> c.camera().value());

    public Candidate {
        together = Set.copyOf(together);
        openings = List.copyOf(openings);
    }

    /** How sure it is. */
    public enum Confidence {
        /** Wrong for less than one door in a thousand. */
        SURE,
        /** Twenty times likelier than not. */
        LIKELY,
        /** Not decided. */
        OPEN,
        /** It shows another door, or none. */
        NO
    }
}
