package org.custodia.wire;

import com.fasterxml.jackson.annotation.JsonInclude;
import java.time.Instant;
import java.util.List;
import java.util.Map;

/** What an access system says besides events. */
public final class AccessMessages {
    private AccessMessages() {}

    /**
     * Answer to {@code GET hello}.
     *
     * @param lastSeq number of the newest event of the epoch; 0 when there is none
     * @param inventory changes when anything in the inventory does
     * @param alarms whether it keeps account of alarms, and takes word of what was done about them
     */
    public record Hello(
            int protocol,
            String system,
            String name,
            String make,
            long epoch,
            long lastSeq,
            String inventory,
            boolean alarms) {}

    /** Number of an event. */
    public record EventNumber(long epoch, long seq) {}

    /**
     * Body of {@code POST alarms}: what was done about events.
     *
     * @param key the same each time this is told
     * @param act acknowledged, finished
     */
    public record Handling(String key, String act, List<EventNumber> events, String by, Instant at) {}

    /** Answer to {@code POST alarms}: nothing beside that it was taken. */
    public record Taken() {}

    /** Sent along with events every few seconds; the inventory as in {@link Hello}. */
    public record Heartbeat(Instant time, long epoch, long lastSeq, String inventory) {}

    /** Answer to {@code GET snapshot}: the state of all doors and units as of an event. */
    public record Snapshot(long epoch, long seq, Instant time, List<DoorReport> doors, List<UnitReport> units) {}

    /** State of one unit. */
    public record UnitReport(String unit, Map<String, String> details) {}

    /** State of one door; details as in a door.report event. */
    public record DoorReport(String door, Map<String, String> details) {}

    /**
     * Answer to {@code GET inventory/places}.
     *
     * @param more whether there are doors after these
     */
    public record Places(List<WireSite> sites, List<WireDoor> doors, List<WireUnit> units, boolean more) {}

    /**
     * A device that is no door: an input, a call station, a display …
     *
     * @param kind panic-button, fire-contact, motion-detector, tamper-contact, intruder-panel, call-station, display,
     *     muster-reader, or the make's own word
     * @param door the door it belongs to, if it does
     */
    public record WireUnit(String id, String kind, String name, String site, String controller, String door) {}

    public record WireSite(String id, String name, String timeZone) {}

    /**
     * A door.
     *
     * @param heldLimitSeconds how long it may stand open
     * @param asks what it asks for on the way in; an empty list says that it asks for nothing, none that nobody knows
     * @param capabilities words of {@code org.custodia.core.site.DoorCapability} in small letters with dashes
     */
    public record WireDoor(
            String id,
            String controller,
            String name,
            String site,
            String level,
            String outside,
            String inside,
            int heldLimitSeconds,
            List<String> capabilities,
            List<WireReader> readers,
            @JsonInclude(JsonInclude.Include.NON_NULL) List<String> asks) {}

    /** A reader; the side is entry or exit. */
    public record WireReader(String id, String side, String name) {}

    /**
     * Answer to {@code GET inventory/people?after=ID&limit=N}, in order of id.
     *
     * @param more whether there are further pages
     */
    public record People(List<WirePerson> people, boolean more) {}

    /** A person with the badges. */
    public record WirePerson(
            String id,
            String name,
            String company,
            String kind,
            Instant until,
            boolean stopped,
            String photo,
            List<String> levels,
            List<WireCredential> credentials) {}

    public record WireCredential(String number, String kind, String status, Instant from, Instant until) {}

    /** Answer to {@code GET inventory/rules}. */
    public record Rules(
            List<WireLevel> levels,
            List<WireTimetable> timetables,
            List<WireHoliday> holidays,
            List<WireFormat> formats) {}

    /** Numbers that readers are set up for. */
    public record WireFormat(String id, String name, int digits) {}

    /** A level: for each door the id of a timetable. */
    public record WireLevel(String id, String name, Map<String, String> doors) {}

    public record WireTimetable(String id, String name, List<WireSpan> spans) {}

    /** Days as YYYY-MM-DD, the last one included. */
    public record WireHoliday(String id, String name, String from, String to) {}

    /** Days as MONDAY …, and HOLIDAY; times as HH:mm, 24:00 for the end of the day. */
    public record WireSpan(List<String> days, String from, String to) {}

    /**
     * Body of {@code POST commands}.
     *
     * @param text what a display is to show
     */
    public record Command(String key, String door, String command, Instant until, String text) {}

    /**
     * Answer to a command.
     *
     * @param result done, refused, not-reached
     * @param words what to tell the operator
     */
    public record CommandReply(String result, String words) {}

    /** Body of every failed request. */
    public record Problem(String problem) {}
}
