package org.custodia.core.message;

import java.net.URI;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.regex.Pattern;

/**
 * Somebody, or something, that is told of alarms.
 *
 * @param id by which rules name it
 * @param version goes up by one with each change
 * @param name as people call it
 * @param on whether it is told
 * @param way how
 */
public record Receiver(String id, long version, String name, boolean on, Way way) {
    /** Characters of a name. */
    public static final int LONGEST_NAME = 120;

    /** Characters of an address. */
    public static final int LONGEST_ADDRESS = 500;

    public Receiver {
        if (!id.matches("[a-z0-9-]{1,60}")) {
            throw new IllegalArgumentException("a receiver's id is of small letters, figures and dashes");
        }
        if (name.isBlank() || name.length() > LONGEST_NAME || name.chars().anyMatch(Character::isISOControl)) {
            throw new IllegalArgumentException("a receiver has a name of at most " + LONGEST_NAME + " characters");
        }
        if (version < 0) {
            throw new IllegalArgumentException("versions count from 0");
        }
    }

    /** How it is told. */
    public sealed interface Way {}

    /**
     * By mail.
     *
     * @param to addresses; at least one, at most {@link #MOST}
     * @param picture whether a picture of what happened goes with it
     */
    public record Mail(List<String> to, boolean picture) implements Way {
        /** No receiver has more addresses. */
        public static final int MOST = 20;

        /** Enough to keep what cannot be one, and what would write a header of its own, out (RFC 5321, 4.1.2, in part). */
        private static final Pattern ADDRESS =
                Pattern.compile("[^\\s@<>,;:\"()\\[\\]\\\\\\p{Cntrl}]{1,64}@[\\p{L}\\p{N}.-]{1,255}");

        public Mail {
            to = List.copyOf(to);
            if (to.isEmpty() || to.size() > MOST) {
                throw new IllegalArgumentException("mail goes to 1 to " + MOST + " addresses");
            }
            for (String address : to) {
                if (!isAddress(address)) {
                    throw new IllegalArgumentException("\"" + address + "\" is no mail address");
                }
            }
        }

        /** Whether mail can be sent there. */
        public static boolean isAddress(String text) {
            return ADDRESS.matcher(text).matches();
        }
    }

    /**
     * By a request to an address of the web, signed with a key that both sides have.
     *
     * @param address by http or https, without a name and password in it
     * @param certificate SHA-256 of the only certificate that is taken, as in {@link MailServer}
     */
    public record Web(URI address, Optional<String> certificate) implements Way {
        /** One that an authority vouches for. */
        public Web(URI address) {
            this(address, Optional.empty());
        }

        public Web {
            certificate = fingerprint(certificate);
            boolean fine = ("http".equals(address.getScheme()) || "https".equals(address.getScheme()))
                    && address.getHost() != null
                    && address.getUserInfo() == null
                    && address.toString().length() <= LONGEST_ADDRESS;
            if (!fine) {
                throw new IllegalArgumentException("an address begins with https:// or http:// and names a host");
            }
        }
    }

    /**
     * A fingerprint as it is compared: in small letters, without what is printed between the digits.
     *
     * @throws IllegalArgumentException if it is no SHA-256
     */
    static Optional<String> fingerprint(Optional<String> certificate) {
        Optional<String> plain = certificate.map(c -> c.replaceAll("[:\\s]", "").toLowerCase(Locale.ROOT));
        if (plain.filter(c -> !c.matches("[0-9a-f]{64}")).isPresent()) {
            throw new IllegalArgumentException("a certificate is known by 64 hexadecimal digits");
        }
        return plain;
    }

    /** The same in another version. */
    public Receiver version(long other) {
        return new Receiver(id, other, name, on, way);
    }
}
