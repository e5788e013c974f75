package org.custodia.core.setup;

/** A setup as a links file, by which another Custodia, or this one anew, begins with the same. */
public interface SetupSheets {
    /** Writes one, without anything to sign in with. */
    byte[] write(WholeSetup setup);

    /**
     * Reads one.
     *
     * @throws SetupException if it is none, or says what cannot be; it says where
     */
    WholeSetup read(byte[] sheet);
}
