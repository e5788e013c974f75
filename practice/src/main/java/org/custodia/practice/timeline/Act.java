package org.custodia.practice.timeline;

/**
 * Something that was done to the practice site, as it stands in its journal. Fields that an act does not use are null or 0.
 *
 * @param at true time, in milliseconds since 1970
 * @param act present, code, hold, shut, force, caller, command, controller-lost, controller-back, battery-low, camera-lost, camera-back, clock
 * @param who the person seen at the door, where that is not the badge's owner
 * @param millis how long, or until when, or by how much
 */
public record Act(
        long at,
        String act,
        String door,
        String badge,
        String pin,
        String who,
        boolean outwards,
        String target,
        String command,
        String key,
        long millis) {

    public static Act of(String act) {
        return new Act(0, act, null, null, null, null, false, null, null, null, 0);
    }

    public Act at(long time) {
        return new Act(time, act, door, badge, pin, who, outwards, target, command, key, millis);
    }

    public Act door(String id) {
        return new Act(at, act, id, badge, pin, who, outwards, target, command, key, millis);
    }

    public Act badge(String number, String typed, String seen, boolean goesOut) {
        return new Act(at, act, door, number, typed, seen, goesOut, target, command, key, millis);
    }

    public Act target(String id) {
        return new Act(at, act, door, badge, pin, who, outwards, id, command, key, millis);
    }

    public Act command(String word, String withKey) {
        return new Act(at, act, door, badge, pin, who, outwards, target, word, withKey, millis);
    }

    public Act millis(long value) {
        return new Act(at, act, door, badge, pin, who, outwards, target, command, key, value);
    }

    /** Says what was done and where; what was typed is not printed. */
    @Override
    public String toString() {
        return act + (door == null ? "" : " at " + door) + " at " + java.time.Instant.ofEpochMilli(at);
    }
}
