package org.custodia.wire;

import java.net.URI;
import java.util.List;
import java.util.Map;

/**
 * The file that says what to connect to.
 *
 * @param site name of the whole, shown at the top
 * @param watch doors to have on watch until an operator chooses, as system/door; may be empty
 */
public record LinksFile(String site, List<Link> links, List<WirePairing> pairings, List<String> watch) {
    /** The make of whatever speaks the link protocol of docs/link-protocol.md. */
    public static final String LINK_PROTOCOL = "link-protocol";

    public LinksFile {
        links = links == null ? List.of() : links.stream().toList();
        pairings = pairings == null ? List.of() : pairings.stream().toList();
        watch = watch == null ? List.of() : watch.stream().toList();
    }

    /**
     * One connection.
     *
     * @param kind access or recorder
     * @param make what it speaks; the link protocol where absent
     * @param id the system's id, as it calls itself
     * @param address ends in a slash
     * @param token never logged
     * @param certificate SHA-256 of the only certificate that is taken, 64 hexadecimal digits; absent where an authority
     *     vouches for it, and for http
     */
    public record Link(
            String kind, String make, String id, String name, URI address, String token, String certificate) {
        /** One that needs no certificate to be confirmed. */
        public Link(String kind, String make, String id, String name, URI address, String token) {
            this(kind, make, id, name, address, token, null);
        }

        public Link {
            make = make == null ? LINK_PROTOCOL : make;
        }

        @Override
        public String toString() {
            return kind + " " + id + " at " + address;
        }
    }

    /**
     * Which camera looks at which side of a door.
     *
     * @param door system/door
     * @param camera recorder/camera
     * @param side entry or exit
     * @param view outside, inside or overview
     * @param leadInSeconds how long before an event its footage is played from; 10 where absent
     * @param face x, y, width, height in shares of the picture; absent for the whole picture
     * @param faceAfterMillis how long after a badge on that side a head is to be seen there; 0 where absent
     */
    public record WirePairing(
            String door,
            String camera,
            String side,
            String view,
            Integer leadInSeconds,
            Map<String, Double> face,
            Integer faceAfterMillis) {
        /** Seconds; unless the file says otherwise. */
        private static final int LEAD_IN = 10;

        public WirePairing {
            leadInSeconds = leadInSeconds == null ? LEAD_IN : leadInSeconds;
            faceAfterMillis = faceAfterMillis == null ? 0 : faceAfterMillis;
        }
    }
}
