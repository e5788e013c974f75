package org.custodia.core.alarm;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.stream.Stream;
import org.custodia.core.event.Cancellation;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventField;
import org.custodia.core.event.EventLog;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Filter;
import org.custodia.core.site.SystemId;

/** Alarms of the past, folded from the facts in the log: those of any period, and the queue as it stood at any instant. */
final class AlarmHistory {
    /** Of alarms that were open for longer before the period, what happened in it is not told. */
    static final Duration OPEN_AT_MOST = Duration.ofDays(100);

    private static final int PAGE = 2_000;

    private final EventLog log;

    AlarmHistory(EventLog log) {
        this.log = log;
    }

    private List<Event> facts(Instant from, Instant to, Cancellation cancellation) {
        List<Event> all = new ArrayList<>();
        EventQuery query = EventQuery.all()
                .where(Filter.is(EventField.SYSTEM, SystemId.CUSTODIA))
                .kinds(AlarmBook.FACTS)
                .between(from, to)
                .oldest(PAGE);
        while (true) {
            List<Event> page = log.find(query, cancellation);
            all.addAll(page);
            if (page.size() < PAGE) {
                all.sort(Comparator.comparingLong(Event::position));
                return all;
            }
            query = query.after(page.get(page.size() - 1));
        }
    }

    /**
     * Those that were raised in a period, as they stand by now, the newest first.
     *
     * @param now up to when it is told what became of them
     */
    List<Alarm> raised(Instant from, Instant to, Instant now, Cancellation cancellation) {
        AlarmBook book = AlarmBook.ofAll();
        Instant end = now.isAfter(to) ? now : to;
        facts(from, end.plusSeconds(1), cancellation).forEach(book::take);
        List<Alarm> all = new ArrayList<>(book.open());
        all.addAll(book.finished());
        all.removeIf(
                a -> a.origin().raised().isBefore(from) || !a.origin().raised().isBefore(to));
        all.sort(Comparator.comparing((Alarm a) -> a.origin().raised())
                .thenComparing(a -> a.origin().position())
                .reversed());
        return all;
    }

    /**
     * Those that were raised in a period, or raised before and called again in it, as they stand by now, the newest first.
     *
     * @param now up to when it is told what became of them
     */
    List<Alarm> called(Instant from, Instant to, Instant now, Cancellation cancellation) {
        AlarmBook book = AlarmBook.ofAll();
        Instant end = now.isAfter(to) ? now : to;
        facts(from.minus(OPEN_AT_MOST), end.plusSeconds(1), cancellation).forEach(book::take);
        List<Alarm> all = new ArrayList<>(book.open());
        all.addAll(book.finished());
        all.removeIf(a -> a.calls().stream().noneMatch(t -> within(t, from, to))
                && !within(a.origin().raised(), from, to));
        all.sort(Comparator.comparing((Alarm a) -> a.origin().raised())
                .thenComparing(a -> a.origin().position())
                .reversed());
        return all;
    }

    private static boolean within(Instant at, Instant from, Instant to) {
        return !at.isBefore(from) && at.isBefore(to);
    }

    /** Those that were not finished at an instant, as they stood then, the most urgent first. */
    List<Alarm> openAt(Instant at, Cancellation cancellation) {
        AlarmBook book = AlarmBook.ofAll();
        facts(at.minus(OPEN_AT_MOST), at.plusNanos(1_000), cancellation).forEach(book::take);
        return Stream.concat(book.open().stream(), book.replaying().stream())
                .sorted(Alarm.BY_URGENCY)
                .toList();
    }
}
