package org.custodia.practice.serve;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.concurrent.TimeUnit;

/** The practice site's own key and certificate for https, which nobody vouches for; made once, with Java's own tool. */
public final class SecureKeys {
    /** It protects nothing: whoever can read the file can run the site. */
    static final String PASSWORD = "practice";

    private static final long PATIENCE_SECONDS = 60;

    private SecureKeys() {}

    /**
     * The key store of a directory, made where there is none yet.
     *
     * @throws UncheckedIOException if it cannot be made
     */
    public static Path in(Path directory) {
        Path file = directory.resolve("https.p12");
        if (Files.exists(file)) {
            return file;
        }
        Path tool = Path.of(System.getProperty("java.home"), "bin", "keytool");
        try {
            Process process = new ProcessBuilder(List.of(
                            tool.toString(),
                            "-genkeypair",
                            "-alias",
                            "practice",
                            "-keyalg",
                            "EC",
                            "-groupname",
                            "secp256r1",
                            "-validity",
                            "3650",
                            "-dname",
                            "CN=Sternwick practice site",
                            "-ext",
                            "SAN=ip:127.0.0.1,dns:localhost",
                            "-storetype",
                            "PKCS12",
                            "-storepass",
                            PASSWORD,
                            "-keystore",
                            file.toString()))
                    .redirectErrorStream(true)
                    .redirectOutput(ProcessBuilder.Redirect.DISCARD)
                    .start();
            if (!process.waitFor(PATIENCE_SECONDS, TimeUnit.SECONDS) || process.exitValue() != 0) {
                process.destroy();
                throw new IOException(tool + " did not make it");
            }
            return file;
        } catch (IOException e) {
            throw new UncheckedIOException("The practice site's certificate " + file + " could not be made.", e);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new IllegalStateException("interrupted while the practice site's certificate was made", e);
        }
    }
}
