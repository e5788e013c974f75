package org.custodia.desktop.settings;

import com.fasterxml.jackson.databind.DeserializationFeature;
import com.fasterxml.jackson.databind.ObjectMapper;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.util.Collections;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.TreeMap;
import java.util.concurrent.Executor;
import org.custodia.core.saying.Saying;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** The console's settings in a file of their own. Used on the JavaFX thread; files are written elsewhere. */
public final class Settings {
    private static final Logger LOG = LoggerFactory.getLogger(Settings.class);
    private static final ObjectMapper JSON =
            new ObjectMapper().disable(DeserializationFeature.FAIL_ON_UNKNOWN_PROPERTIES);
    private static final int LARGEST = 1_000_000;
    private static final int USUAL_VOLUME = 60;

    private final Path file;
    private final Executor writer;
    private Values values;
    private Saying notice;

    /**
     * All there is.
     *
     * @param doors on watch, in order; null until somebody chose
     * @param spanSeconds length of the time axis
     * @param doorSets doors that were kept under a name, in order; null where there are none
     * @param language in which the window speaks, as a language tag; null until somebody chose
     * @param stripSize how much room strips take, by name; null until somebody chose
     * @param volume of alarms, 0 to 100; null until somebody chose
     */
    public record Values(
            List<String> doors,
            Map<String, List<String>> doorSets,
            long spanSeconds,
            String stripSize,
            boolean dark,
            int scale,
            double x,
            double y,
            double width,
            double height,
            boolean maximized,
            String language,
            Integer volume) {
        private Values ofWatch(List<String> newDoors, Map<String, List<String>> newSets, long newSpan, String newSize) {
            return new Values(
                    newDoors, newSets, newSpan, newSize, dark, scale, x, y, width, height, maximized, language, volume);
        }

        private Values ofWindow(
                boolean newDark,
                int newScale,
                double newX,
                double newY,
                double newWidth,
                double newHeight,
                boolean newMaximized,
                String newLanguage) {
            return new Values(
                    doors,
                    doorSets,
                    spanSeconds,
                    stripSize,
                    newDark,
                    newScale,
                    newX,
                    newY,
                    newWidth,
                    newHeight,
                    newMaximized,
                    newLanguage,
                    volume);
        }

        static final Values FIRST =
                new Values(null, null, 600, null, true, 100, Double.NaN, Double.NaN, 1280, 800, false, null, null);
    }

    private Settings(Path file, Executor writer, Values values, Saying notice) {
        this.file = file;
        this.writer = writer;
        this.values = values;
        this.notice = notice;
    }

    /** Reads the settings; what is changed is written at once by whoever changes it. */
    public static Settings load(Path directory) {
        return load(directory, Runnable::run);
    }

    /**
     * Reads the settings; a broken file is put aside, and the first settings are used instead.
     *
     * @param writer runs what writes the file, one after the other; belongs to the caller
     */
    public static Settings load(Path directory, Executor writer) {
        Path file = directory.resolve("settings.json");
        if (!Files.exists(file)) {
            return new Settings(file, writer, Values.FIRST, null);
        }
        try {
            if (Files.size(file) > LARGEST) {
                throw new IOException("it is far too large");
            }
            Values read = JSON.readValue(Files.readString(file), Values.class);
            if (read == null) {
                throw new IOException("it is empty");
            }
            return new Settings(file, writer, sane(read), null);
        } catch (IOException e) {
            Path aside = file.resolveSibling("settings.broken.json");
            try {
                Files.move(file, aside, StandardCopyOption.REPLACE_EXISTING);
            } catch (IOException move) {
                LOG.warn("The broken settings file {} could not be put aside.", file);
            }
            LOG.warn("The settings in {} could not be read; the first settings are used instead.", file);
            return new Settings(
                    file,
                    writer,
                    Values.FIRST,
                    Saying.of("settings.unreadable", aside.getFileName().toString()));
        }
    }

    private static Values sane(Values v) {
        return new Values(
                v.doors(),
                saneSets(v.doorSets()),
                v.spanSeconds() < 60 || v.spanSeconds() > 86_400 ? 600 : v.spanSeconds(),
                v.stripSize(),
                v.dark(),
                v.scale() == 0 ? 100 : v.scale(),
                v.x(),
                v.y(),
                v.width() < 400 ? 1280 : v.width(),
                v.height() < 300 ? 800 : v.height(),
                v.maximized(),
                v.language(),
                v.volume() == null || v.volume() < 0 || v.volume() > 100 ? null : v.volume());
    }

    private static Map<String, List<String>> saneSets(Map<String, List<String>> sets) {
        if (sets == null) {
            return null;
        }
        Map<String, List<String>> sane = new TreeMap<>();
        sets.forEach((name, doors) -> {
            if (doors != null) {
                sane.put(name, doors.stream().filter(Objects::nonNull).toList());
            }
        });
        return sane;
    }

    public Values values() {
        return values;
    }

    /** What to tell the operator about how the settings were read; once. */
    public Optional<Saying> takeNotice() {
        Optional<Saying> result = Optional.ofNullable(notice);
        notice = null;
        return result;
    }

    /** Keeps new values. */
    public void save(Values changed) {
        if (changed.equals(values)) {
            return;
        }
        values = changed;
        writer.execute(() -> write(changed));
    }

    private void write(Values changed) {
        try {
            Path temporary = file.resolveSibling("settings.json.new");
            Files.writeString(temporary, JSON.writeValueAsString(changed));
            Files.move(temporary, file, StandardCopyOption.REPLACE_EXISTING);
        } catch (IOException e) {
            LOG.warn("The settings could not be kept in {}. Is the disk full, or the file read-only?", file);
        }
    }

    public void doors(List<String> doors) {
        save(values.ofWatch(List.copyOf(doors), values.doorSets(), values.spanSeconds(), values.stripSize()));
    }

    /** The doors that were kept under names, by name. */
    public Map<String, List<String>> doorSets() {
        return values.doorSets() == null ? Map.of() : Collections.unmodifiableMap(values.doorSets());
    }

    /** Keeps doors under a name, in place of what was there; no doors forget the name. */
    public void doorSet(String name, List<String> doors) {
        Map<String, List<String>> sets = new TreeMap<>(doorSets());
        if (doors.isEmpty()) {
            sets.remove(name);
        } else {
            sets.put(name, List.copyOf(doors));
        }
        save(values.ofWatch(values.doors(), sets, values.spanSeconds(), values.stripSize()));
    }

    public void span(long seconds) {
        save(values.ofWatch(values.doors(), values.doorSets(), seconds, values.stripSize()));
    }

    public void stripSize(String name) {
        save(values.ofWatch(values.doors(), values.doorSets(), values.spanSeconds(), name));
    }

    public void look(boolean dark, int scale) {
        Values v = values;
        save(v.ofWindow(dark, scale, v.x(), v.y(), v.width(), v.height(), v.maximized(), v.language()));
    }

    /** How loud alarms are, 0 to 100. */
    public int volume() {
        return values.volume() == null ? USUAL_VOLUME : values.volume();
    }

    /** Chooses how loud alarms are. */
    public void volume(int percent) {
        Values v = values;
        save(new Values(
                v.doors(),
                v.doorSets(),
                v.spanSeconds(),
                v.stripSize(),
                v.dark(),
                v.scale(),
                v.x(),
                v.y(),
                v.width(),
                v.height(),
                v.maximized(),
                v.language(),
                Math.max(0, Math.min(100, percent))));
    }

    /** The language that was chosen. */
    public Optional<String> language() {
        return Optional.ofNullable(values.language());
    }

    /** Chooses a language, for the next window. */
    public void language(String tag) {
        Values v = values;
        save(v.ofWindow(v.dark(), v.scale(), v.x(), v.y(), v.width(), v.height(), v.maximized(), tag));
    }

    public void window(double x, double y, double width, double height, boolean maximized) {
        Values v = values;
        save(v.ofWindow(v.dark(), v.scale(), x, y, width, height, maximized, v.language()));
    }
}
