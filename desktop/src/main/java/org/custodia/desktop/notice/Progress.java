package org.custodia.desktop.notice;

import java.util.concurrent.CancellationException;

/** How far work in the background has come; told by whoever does it, on any thread. */
public interface Progress {
    /**
     * Says how far it has come, and whether to go on.
     *
     * @param of in all; 0 where that is not known
     * @throws CancellationException if the operator does not want it any more
     */
    void at(long done, long of);
}
