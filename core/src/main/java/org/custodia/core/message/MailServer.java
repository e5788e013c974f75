package org.custodia.core.message;

import java.util.Optional;

/**
 * The server that takes our mail.
 *
 * @param version goes up by one with each change
 * @param host name or address
 * @param port 1 to 65535
 * @param security whether others on the way can read along
 * @param user whom it signs in as; nothing where it asks for nobody
 * @param from the address that mail comes from
 * @param certificate SHA-256 of the only certificate that is taken, 64 hexadecimal digits, as somebody has confirmed it;
 *     nothing where an authority that this machine trusts has to vouch for it
 */
public record MailServer(
        long version,
        String host,
        int port,
        Security security,
        Optional<String> user,
        String from,
        Optional<String> certificate) {
    /** Under which it is kept. */
    public static final String ID = "mail";

    /** How what is sent is kept from others. */
    public enum Security {
        /** Not at all. */
        NONE,
        /** It begins in the open and goes on secured, or not at all (RFC 3207). */
        STARTTLS,
        /** Secured from the beginning (RFC 8314). */
        TLS
    }

    /** One that an authority vouches for. */
    public MailServer(long version, String host, int port, Security security, Optional<String> user, String from) {
        this(version, host, port, security, user, from, Optional.empty());
    }

    public MailServer {
        if (!host.matches("[A-Za-z0-9.:\\[\\]-]{1,255}")) {
            throw new IllegalArgumentException("a mail server has a host");
        }
        if (port < 1 || port > 65_535) {
            throw new IllegalArgumentException("ports go from 1 to 65535");
        }
        if (user.filter(u -> u.isBlank() || u.length() > 200 || u.chars().anyMatch(Character::isISOControl))
                .isPresent()) {
            throw new IllegalArgumentException("it signs in as somebody, or as nobody");
        }
        if (!Receiver.Mail.isAddress(from)) {
            throw new IllegalArgumentException("\"" + from + "\" is no mail address");
        }
        certificate = Receiver.fingerprint(certificate);
    }

    /** The same in another version. */
    public MailServer version(long other) {
        return new MailServer(other, host, port, security, user, from, certificate);
    }

    /** The same with another certificate that is taken. */
    public MailServer certificate(Optional<String> fingerprint) {
        return new MailServer(version, host, port, security, user, from, fingerprint);
    }

    /** Whether a password that was given for one of them may go to the other. */
    boolean sameSignIn(MailServer other) {
        return host.equals(other.host) && port == other.port && security == other.security && user.equals(other.user);
    }
}
