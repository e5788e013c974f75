package org.custodia.core.setup;

import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.util.HexFormat;
import java.util.Optional;
import java.util.Set;

/**
 * What Custodia signs in with elsewhere. Kept so that nobody reads it who reads the data directory's other files; where an
 * operating system has a place for such things, another implementation may use that.
 */
public interface Secrets {
    /**
     * A secret.
     *
     * @return nothing if there is none under that name
     * @throws SecretsException if it is there and cannot be read
     */
    Optional<String> get(String name);

    /**
     * Keeps a secret, in place of what was there under that name; it is safe once this returns.
     *
     * @throws SecretsException if it cannot be kept
     */
    void put(String name, String secret);

    /** Forgets a secret; nothing happens if there is none. */
    void remove(String name);

    /**
     * The names under which there are secrets.
     *
     * @throws SecretsException if they cannot be read
     */
    Set<String> names();

    /**
     * The name of a secret that is sent to one destination only. A secret can be found for the destination that it was entered
     * for, and for no other, whatever happens between keeping the secret and keeping the destination.
     *
     * @param owner what signs in, for example {@code link/sternwick-access}
     * @param destination all that decides where the secret goes, as lines
     */
    static String nameFor(String owner, String... destination) {
        try {
            byte[] digest = MessageDigest.getInstance("SHA-256")
                    .digest(String.join("\n", destination).getBytes(StandardCharsets.UTF_8));
            return owner + "/" + HexFormat.of().formatHex(digest);
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException("every Java has SHA-256", e);
        }
    }
}
