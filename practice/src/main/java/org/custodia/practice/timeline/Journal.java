package org.custodia.practice.timeline;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.io.Writer;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.util.ArrayList;
import java.util.List;
import org.custodia.wire.Wire;
import org.custodia.wire.WireException;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** What was done to the practice site, line by line, so that it is the same after a restart. */
public final class Journal implements AutoCloseable {
    private static final Logger LOG = LoggerFactory.getLogger(Journal.class);

    private final Writer writer;
    private final List<Act> past = new ArrayList<>();

    /** Opens or begins a journal. */
    public Journal(Path file) {
        try {
            if (Files.exists(file)) {
                for (String line : Files.readAllLines(file)) {
                    read(line, file);
                }
            }
            writer = Files.newBufferedWriter(
                    file, StandardCharsets.UTF_8, StandardOpenOption.CREATE, StandardOpenOption.APPEND);
        } catch (IOException e) {
            throw new UncheckedIOException("The practice site's journal " + file + " could not be opened.", e);
        }
    }

    private void read(String line, Path file) {
        try {
            past.add(Wire.read(line, Act.class));
        } catch (WireException e) {
            LOG.warn("A line of the practice site's journal {} is damaged and left out.", file);
        }
    }

    /** What was done before this start. */
    List<Act> past() {
        return List.copyOf(past);
    }

    synchronized void add(Act act) {
        try {
            writer.write(Wire.write(act) + "\n");
            writer.flush();
        } catch (IOException e) {
            throw new UncheckedIOException("The practice site's journal could not be written.", e);
        }
    }

    @Override
    public synchronized void close() {
        try {
            writer.close();
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }
}
