package org.custodia.store;

import java.io.IOException;
import java.io.RandomAccessFile;
import java.nio.channels.FileLock;
import java.nio.channels.OverlappingFileLockException;
import java.nio.charset.StandardCharsets;
import java.nio.file.FileStore;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.function.ToLongFunction;

/** The directory that holds everything Custodia keeps, claimed by one running program at a time. */
public final class DataDirectory implements AutoCloseable {
    /** With less room than this nothing can be opened; more is asked for by the log itself when it writes. */
    private static final long LEAST_ROOM = 4L * 1024 * 1024;

    private final Path path;
    private final RandomAccessFile lockFile;
    private final FileLock lock;

    private DataDirectory(Path path, RandomAccessFile lockFile, FileLock lock) {
        this.path = path;
        this.lockFile = lockFile;
        this.lock = lock;
    }

    /**
     * Makes the directory if need be and claims it.
     *
     * @throws DataDirectoryException if it cannot be written, or another program has it
     */
    public static DataDirectory claim(Path path) {
        return claim(path, DataDirectory::usableSpace);
    }

    /**
     * The same with another way to ask how much room there is.
     *
     * @param room bytes that can still be written in a directory
     */
    static DataDirectory claim(Path path, ToLongFunction<Path> room) {
        try {
            Files.createDirectories(path);
        } catch (IOException e) {
            throw new DataDirectoryException(
                    "The data directory " + path
                            + " could not be made. Choose another with --data, or make it writable.",
                    e);
        }
        if (!Files.isWritable(path)) {
            throw new DataDirectoryException(
                    "The data directory " + path
                            + " is read-only, so nothing that happens could be kept. Make it writable or choose another with --data.",
                    null);
        }
        long free = room.applyAsLong(path);
        if (free < LEAST_ROOM) {
            throw new DataDirectoryException(
                    "The disk that holds the data directory " + path + " is full (" + free / 1024
                            + " KB are left), so nothing that happens could be kept. Free some space, or choose a directory on another disk with --data.",
                    null);
        }
        Path file = path.resolve("in-use");
        RandomAccessFile opened = null;
        try {
            opened = new RandomAccessFile(file.toFile(), "rw");
            FileLock lock = opened.getChannel().tryLock(Long.MAX_VALUE - 1, 1, false);
            if (lock == null) {
                throw held(path, opened);
            }
            opened.setLength(0);
            opened.write(("process " + ProcessHandle.current().pid()).getBytes(StandardCharsets.UTF_8));
            return new DataDirectory(path, opened, lock);
        } catch (OverlappingFileLockException e) {
            throw held(path, opened);
        } catch (IOException e) {
            closeQuietly(opened);
            throw new DataDirectoryException(
                    "The data directory " + path
                            + " could not be claimed. Make it writable or choose another with --data.",
                    e);
        }
    }

    private static long usableSpace(Path path) {
        try {
            FileStore store = Files.getFileStore(path);
            return store.getTotalSpace() == 0 ? Long.MAX_VALUE : store.getUsableSpace();
        } catch (IOException e) {
            // Where nobody says, writing will show.
            return Long.MAX_VALUE;
        }
    }

    private static DataDirectoryException held(Path path, RandomAccessFile file) {
        String who = "";
        try {
            String line = file.readLine();
            who = line == null ? "" : " (" + line + ")";
        } catch (IOException ignored) {
            // The sentence is as clear without it.
        }
        closeQuietly(file);
        return new DataDirectoryException(
                "Another Custodia" + who + " has the data directory " + path
                        + ". Close that one, or choose another directory with --data.",
                null);
    }

    private static void closeQuietly(RandomAccessFile file) {
        try {
            if (file != null) {
                file.close();
            }
        } catch (IOException ignored) {
            // Nothing was written to it.
        }
    }

    public Path path() {
        return path;
    }

    @Override
    public void close() {
        try {
            lock.release();
            lockFile.close();
        } catch (IOException e) {
            throw new DataDirectoryException("The data directory " + path + " could not be given back.", e);
        }
    }
}
