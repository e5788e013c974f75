package org.custodia.core.access;

import java.util.Map;
import org.custodia.core.site.DoorId;

/**
 * Doors bundled with the timetable at which each may be opened.
 *
 * @param doors for each door the id of a timetable
 */
public record AccessLevel(String id, String name, Map<DoorId, String> doors) {
    public AccessLevel {
        doors = Map.copyOf(doors);
    }
}
