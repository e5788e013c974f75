package org.custodia.practice.timeline;

import java.util.PriorityQueue;

/** Things to come, done in order of time; at the same time, those of the journal last, then in order of entry. */
final class Agenda {
    /** What is to be done at its time. */
    @FunctionalInterface
    interface Task {
        void run(long at);
    }

    private record Entry(long at, int rank, long number, Task task) implements Comparable<Entry> {
        @Override
        public int compareTo(Entry o) {
            int byTime = Long.compare(at, o.at);
            if (byTime != 0) {
                return byTime;
            }
            int byRank = Integer.compare(rank, o.rank);
            return byRank != 0 ? byRank : Long.compare(number, o.number);
        }
    }

    private final PriorityQueue<Entry> queue = new PriorityQueue<>();
    private long number;
    private long now;

    Agenda(long start) {
        now = start;
    }

    /** Enters a task; one for the past is done as soon as possible. */
    void at(long time, Task task) {
        queue.add(new Entry(Math.max(time, now), 0, number++, task));
    }

    /** Enters something from the journal. */
    void journal(long time, Task task) {
        queue.add(new Entry(time, 1, number++, task));
    }

    long now() {
        return now;
    }

    /** Does everything up to and including a time. */
    void runTo(long time) {
        while (!queue.isEmpty() && queue.peek().at() <= time) {
            Entry entry = queue.poll();
            now = Math.max(now, entry.at());
            entry.task().run(entry.at());
        }
        now = Math.max(now, time);
    }

    /** When the next task is due; {@link Long#MAX_VALUE} when there is none. */
    long next() {
        return queue.isEmpty() ? Long.MAX_VALUE : queue.peek().at();
    }
}
