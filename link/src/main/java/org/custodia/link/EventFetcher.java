package org.custodia.link;

import java.io.IOException;
import java.time.Clock;
import java.time.Instant;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Deque;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.TimeoutException;
import org.custodia.core.event.Coverage;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.EventIntake.Batch;
import org.custodia.core.event.EventIntake.Unread;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.Gaps;
import org.custodia.core.event.NumberRanges.Range;
import org.custodia.core.saying.Saying;
import org.custodia.core.saying.Says;
import org.custodia.core.site.SystemId;

/**
 * Fetches events by their numbers and hands them to the intake: all that came after a number, or a hole among those that are
 * stored, which is asked for again before it is called a gap. What it takes as stored is what the log has committed, never
 * what was read. Used by one thread at a time.
 */
final class EventFetcher {
    private static final int PAGE = 4_000;
    private static final int BATCH = 1_000;
    private static final int BATCH_CHARACTERS = 512 * 1024;
    /** Batches that may wait to be stored while the next is read; the intake bounds their size. */
    private static final int AHEAD = 4;
    /** How often a line that cannot be read is asked for by itself. */
    private static final int ALONE = 3;
    /** Lines that are asked for by themselves before new events are followed; the others are asked for meanwhile. */
    private static final int MOST_ALONE = 20;

    private final SystemId system;
    private final Requests requests;
    private final EventIntake intake;
    private final EventTranslation translation;
    private final Clock clock;
    private final Runnable heard;
    private final Progress progress;
    private final EventIntake.Feed feed;
    private final Deque<CompletableFuture<Void>> waiting = new ArrayDeque<>();

    /** Told how far it has come. */
    interface Progress {
        void reached(long number);
    }

    EventFetcher(
            SystemId system,
            Requests requests,
            EventIntake intake,
            EventIntake.Feed feed,
            EventTranslation translation,
            Clock clock,
            Runnable heard,
            Progress progress) {
        this.system = system;
        this.requests = requests;
        this.intake = intake;
        this.feed = feed;
        this.translation = translation;
        this.clock = clock;
        this.heard = heard;
        this.progress = progress;
    }

    /** What a page brought. */
    private static final class Page {
        private final long after;
        private long reached;
        private long previous;
        private int lines;
        private boolean cut;
        private final List<Event> events = new ArrayList<>();
        private final List<Unread> unread = new ArrayList<>();
        /** Lines that could not be understood and bear no number, since the last that bears one. */
        private List<Unread> unnumbered = new ArrayList<>();

        private boolean lostSome;
        private int characters;

        Page(long after) {
            this.after = after;
            this.reached = after;
            this.previous = after;
        }
    }

    /**
     * Reads what came after a number.
     *
     * @param wanted read on until this number at least, as long as anything comes
     * @return the number it came to
     */
    long after(long epoch, long number, long wanted) throws IOException, InterruptedException {
        long at = number;
        int askedAlone = 0;
        List<String> tail = List.of();
        while (at < wanted) {
            Page page = page(epoch, at, PAGE);
            tail = end(page, epoch, wanted, tail);
            await();
            if (page.reached > at) {
                at = page.reached;
                progress.reached(at);
            } else if (page.lostSome && askedAlone < MOST_ALONE && alone(epoch, at + 1)) {
                askedAlone++;
                at++;
            } else {
                break;
            }
        }
        return at;
    }

    /** Reads one page and hands it over in batches. */
    private Page page(long epoch, long after, int limit) throws IOException, InterruptedException {
        Page page = new Page(after);
        try {
            requests.lines("events?after=" + after + "&limit=" + limit, line -> take(page, epoch, line));
        } finally {
            // What came before it broke off is as good as any.
            flush(page);
        }
        return page;
    }

    private void take(Page page, long epoch, Lines.Line line) throws IOException, InterruptedException {
        heard.run();
        Instant now = clock.instant();
        page.lines++;
        EventTranslation.Understood understood = line.oversized()
                ? new EventTranslation.Understood(
                        Optional.empty(),
                        Optional.of(Unread.of(system, now, line.text(), Saying.of("unread.too-long"))))
                : translation.read(line.text(), now, Optional.empty());
        Optional<EventKey> key =
                understood.event().map(Event::key).or(() -> understood.unread().flatMap(Unread::key));
        if (key.isEmpty()) {
            page.lostSome = true;
            if (line.whole()) {
                page.unnumbered.add(understood.unread().orElseThrow());
            } else {
                page.cut = true;
            }
            return;
        }
        number(page, epoch, key.get());
        understood.event().ifPresent(page.events::add);
        understood.unread().ifPresent(page.unread::add);
        page.characters += line.text().length();
        if (page.events.size() + page.unread.size() >= BATCH || page.characters >= BATCH_CHARACTERS) {
            flush(page);
        }
    }

    /** Takes in the number of a line; lines without one have those in between if there are just as many. */
    private void number(Page page, long epoch, EventKey key) {
        if (key.epoch() != epoch) {
            return;
        }
        long sequence = key.sequence();
        if (!page.unnumbered.isEmpty() && sequence - page.previous - 1 == page.unnumbered.size()) {
            for (Unread one : page.unnumbered) {
                page.previous++;
                page.unread.add(new Unread(
                        system,
                        Optional.of(new EventKey(system, epoch, page.previous)),
                        one.received(),
                        one.raw(),
                        one.why()));
            }
        }
        page.unnumbered = new ArrayList<>();
        // A number far ahead is gone on from only if more follow it.
        if (sequence - page.previous <= Coverage.STRAY || page.previous > page.reached) {
            page.reached = Math.max(page.reached, sequence);
        }
        page.previous = sequence;
    }

    /**
     * Lines without a number at the end of what there is have the last numbers, if they are just as many as are missing up to
     * the one that the system says it has reached, and came so before.
     *
     * @param before the lines at the end of the page before
     * @return the lines at the end of this one
     */
    private List<String> end(Page page, long epoch, long wanted, List<String> before)
            throws LinkException, InterruptedException {
        List<String> tail = page.unnumbered.stream().map(Unread::raw).toList();
        boolean all = page.lines < PAGE && !page.cut;
        if (all && !tail.isEmpty() && tail.equals(before) && wanted - page.previous == tail.size()) {
            number(page, epoch, new EventKey(system, epoch, wanted + 1));
            page.reached = wanted;
            flush(page);
        }
        return tail;
    }

    private void flush(Page page) throws LinkException, InterruptedException {
        if (page.events.isEmpty() && page.unread.isEmpty()) {
            return;
        }
        Batch batch = new Batch(page.events, page.unread, true);
        page.events.clear();
        page.unread.clear();
        page.characters = 0;
        while (waiting.size() >= AHEAD) {
            await(waiting.removeFirst());
        }
        waiting.addLast(feed.accept(batch));
    }

    private void await() throws LinkException, InterruptedException {
        while (!waiting.isEmpty()) {
            await(waiting.removeFirst());
        }
    }

    /**
     * Waits until something is stored.
     *
     * @throws LinkException if it was not; the message says why
     */
    static void await(CompletableFuture<?> stored) throws LinkException, InterruptedException {
        try {
            stored.get(60, TimeUnit.SECONDS);
        } catch (ExecutionException e) {
            throw new LinkException(0, Says.of(e.getCause(), Saying.of("link.log-takes-nothing")));
        } catch (TimeoutException e) {
            throw LinkException.of("link.log-takes-nothing");
        }
    }

    /**
     * Asks for one number by itself, whose line could not be read.
     *
     * @return whether it is settled now: it came after all, or it comes the same again, and is kept as it comes
     */
    private boolean alone(long epoch, long number) throws IOException, InterruptedException {
        String before = null;
        for (int i = 0; i < ALONE; i++) {
            Page page = page(epoch, number - 1, 1);
            await();
            if (page.reached >= number) {
                return true;
            }
            if (page.unnumbered.size() == 1 && !page.cut) {
                Unread one = page.unnumbered.get(0);
                if (one.raw().equals(before)) {
                    EventKey key = new EventKey(system, epoch, number);
                    await(feed.accept(new Batch(
                            List.of(),
                            List.of(new Unread(system, Optional.of(key), one.received(), one.raw(), one.why())),
                            true)));
                    return true;
                }
                before = one.raw();
            } else if (page.lines == 0) {
                return false;
            }
        }
        return false;
    }

    /**
     * Asks again for what is missing among the stored events, and puts down as missing what does not come.
     *
     * @param keptFrom the first number that the system says it keeps; 1 where it does not say
     * @param claimed the number that it says it has reached: what lies before a higher one is not missing, that one is stray
     * @return how many gaps there are now that were not known before
     */
    int fillHoles(long epoch, long keptFrom, long claimed) throws IOException, InterruptedException {
        int gaps = 0;
        while (true) {
            List<Range> holes = intake.coverage(system, epoch).holes().stream()
                    .filter(h -> h.last() < claimed)
                    .toList();
            if (holes.isEmpty()) {
                return gaps;
            }
            boolean bulk = askAgain(epoch, holes);
            for (Range hole : holes) {
                if (!bulk && hole.last() >= keptFrom) {
                    askAgain(epoch, hole);
                }
                String reason = hole.first() == 1 || hole.last() < keptFrom ? Gaps.NOT_KEPT : Gaps.NOT_DELIVERED;
                CompletableFuture<List<Range>> missing = intake.missing(system, epoch, hole, reason);
                await(missing);
                gaps += missing.join().size();
            }
        }
    }

    /** Asks again for several holes that lie close together in one go; whether all was said by the answer. */
    private boolean askAgain(long epoch, List<Range> holes) throws IOException, InterruptedException {
        long first = holes.get(0).first();
        long last = holes.get(holes.size() - 1).last();
        if (holes.size() == 1 || last - first >= PAGE) {
            return false;
        }
        Page page = page(epoch, first - 1, (int) (last - first + 1));
        await();
        return page.reached >= last && !page.lostSome;
    }

    private void askAgain(long epoch, Range hole) throws IOException, InterruptedException {
        long at = hole.first() - 1;
        while (at < hole.last()) {
            Page page = page(epoch, at, (int) Math.min(PAGE, hole.last() - at));
            await();
            if (page.reached > at) {
                at = page.reached;
            } else if (page.lostSome && alone(epoch, at + 1)) {
                at++;
            } else {
                return;
            }
        }
    }

    /** The first event after a number, without storing it; nothing if none comes that can be understood. */
    Optional<Event> peek(long after) throws IOException, InterruptedException {
        List<Event> found = new ArrayList<>();
        requests.lines("events?after=" + after + "&limit=1", line -> {
            if (found.isEmpty()) {
                translation
                        .read(line.text(), clock.instant(), Optional.empty())
                        .event()
                        .ifPresent(found::add);
            }
        });
        return found.stream().findFirst();
    }
}
