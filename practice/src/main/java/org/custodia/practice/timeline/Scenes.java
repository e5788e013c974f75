package org.custodia.practice.timeline;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import org.custodia.practice.place.Look;
import org.custodia.practice.place.PracticeCamera;
import org.custodia.practice.place.PracticeDoor;

/** What there was to see at each door, by time: who came, and when the leaf stood open. Safe for several threads. */
public final class Scenes {
    /** Nobody is seen at a door for longer than this, in milliseconds. */
    private static final long LONGEST = 400_000;

    /**
     * Somebody at a door. Times in milliseconds.
     *
     * @param inwards from the outside to the inside
     * @param arrive when they stand at the reader or the leaf
     * @param go when they begin to walk on, through the door or away
     * @param through whether they went through
     * @param lamp what the reader showed: 'g' granted, 'r' refused, '-' nothing
     */
    public record Visit(Look look, boolean inwards, long arrive, long go, boolean through, char lamp) {
        /** How long the way to the door takes. */
        public static final long APPROACH = 2_600;
        /** How long the way through or away takes. */
        public static final long LEAVE = 2_600;

        public long first() {
            return arrive - APPROACH;
        }

        public long last() {
            return go + LEAVE;
        }
    }

    /** The leaf being open; {@code to} is {@link Long#MAX_VALUE} while it is. */
    public record Leaf(long from, long to) {}

    private final Map<String, List<Visit>> visits = new HashMap<>();
    private final Map<String, List<Leaf>> leaves = new HashMap<>();
    private final Map<String, List<Leaf>> lost = new HashMap<>();
    private final Map<String, TreeMap<Long, PracticeDoor>> turned = new HashMap<>();

    synchronized void visit(String door, Visit visit) {
        List<Visit> all = visits.computeIfAbsent(door, d -> new ArrayList<>());
        int i = all.size();
        while (i > 0 && all.get(i - 1).arrive() > visit.arrive()) {
            i--;
        }
        all.add(i, visit);
    }

    /** Somebody who stood at a door is no longer to be seen there from a time on. */
    synchronized void cutShort(String door, Look look, long arrived, long at) {
        List<Visit> all = visits.getOrDefault(door, List.of());
        for (int i = all.size() - 1; i >= 0 && all.get(i).arrive() >= arrived; i--) {
            Visit v = all.get(i);
            if (v.arrive() == arrived && v.look() == look) {
                all.set(i, new Visit(look, v.inwards(), arrived, at - Visit.LEAVE, false, v.lamp()));
            }
        }
    }

    synchronized void open(String door, long at) {
        leaves.computeIfAbsent(door, d -> new ArrayList<>()).add(new Leaf(at, Long.MAX_VALUE));
    }

    synchronized void close(String door, long at) {
        endLast(leaves.get(door), at);
    }

    synchronized void cameraLost(String camera, long at) {
        lost.computeIfAbsent(camera, d -> new ArrayList<>()).add(new Leaf(at, Long.MAX_VALUE));
    }

    synchronized void cameraBack(String camera, long at) {
        endLast(lost.get(camera), at);
    }

    /** Somebody turns a camera to another door, or swaps its cable with that one's. */
    synchronized void cameraTurned(String camera, long at, PracticeDoor to) {
        turned.computeIfAbsent(camera, c -> new TreeMap<>()).put(at, to);
    }

    /** A camera as it is turned at a time. */
    public synchronized PracticeCamera asTurned(PracticeCamera camera, long at) {
        TreeMap<Long, PracticeDoor> all = turned.get(camera.id());
        Map.Entry<Long, PracticeDoor> last = all == null ? null : all.floorEntry(at);
        return last == null ? camera : new PracticeCamera(camera.id(), camera.name(), last.getValue(), camera.view());
    }

    private static void endLast(List<Leaf> all, long at) {
        if (all != null && !all.isEmpty() && all.get(all.size() - 1).to() == Long.MAX_VALUE) {
            all.set(all.size() - 1, new Leaf(all.get(all.size() - 1).from(), at));
        }
    }

    /** Who is to be seen near a door at a time. */
    public synchronized List<Visit> visits(String door, long at) {
        List<Visit> all = visits.getOrDefault(door, List.of());
        int i = firstAfter(all, at + Visit.APPROACH);
        List<Visit> seen = new ArrayList<>();
        for (int k = i - 1; k >= 0 && all.get(k).arrive() > at - LONGEST; k--) {
            if (all.get(k).first() <= at && all.get(k).last() >= at) {
                seen.add(0, all.get(k));
            }
        }
        return seen;
    }

    private static int firstAfter(List<Visit> all, long at) {
        int low = 0;
        int high = all.size();
        while (low < high) {
            int middle = (low + high) >>> 1;
            if (all.get(middle).arrive() > at) {
                high = middle;
            } else {
                low = middle + 1;
            }
        }
        return low;
    }

    /** How far the leaf is open at a time, 0 to 1. */
    public synchronized double leaf(String door, long at) {
        double most = 0;
        List<Leaf> all = leaves.getOrDefault(door, List.of());
        int low = 0;
        int high = all.size();
        while (low < high) {
            int middle = (low + high) >>> 1;
            if (all.get(middle).from() > at) {
                high = middle;
            } else {
                low = middle + 1;
            }
        }
        for (int i = low - 1; i >= 0 && i >= low - 2; i--) {
            Leaf leaf = all.get(i);
            double opening = Math.min(1, (at - leaf.from() + 100) / 700.0);
            double closing = leaf.to() == Long.MAX_VALUE ? 1 : Math.max(0, Math.min(1, (leaf.to() + 100 - at) / 800.0));
            most = Math.max(most, Math.min(opening, closing));
        }
        return most;
    }

    /** When a camera gave no picture, as far as that is over. */
    public synchronized List<Leaf> lost(String camera) {
        return lost.getOrDefault(camera, List.of()).stream()
                .filter(l -> l.to() != Long.MAX_VALUE)
                .toList();
    }

    /** Since when a camera gives no picture at a time; negative while it does. */
    public synchronized long lostSince(String camera, long at) {
        List<Leaf> all = lost.getOrDefault(camera, List.of());
        for (int i = all.size() - 1; i >= 0; i--) {
            if (all.get(i).from() <= at) {
                return all.get(i).to() > at ? all.get(i).from() : -1;
            }
        }
        return -1;
    }
}
