package org.custodia.desktop.desk;

import java.io.IOException;
import java.time.Duration;
import java.time.Instant;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.RejectedExecutionException;
import java.util.concurrent.atomic.AtomicBoolean;
import org.custodia.core.alarm.Alarm;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.Priority;
import org.custodia.core.mishap.Threads;
import org.custodia.desktop.call.Speaker;
import org.custodia.desktop.call.Tones;
import org.custodia.desktop.settings.Settings;

/**
 * Has alarms heard that nobody has seen: at once when one comes, and again and again while the worst is one that does not wait;
 * louder and more often the longer nobody comes. On the JavaFX thread.
 */
public final class AlarmBell implements AutoCloseable {
    /** Nobody silences alarms for longer. */
    public static final Duration LONGEST_MUTED = Duration.ofHours(4);

    private static final Duration URGENT_EVERY = Duration.ofSeconds(6);
    private static final Duration CAUTION_EVERY = Duration.ofSeconds(30);

    private final Speaker speaker;
    private final Settings settings;
    private final ExecutorService player = Executors.newSingleThreadExecutor(Threads.factory("alarm sound"));
    private final AtomicBoolean playing = new AtomicBoolean();
    private Set<Rung> known = Set.of();
    private Instant last = Instant.MIN;
    private Optional<Instant> mutedUntil = Optional.empty();
    private volatile boolean silent;

    /** One that was heard; when it calls anew it is another. */
    private record Rung(EventKey alarm, Instant since, int step) {}

    AlarmBell(Speaker speaker, Settings settings) {
        this.speaker = speaker;
        this.settings = settings;
    }

    /** Whether this machine played no sound when it was last tried. */
    public boolean silent() {
        return silent;
    }

    /** How loud, from 0 to 100. */
    public int volume() {
        return settings.volume();
    }

    /** Sets how loud it is, and lets it be heard. */
    public void volume(int percent) {
        settings.volume(percent);
        play(Priority.CAUTION, 0);
    }

    /** Until when nothing is heard; nothing if it is. */
    public Optional<Instant> mutedUntil(Instant now) {
        return mutedUntil.filter(t -> t.isAfter(now) && !t.isAfter(now.plus(LONGEST_MUTED)));
    }

    /**
     * Silences alarms for a time.
     *
     * @throws IllegalArgumentException if it is for longer than {@link #LONGEST_MUTED}
     */
    public void mute(Instant now, Duration time) {
        if (time.compareTo(LONGEST_MUTED) > 0) {
            throw new IllegalArgumentException("alarms are not silenced for so long");
        }
        mutedUntil = Optional.of(now.plus(time));
    }

    /** Has them heard again. */
    public void unmute() {
        mutedUntil = Optional.empty();
    }

    /**
     * Rings if it is time to.
     *
     * @param unseen alarms that nobody has seen, the most urgent first
     */
    void tick(List<Alarm> unseen, Instant now) {
        List<Alarm> heard = unseen.stream().filter(a -> a.origin().sound()).toList();
        Set<Rung> here = new HashSet<>();
        heard.forEach(a -> here.add(new Rung(a.id(), a.call().since(), a.call().steps())));
        Optional<Alarm> fresh = heard.stream()
                .filter(a -> !known.contains(
                        new Rung(a.id(), a.call().since(), a.call().steps())))
                .findFirst();
        known = here;
        if (heard.isEmpty()) {
            return;
        }
        Alarm worst = heard.get(0);
        Duration every = every(worst);
        // Where the clock was set back it is not waited for.
        boolean again = every != null && (now.isBefore(last) || !now.isBefore(last.plus(every)));
        if (fresh.isPresent() || again) {
            last = now;
            if (mutedUntil(now).isEmpty()) {
                Alarm ring = fresh.orElse(worst);
                play(ring.origin().priority(), ring.call().steps());
            }
        }
    }

    private static Duration every(Alarm worst) {
        Duration every =
                switch (worst.origin().priority()) {
                    case URGENT -> URGENT_EVERY;
                    case CAUTION -> CAUTION_EVERY;
                    default -> null;
                };
        return every == null || worst.call().steps() == 0 ? every : every.dividedBy(2);
    }

    private void play(Priority priority, int steps) {
        int volume = settings.volume();
        if (volume == 0 || !playing.compareAndSet(false, true)) {
            return;
        }
        try {
            player.execute(() -> {
                try {
                    speaker.play(Tones.of(priority, Math.min(1, volume / 100.0 * (1 + 0.5 * steps))), Tones.RATE);
                    silent = false;
                } catch (IOException e) {
                    silent = true;
                } finally {
                    playing.set(false);
                }
            });
        } catch (RejectedExecutionException e) {
            playing.set(false);
        }
    }

    @Override
    public void close() {
        player.shutdownNow();
    }
}
