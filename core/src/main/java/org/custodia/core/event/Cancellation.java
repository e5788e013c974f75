package org.custodia.core.event;

import java.util.concurrent.CancellationException;

/**
 * A way to take back a question that is being answered: whoever asked it calls {@link #cancel}, and the one who waits for the
 * answer gets a {@link CancellationException}. Safe for use by several threads; serves one question at a time.
 */
public final class Cancellation {
    private boolean cancelled;
    private Runnable stop;

    /** Takes the question back; does nothing if it is answered already. */
    public synchronized void cancel() {
        cancelled = true;
        if (stop != null) {
            stop.run();
        }
    }

    public synchronized boolean cancelled() {
        return cancelled;
    }

    /**
     * What ends the work on the question, as long as that goes on.
     *
     * @param action null when there is nothing to end any more
     * @throws CancellationException if it has been taken back already
     */
    public synchronized void onCancel(Runnable action) {
        if (action != null) {
            check();
        }
        stop = action;
    }

    /**
     * Goes on only where the question still stands.
     *
     * @throws CancellationException if it has been taken back
     */
    public synchronized void check() {
        if (cancelled) {
            throw new CancellationException("the question was taken back");
        }
    }
}
