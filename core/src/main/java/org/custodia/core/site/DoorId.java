package org.custodia.core.site;

/**
 * Names a door in every system: the system's id, a slash, and the system's own id for the door.
 *
 * @param value not blank, at most {@value Ids#LONGEST} characters
 */
public record DoorId(String value) {
    public DoorId {
        Ids.check(value);
    }

    @Override
    public String toString() {
        return value;
    }
}
