package org.custodia.core.setup;

import java.util.Optional;

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
}
