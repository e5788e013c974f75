package org.custodia.desktop.strip;

import java.util.ArrayList;
import java.util.Collections;
import java.util.Comparator;
import java.util.List;
import org.custodia.core.event.Priority;

/**
 * Where stills float on a strip: beside their tick where there is room, moved a little where there is not, and in a counted
 * stack where they would have to move too far. Newer ones have the first choice. A stack shows the worst of what is in it,
 * and every tick keeps its own shape, so that nothing with a priority is ever hidden.
 */
public final class StripLayout {
    /** Room a card takes, with the gap, at a text scale of 100. */
    public static final double CARD = 88;
    /** How far a card may stand to the left or right of its best place. */
    public static final double MOST_SHIFT = 76;

    private static final double STILL_MIDDLE = 24;

    private StripLayout() {}

    /**
     * One card.
     *
     * @param x of its left edge
     * @param tickX of the tick its leader points at
     * @param items newest last; more than one is a stack
     */
    public record Card(double x, double tickX, List<StripItem> items) {
        /** The one that stands for the card: the worst, and of those the newest. */
        public StripItem face() {
            return Collections.max(
                    items, Comparator.comparing(StripItem::priority).thenComparing(StripItem::at));
        }

        public Priority worst() {
            return face().priority();
        }
    }

    /** Where the middle of a still is, from the left edge of a card of some width. */
    static double stillMiddle(double card) {
        return STILL_MIDDLE * card / CARD;
    }

    /** Cards for items in order of time. */
    public static List<Card> place(List<StripItem> items, TimeAxis axis) {
        return place(items, axis, CARD);
    }

    /** Cards for items in order of time, each taking a width; all other lengths go with it. */
    public static List<Card> place(List<StripItem> items, TimeAxis axis, double card) {
        List<Card> cards = new ArrayList<>();
        double limit = axis.width();
        for (int i = items.size() - 1; i >= 0; i--) {
            StripItem item = items.get(i);
            double tick = Math.min(axis.width(), axis.x(item.at()));
            if (!item.still() || tick < 0) {
                continue;
            }
            double best = tick - stillMiddle(card);
            double x = Math.min(best, limit - card);
            boolean tooFar = best - x > MOST_SHIFT * card / CARD && !cards.isEmpty();
            boolean noRoom = Math.max(0, x) + card > limit + 0.001 && !cards.isEmpty();
            if (tooFar || noRoom) {
                Card last = cards.get(cards.size() - 1);
                List<StripItem> more = new ArrayList<>(last.items());
                more.add(0, item);
                cards.set(cards.size() - 1, new Card(last.x(), last.tickX(), List.copyOf(more)));
                continue;
            }
            double placed = Math.max(0, x);
            cards.add(new Card(placed, tick, List.of(item)));
            limit = placed;
        }
        Collections.reverse(cards);
        return cards;
    }
}
