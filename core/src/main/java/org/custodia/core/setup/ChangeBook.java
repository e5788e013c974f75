package org.custodia.core.setup;

import java.time.Instant;
import java.util.List;
import java.util.Optional;
import org.custodia.core.event.Event;
import org.custodia.core.operator.Actor;

/** What operators have said in a register, change by change, and how it was before. */
public interface ChangeBook {
    /** What a change is about. */
    enum About {
        LINK,
        PAIR,
        PLACING,
        WALK,
        LOOKOUT,
        SITE,
        RULE,
        PROCEDURE,
        RECIPIENT,
        MAIL_SERVER,
        ESCALATION
    }

    /**
     * One record that was changed.
     *
     * @param version the number it got; based on what was there before
     * @param newest whether nothing else was said of it since, by an operator or a system
     * @param before a {@link LinkSetup}, {@link org.custodia.core.site.Pairing}, {@link org.custodia.core.site.Placing},
     *     {@link org.custodia.core.site.Walk}, {@link org.custodia.core.site.Lookout} or {@link org.custodia.core.site.Site}, or what another desk keeps, such as a rule;
     *     nothing where there was none
     * @param after likewise
     */
    record Part(String id, long version, boolean newest, Optional<Object> before, Optional<Object> after) {}

    /**
     * What one operator said in one go.
     *
     * @param by the operator's sign-in name
     * @param parts in the order of ids, at least one
     */
    record Change(About about, Instant when, String by, List<Part> parts) {
        public Change {
            parts = List.copyOf(parts);
        }

        /** Whether all of it still stands as it was said, so that it can be taken back. */
        public boolean stands() {
            return parts.stream().allMatch(Part::newest);
        }
    }

    /** The newest changes, the newest first. */
    List<Change> changes(int most);

    /** One whose changes can be taken back in it. */
    interface Undoing extends ChangeBook {
        /**
         * Says again what was so before a change, as a change of its own.
         *
         * @param fact the event recording the edit; both are committed together, or neither
         * @throws org.custodia.core.operator.NotPermittedException if the operator may not say that
         * @throws org.custodia.core.event.EventLogException if something else has been said of one of its records since, or
         *     it cannot be written
         */
        void takeBack(Change change, Actor by, Event.Builder fact);
    }
}
