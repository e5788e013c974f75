package org.custodia.core.link;

import org.custodia.core.saying.Saying;

/**
 * What a walk through a system found about one requirement of the protocol.
 *
 * @param step what part of the walk it belongs to
 * @param requirement what the protocol wants, in the words of the protocol
 * @param seen what was seen
 */
public record Finding(Step step, String requirement, Verdict verdict, Saying seen) {
    /** The parts of a walk, in the order in which somebody would ask. */
    public enum Step {
        /** Whether something answers at the address. */
        REACHABLE,
        /** Whether it lets us in, and nobody else. */
        SIGNED_IN,
        /** Whether it is the system it should be, and speaks what we do. */
        WHO,
        CLOCK,
        /** What it has: doors, people, rules, cameras. */
        HAS,
        /** What it tells: states and events. */
        TELLS,
        /** What it can be told to do. */
        DOES,
        /** Live pictures, footage, stills. */
        PICTURES
    }

    /** How it stands. */
    public enum Verdict {
        MET,
        NOT_MET,
        /** It works, and could be better. */
        ADVICE,
        NOT_TRIED
    }
}
