package org.custodia.desktop.notice;

import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalDouble;
import java.util.concurrent.CancellationException;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.concurrent.atomic.AtomicReference;
import java.util.function.Function;
import javafx.collections.FXCollections;
import javafx.collections.ObservableList;
import org.custodia.desktop.Work;
import org.custodia.desktop.text.Texts;

/**
 * All that is said just now, what matters most first, among equals what was said last. What is hidden stays hidden as long
 * as it says the same.
 */
public final class Notices {
    private static final Texts TEXTS = Texts.of(Notices.class);

    private final Work work;
    private final ObservableList<Notice> shown = FXCollections.observableArrayList();
    /** Held here: whoever listens to such a view of a list would otherwise lose it with the view. */
    private final ObservableList<Notice> toRead = FXCollections.unmodifiableObservableList(shown);

    private final Map<String, String> hidden = new HashMap<>();
    private long number;

    /**
     * @param work does what goes on in the background; its owner closes it
     */
    public Notices(Work work) {
        this.work = work;
    }

    /** What is said now. */
    public ObservableList<Notice> shown() {
        return toRead;
    }

    /**
     * Says what stands as it does now; called as often as one likes.
     *
     * @param now nothing once it is over
     */
    public void stands(String key, Optional<Notice> now) {
        if (now.isEmpty()) {
            hidden.remove(key);
            take(key);
        } else if (!now.get().words().equals(hidden.get(key))) {
            hidden.remove(key);
            put(now.get());
        }
    }

    /** Says something once, until somebody hides it. */
    public void note(String words, Notice.Action... next) {
        put(new Notice(
                "note " + ++number, Notice.Kind.NOTE, words, OptionalDouble.empty(), Optional.empty(), List.of(next)));
    }

    /** Hides what is said, until it says something else. Work goes on. */
    public void hide(Notice notice) {
        hidden.put(notice.key(), notice.words());
        take(notice.key());
    }

    /**
     * Does something in the background, with its progress to be seen and a way to end it, and says what came of it.
     *
     * @param what is done, as it is shown meanwhile
     * @param job does it; tells now and then how far it has come
     * @param then what is to be said of the result, and done with it
     */
    public <T> void inBackground(String what, Function<Progress, T> job, Function<T, Notice> then) {
        String key = "work " + ++number;
        AtomicBoolean unwanted = new AtomicBoolean();
        Runnable cancel = () -> {
            unwanted.set(true);
            take(key);
        };
        Notice begun = new Notice(key, Notice.Kind.WORK, what, OptionalDouble.empty(), Optional.of(cancel), List.of());
        put(begun);
        AtomicReference<Double> share = new AtomicReference<>();
        Runnable show = Work.conflated(() -> {
            boolean there = shown.stream().anyMatch(n -> n.key().equals(key));
            if (there && share.get() != null) {
                put(begun.done(share.get()));
            }
        });
        Progress progress = (done, of) -> {
            if (unwanted.get()) {
                throw new CancellationException(what);
            }
            if (of > 0) {
                share.set((double) done / of);
                show.run();
            }
        };
        work.load(
                () -> job.apply(progress),
                result -> {
                    hidden.remove(key);
                    take(key);
                    if (!unwanted.get()) {
                        put(then.apply(result));
                    }
                },
                why -> {
                    hidden.remove(key);
                    take(key);
                    if (!unwanted.get()) {
                        note(TEXTS.say("failed", what, why));
                    }
                });
    }

    private void put(Notice notice) {
        if (notice.words().equals(hidden.get(notice.key()))) {
            return;
        }
        for (int i = 0; i < shown.size(); i++) {
            if (shown.get(i).key().equals(notice.key())) {
                if (!shown.get(i).equals(notice)) {
                    shown.set(i, notice);
                }
                return;
            }
        }
        int place = 0;
        Comparator<Notice> weight = Comparator.comparing(Notice::kind);
        while (place < shown.size() && weight.compare(shown.get(place), notice) < 0) {
            place++;
        }
        shown.add(place, notice);
    }

    private void take(String key) {
        shown.removeIf(n -> n.key().equals(key));
    }
}
