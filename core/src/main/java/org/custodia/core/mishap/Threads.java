package org.custodia.core.mishap;

import java.util.concurrent.ThreadFactory;
import java.util.concurrent.atomic.AtomicInteger;

/** The one place where threads are made. What one of them does not catch goes to the process's {@link Mishaps}. */
public final class Threads {
    private Threads() {}

    /** A thread that does not keep the process alive; whoever starts it ends it. */
    public static Thread daemon(String name, Runnable work) {
        Thread thread = new Thread(work, name);
        thread.setDaemon(true);
        return thread;
    }

    /** Makes such threads for an executor. */
    public static ThreadFactory factory(String name) {
        AtomicInteger count = new AtomicInteger();
        return work -> {
            int number = count.incrementAndGet();
            return daemon(number == 1 ? name : name + " " + number, work);
        };
    }

    /** Hands over to the process's handler what a thread caught and goes on after. */
    public static void stumbled(Throwable e) {
        Thread thread = Thread.currentThread();
        Thread.UncaughtExceptionHandler handler = Thread.getDefaultUncaughtExceptionHandler();
        if (handler != null) {
            handler.uncaughtException(thread, e);
        }
    }
}
