package org.custodia.store;

import java.io.IOException;
import java.io.RandomAccessFile;
import java.nio.channels.FileLock;
import java.nio.channels.OverlappingFileLockException;
import java.nio.charset.StandardCharsets;
import java.nio.file.DirectoryStream;
import java.nio.file.FileStore;
import java.nio.file.FileSystemException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.PosixFileAttributeView;
import java.nio.file.attribute.PosixFilePermissions;
import java.util.function.ToLongFunction;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** The directory that holds everything Custodia keeps, claimed by one running program at a time. */
public final class DataDirectory implements AutoCloseable {
    /** With less room than this nothing can be opened; more is asked for by the log itself when it writes. */
    private static final long LEAST_ROOM = 4L * 1024 * 1024;
    /** In the mode of a directory in which everybody may make files, as in that for temporary ones. */
    private static final int STICKY = 01000;

    private static final Logger LOG = LoggerFactory.getLogger(DataDirectory.class);

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
            boolean made = Files.notExists(path);
            Files.createDirectories(path);
            keepToItsOwner(path, made);
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

    /**
     * Closes the directory to other users, since it holds movements and photos of people. A directory with other things
     * in it stays as it is, and so does one that everybody writes to, or a home directory.
     */
    private static void keepToItsOwner(Path path, boolean made) throws IOException {
        PosixFileAttributeView view = Files.getFileAttributeView(path, PosixFileAttributeView.class);
        boolean ours = made || Files.exists(path.resolve("custodia.db")) || isEmpty(path);
        if (view == null || !ours || isShared(path)) {
            return;
        }
        try {
            view.setPermissions(PosixFilePermissions.fromString("rwx------"));
        } catch (FileSystemException e) {
            LOG.info("The data directory {} could not be closed to others: {}", path, e.toString());
        }
    }

    private static boolean isEmpty(Path path) throws IOException {
        try (DirectoryStream<Path> all = Files.newDirectoryStream(path)) {
            return !all.iterator().hasNext();
        }
    }

    private static boolean isShared(Path path) throws IOException {
        boolean sticky = path.getFileSystem().supportedFileAttributeViews().contains("unix")
                && ((Integer) Files.getAttribute(path, "unix:mode") & STICKY) != 0;
        return sticky || path.toAbsolutePath().normalize().equals(Path.of(System.getProperty("user.home")));
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
