package org.custodia.desktop.alarm;

import java.time.Duration;
import java.time.Instant;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import org.custodia.core.alarm.Alarm;
import org.custodia.core.alarm.Figures;
import org.custodia.core.event.EventKey;
import org.custodia.desktop.rule.RuleWords;

/**
 * Which alarms are shown as cards over whatever view is open: those that nobody has seen and whose rule brings pictures forward,
 * the most urgent first. Where more than ten came in ten minutes they are summed up in one, until fewer than five do (EEMUA
 * 191). Holds no nodes.
 */
final class AlarmCalls {
    /** More than so many cover what people look at. */
    static final int MOST_CARDS = 2;

    private static final int OVER = 5;
    static final Duration WINDOW = Duration.ofMinutes(10);

    private final Set<Hidden> hidden = new HashSet<>();
    private boolean flood;
    private Optional<Instant> floodHidden = Optional.empty();

    /** One that somebody has put away; when it calls anew it is another. */
    private record Hidden(EventKey alarm, Instant since, int step) {
        static Hidden of(Alarm a) {
            return new Hidden(a.id(), a.call().since(), a.call().steps());
        }
    }

    /**
     * What is shown.
     *
     * @param cards one each
     * @param flood how many came in ten minutes, while those are summed up
     */
    record Shown(List<Alarm> cards, Optional<Integer> flood) {
        static final Shown NOTHING = new Shown(List.of(), Optional.empty());
    }

    /**
     * What is to be shown now.
     *
     * @param unseen alarms that nobody has seen, the most urgent first
     * @param raised how many were raised in the last ten minutes
     * @param most cards that there is room for, at most {@link #MOST_CARDS}
     */
    Shown show(List<Alarm> unseen, int raised, int most, Instant now) {
        List<Alarm> calling = unseen.stream().filter(a -> a.origin().forward()).toList();
        hidden.retainAll(new HashSet<>(calling.stream().map(Hidden::of).toList()));
        flood = flood ? raised >= OVER : raised > Figures.MOST_IN_TEN;
        if (flood) {
            // Put away, it comes back while it goes on.
            boolean away = floodHidden
                    .filter(t -> now.isBefore(t.plus(WINDOW)) && !now.isBefore(t))
                    .isPresent();
            return calling.isEmpty() || away ? Shown.NOTHING : new Shown(List.of(), Optional.of(raised));
        }
        floodHidden = Optional.empty();
        List<Alarm> left =
                calling.stream().filter(a -> !hidden.contains(Hidden.of(a))).toList();
        return new Shown(left.subList(0, Math.min(most, left.size())), Optional.empty());
    }

    /** Somebody has put a card away; the alarm stays as it is. */
    void hide(Alarm alarm) {
        hidden.add(Hidden.of(alarm));
    }

    /** Somebody has put the summary away. */
    void hideFlood(Instant now) {
        floodHidden = Optional.of(now);
    }

    /** How many there are of each sort, by what they are called, the most first. */
    static Map<String, Integer> sorts(List<Alarm> alarms) {
        Map<String, Integer> counts = new TreeMap<>();
        alarms.forEach(
                a -> counts.merge(RuleWords.name(a.origin().rule(), a.origin().name()), 1, Integer::sum));
        return counts;
    }
}
