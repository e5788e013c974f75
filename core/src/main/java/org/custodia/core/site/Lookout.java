package org.custodia.core.site;

import java.time.Duration;
import java.util.Optional;

/**
 * A camera that shows something other than a door: a device, or a zone such as a hall or stairs.
 *
 * @param leadIn how long before an event there its footage is played from
 */
public record Lookout(CameraId camera, Subject of, Duration leadIn) {
    /** Nobody waits longer for what is played to begin. */
    public static final Duration MOST_LEAD = Duration.ofMinutes(2);

    public Lookout {
        if (leadIn.isNegative() || leadIn.compareTo(MOST_LEAD) > 0) {
            throw new IllegalArgumentException("a lead-in is from nothing to two minutes");
        }
    }

    /** What a camera shows. */
    public sealed interface Subject {
        /** As one word: what sort it is, a blank, and which one. */
        String key();

        /** What was written so; nothing where it was not. */
        static Optional<Subject> parse(String key) {
            String[] parts = key.split(" ", 2);
            try {
                if (parts.length == 2 && parts[0].equals("device")) {
                    return Optional.of(new OfDevice(new DeviceId(parts[1])));
                }
                if (parts.length == 2 && parts[0].equals("zone")) {
                    int slash = parts[1].indexOf('\n');
                    return Optional.of(
                            new OfZone(new SiteId(parts[1].substring(0, slash)), parts[1].substring(slash + 1)));
                }
            } catch (IllegalArgumentException | IndexOutOfBoundsException e) {
                return Optional.empty();
            }
            return Optional.empty();
        }
    }

    /** An input, a call station, or another device that is no door. */
    public record OfDevice(DeviceId device) implements Subject {
        @Override
        public String key() {
            return "device " + device;
        }
    }

    /** A zone of a site, by its name. */
    public record OfZone(SiteId site, String zone) implements Subject {
        public OfZone {
            if (zone.isBlank() || zone.length() > Placing.LONGEST || zone.indexOf('\n') >= 0) {
                throw new IllegalArgumentException("a zone has a name");
            }
        }

        @Override
        public String key() {
            return "zone " + site + "\n" + zone;
        }
    }

    /** Which camera and what, as one word. */
    public String key() {
        return camera + "\n" + of.key();
    }

    /** The same as a pair, by which it is played and tried; of no door that there is. */
    public Pairing asPair() {
        return new Pairing(
                pairId(), NO_DOOR, camera, Side.ENTRY, Pairing.View.OVERVIEW, leadIn, Crop.WHOLE, Duration.ZERO);
    }

    /** Its name among pairs. */
    public PairId pairId() {
        String key = key();
        return new PairId(key.length() <= PairId.LONGEST ? key : key.substring(0, PairId.LONGEST));
    }

    private static final DoorId NO_DOOR = new DoorId("custodia/none");
}
