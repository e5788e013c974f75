package org.custodia.wire;

import java.net.URI;
import java.util.List;
import java.util.Map;

/**
 * The file that says what to connect to, and what else somebody set up.
 *
 * @param site name of the whole, shown at the top
 * @param watch doors to have on watch until an operator chooses, as system/door; may be empty
 * @param sites those that no system has
 * @param placings what was said here of what systems have
 * @param neighbours which doors are neighbours
 * @param lookouts which cameras show something other than a door
 * @param meanings what systems' own words mean here; of those that fit the first holds
 */
public record LinksFile(
        String site,
        List<Link> links,
        List<WirePairing> pairings,
        List<String> watch,
        List<WireSite> sites,
        List<WirePlacing> placings,
        List<WireNeighbours> neighbours,
        List<WireLookout> lookouts,
        List<WireMeaning> meanings) {
    /** The make of whatever speaks the link protocol of docs/link-protocol.md. */
    public static final String LINK_PROTOCOL = "link-protocol";

    public LinksFile {
        links = some(links);
        pairings = some(pairings);
        watch = some(watch);
        sites = some(sites);
        placings = some(placings);
        neighbours = some(neighbours);
        lookouts = some(lookouts);
        meanings = some(meanings);
    }

    /** One that says no more than what to connect to and what belongs together. */
    public LinksFile(String site, List<Link> links, List<WirePairing> pairings, List<String> watch) {
        this(site, links, pairings, watch, null, null, null, null, null);
    }

    /** Empty ones may be among them: whoever reads says so. */
    private static <T> List<T> some(List<T> list) {
        return list == null ? List.of() : list.stream().toList();
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
     * @param openAllowed whether the address may be one that anybody on the way can read; absent for yes, since whoever
     *     wrote it there has allowed that
     * @param paused whether it is set up but not connected to; absent for no
     * @param clockLimitSeconds by how much its clock may be off before that is told; absent for the usual
     */
    public record Link(
            String kind,
            String make,
            String id,
            String name,
            URI address,
            String token,
            String certificate,
            Boolean openAllowed,
            Boolean paused,
            Double clockLimitSeconds) {
        /** One that needs no certificate to be confirmed. */
        public Link(String kind, String make, String id, String name, URI address, String token) {
            this(kind, make, id, name, address, token, null);
        }

        /** One that is as most are. */
        public Link(String kind, String make, String id, String name, URI address, String token, String certificate) {
            this(kind, make, id, name, address, token, certificate, null, null, null);
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

    /**
     * A site that no system has.
     *
     * @param timeZone as the time zone database calls it
     */
    public record WireSite(String id, String name, String timeZone) {}

    /**
     * What was said here of something that a system has; what is absent is as the system says.
     *
     * @param thing door, camera or device, a blank, and system/id
     * @param leftOut whether it is not shown; absent for no
     */
    public record WirePlacing(
            String thing, Boolean leftOut, String name, String site, String level, String outside, String inside) {}

    /**
     * Two doors that are neighbours.
     *
     * @param seconds how long people take from one to the other
     */
    public record WireNeighbours(String first, String second, Double seconds) {}

    /**
     * A camera that shows a device, or a zone of a site.
     *
     * @param camera recorder/camera
     * @param device system/device; absent for a zone
     */
    public record WireLookout(String camera, String device, String site, String zone, Double leadInSeconds) {}

    /**
     * What a system's own words mean here.
     *
     * @param kind as it is sent; absent for any
     * @param code as it is sent; absent for any
     * @param means a kind as Custodia has them, or one of the site's own
     * @param reason absent to keep the one that is sent
     */
    public record WireMeaning(String system, String kind, String code, String means, String reason) {}
}
