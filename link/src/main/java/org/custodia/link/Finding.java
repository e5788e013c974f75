package org.custodia.link;

import org.custodia.core.saying.Saying;

/**
 * What a walk through a system found about one requirement of the protocol.
 *
 * @param requirement what the protocol wants, in words
 * @param seen what was seen
 */
public record Finding(String requirement, Verdict verdict, Saying seen) {
    /** How it stands. */
    public enum Verdict {
        MET("met"),
        NOT_MET("NOT MET"),
        /** It works, and could be better. */
        ADVICE("advice"),
        NOT_TRIED("not tried");

        private final String words;

        Verdict(String words) {
            this.words = words;
        }

        public String words() {
            return words;
        }
    }
}
