package org.custodia.core.event;

import java.time.Instant;
import java.util.List;
import java.util.Optional;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.SystemId;

/** What systems call what they send, what that means here and has meant, and what could not be understood at all. */
public interface SentWords {
    /** The most codes of one system that are told; the most frequent are among them. */
    int MOST = 5_000;

    /**
     * Events that were sent alike.
     *
     * @param kind as it was sent
     * @param code as it was sent, if there was one
     * @param reasons as they were sent, at most a few of them
     * @param means the kind it is here
     * @param because the reason it has here, where all of them have the same
     * @param events how many there are
     */
    record Sent(
            String kind,
            Optional<String> code,
            List<String> reasons,
            EventKind means,
            Optional<String> because,
            long events) {
        public Sent {
            reasons = List.copyOf(reasons);
        }

        /** Whether what it means is a kind that is known here. */
        public boolean known() {
            return Kinds.all().contains(means);
        }
    }

    /** What a system sent, by kind and code. */
    List<Sent> sent(SystemId system);

    /**
     * One version of a translation.
     *
     * @param by the operator's sign-in name
     */
    record Made(Translation translation, Instant when, String by) {}

    /** All versions of a system's translation, the newest first. */
    List<Made> versions(SystemId system);

    /**
     * Something that could not be understood, as it is kept.
     *
     * @param raw as it came, at its beginning
     */
    record Kept(Instant received, String raw, Saying why) {}

    /**
     * What of a system could not be understood.
     *
     * @param messages how many different ones there are
     * @param newest some of them, the newest first
     */
    record NotUnderstood(long messages, List<Kept> newest) {
        public NotUnderstood {
            newest = List.copyOf(newest);
        }
    }

    NotUnderstood notUnderstood(SystemId system, int most);
}
