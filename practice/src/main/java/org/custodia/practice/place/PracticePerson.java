package org.custodia.practice.place;

import java.time.Instant;
import java.util.List;
import java.util.Optional;
import org.custodia.core.access.Pin;

/**
 * Somebody at Sternwick.
 *
 * @param role what they do, as the installation names it
 * @param home the site where they work
 * @param base the zone they come back to
 * @param haunts other zones their work takes them to
 * @param pin what they type at a keypad
 */
public record PracticePerson(
        String id,
        String name,
        String company,
        String kind,
        String role,
        String home,
        String base,
        List<String> haunts,
        List<String> levels,
        List<Badge> badges,
        Pin pin,
        Optional<Instant> until,
        boolean stopped,
        Look look) {

    /** A badge. */
    public record Badge(String number, String kind, String status, Optional<Instant> until) {}

    /** The badge they use. */
    public String badge() {
        return badges.get(0).number();
    }
}
