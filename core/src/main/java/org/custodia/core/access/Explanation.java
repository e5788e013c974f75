package org.custodia.core.access;

import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.custodia.core.access.Decision.Nearest;

/**
 * Why a controller decided as it did, as far as that follows from what is on file.
 *
 * @param theirs what the controller decided
 * @param decision what the rules say, as far as it can be said without what is lacking; nothing where it cannot
 * @param possible all that may follow, whatever is lacking
 * @param lacks what would have to be known to say which of several follows, or to trust the one that does
 * @param nearest the nearest thing that would have been granted, where it was refused
 */
public record Explanation(
        Outcome theirs,
        Optional<Decision> decision,
        List<Outcome> possible,
        Set<Lack> lacks,
        Optional<Nearest> nearest) {
    public Explanation {
        possible = List.copyOf(possible);
        lacks = Set.copyOf(lacks);
    }

    /**
     * How it ended.
     *
     * @param reason why it was refused
     */
    public record Outcome(boolean granted, Optional<String> reason) {
        static final Outcome GRANTED = new Outcome(true, Optional.empty());

        static Outcome refused(String reason) {
            return new Outcome(false, Optional.of(reason));
        }
    }

    /** What is not known. */
    public enum Lack {
        /** Which door it was, or what is known of it. */
        DOOR,
        /** What was presented. */
        NUMBER,
        /** Of two things under one number: which was presented. */
        KIND,
        /** On which side of the door. */
        SIDE,
        /** People, badges, levels and timetables: they have not been read. */
        RULES,
        /** What the rules were then: they were read for the first time later. */
        RULES_OF_THEN,
        /** Which numbers the readers are set up for. */
        FORMATS,
        /** What the door asks for beside a badge. */
        ASKS,
        /** PINs, which no system tells. */
        PIN,
        /** Who was inside. */
        INSIDE,
        /** Whether somebody else presented a badge in time. */
        SECOND_PERSON,
        /** How the door and its reader stood. */
        STATE
    }

    /** Whether what the controller decided is among what may follow. */
    public boolean agrees() {
        return possible.contains(theirs);
    }

    /** Whether only one thing can follow. */
    public boolean certain() {
        return possible.size() == 1 && lacks.isEmpty();
    }
}
