package org.custodia.store;

import java.util.Locale;
import java.util.Optional;
import java.util.Properties;
import org.postgresql.Driver;

/** Where a log on a server is, and with what to sign in there. Nothing here shows the password. */
public final class ServerAddress {
    /** The environment variable that may hold the password. */
    public static final String PASSWORD = "CUSTODIA_DATABASE_PASSWORD";

    private static final String BEGINS = "jdbc:postgresql:";

    private final String url;
    private final Optional<String> password;
    private final String words;

    private ServerAddress(String url, Optional<String> password, String words) {
        this.url = url;
        this.password = password;
        this.words = words;
    }

    /**
     * @param url as in {@code jdbc:postgresql://host:5432/custodia?user=custodia}, without a password
     * @param password if one is needed; without it the server may know the user in another way, or a file that holds
     *     passwords is used
     * @throws IllegalArgumentException if that is no such address, in words that say what to do
     */
    public static ServerAddress of(String url, Optional<String> password) {
        String shape = "An address looks like jdbc:postgresql://host:5432/custodia?user=custodia.";
        if (!url.startsWith(BEGINS)) {
            throw new IllegalArgumentException("Custodia keeps its log on PostgreSQL servers only. " + shape);
        }
        if (url.toLowerCase(Locale.ROOT).contains("password") || url.matches("[^?]*//[^/?]*@.*")) {
            throw new IllegalArgumentException(
                    "The address of the database must not hold the password: everybody on this machine could read it. Put it into the environment variable "
                            + PASSWORD + " or into a password file that only you can read.");
        }
        Properties parts = parts(url);
        if (parts == null || parts.getProperty("PGDBNAME", "").isBlank()) {
            throw new IllegalArgumentException("The address of the database cannot be understood. " + shape);
        }
        String host = parts.getProperty("PGHOST", "localhost");
        String port = parts.getProperty("PGPORT", "5432");
        String words = "the database " + parts.getProperty("PGDBNAME") + " on "
                + (host.contains(",") ? host : host + ":" + port);
        return new ServerAddress(url, password, words);
    }

    private static Properties parts(String url) {
        try {
            return Driver.parseURL(url, new Properties());
        } catch (RuntimeException e) {
            return null;
        }
    }

    String url() {
        return url;
    }

    Optional<String> password() {
        return password;
    }

    /** Where it is, in words. */
    @Override
    public String toString() {
        return words;
    }
}
