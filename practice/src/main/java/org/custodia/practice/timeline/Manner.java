package org.custodia.practice.timeline;

import java.util.List;
import java.util.Optional;
import org.custodia.core.access.Pin;
import org.custodia.practice.place.Look;
import org.custodia.practice.place.PracticePerson;

/**
 * How somebody behaves at a door.
 *
 * @param look who is seen there, which need not be the badge's owner
 * @param badge what they present
 * @param pin what they type
 * @param hold how many milliseconds they keep the leaf open beyond passing
 * @param followers who slips in behind them
 * @param enters whether they go through after a grant
 * @param tries how often they try again after a refusal
 * @param asks whether they use reader and button as they should; else they go by the handle, where it lets them
 */
record Manner(
        Look look,
        String badge,
        Optional<Pin> pin,
        long hold,
        List<Look> followers,
        boolean enters,
        int tries,
        boolean asks) {
    static Manner of(PracticePerson p) {
        return new Manner(p.look(), p.badge(), Optional.of(p.pin()), 0, List.of(), true, 0, true);
    }

    /** Somebody without a badge. */
    static Manner of(Look look) {
        return new Manner(look, "", Optional.empty(), 0, List.of(), true, 0, true);
    }

    Manner holding(long millis) {
        return new Manner(look, badge, pin, millis, followers, enters, tries, asks);
    }

    Manner followedBy(List<Look> some) {
        return new Manner(look, badge, pin, hold, some, enters, tries, asks);
    }

    Manner notEntering() {
        return new Manner(look, badge, pin, hold, followers, false, tries, asks);
    }

    Manner trying(int times) {
        return new Manner(look, badge, pin, hold, followers, enters, times, asks);
    }

    Manner typing(Optional<Pin> other) {
        return new Manner(look, badge, other, hold, followers, enters, tries, asks);
    }

    Manner seenAs(Look other) {
        return new Manner(other, badge, pin, hold, followers, enters, tries, asks);
    }

    Manner presenting(String otherBadge) {
        return new Manner(look, otherBadge, pin, hold, followers, enters, tries, asks);
    }

    Manner byTheHandle() {
        return new Manner(look, badge, pin, hold, followers, enters, tries, false);
    }
}
