package org.custodia.core.setup;

import java.net.URI;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.SystemId;

/**
 * A connection to a system, as somebody set it up. With what to sign in is not part of it.
 *
 * @param id as the system calls itself, before it was checked whether that can be one
 * @param kind what sort of system it is, and
 * @param make what it speaks, as {@link Connections#makes} has them
 * @param name as people call it
 * @param address where it answers
 * @param paused whether it is set up but not connected to
 * @param openAllowed whether the address may be one that anybody on the way can read, though it is another machine's
 * @param certificate SHA-256 of the only certificate that is taken there, 64 hexadecimal digits, where somebody has confirmed
 *     one; otherwise an authority has to vouch for it
 * @param clockLimit by how much its clock may be off before that is told
 */
public record LinkSetup(
        String id,
        String kind,
        String make,
        String name,
        URI address,
        boolean paused,
        boolean openAllowed,
        Optional<String> certificate,
        Duration clockLimit) {
    /** Two seconds more or less is still the same person in the picture. */
    public static final Duration CLOCK_LIMIT = Duration.ofSeconds(2);
    /** More than this is no limit. */
    public static final Duration MOST_CLOCK_LIMIT = Duration.ofHours(1);

    /** Characters. */
    public static final int LONGEST_NAME = 120;
    /** Characters. */
    public static final int LONGEST_TOKEN = 4_000;

    public LinkSetup {
        Objects.requireNonNull(address);
        Objects.requireNonNull(clockLimit);
        // As it is printed elsewhere: in capital letters, with colons or blanks.
        certificate = certificate.map(c -> c.replaceAll("[:\\s]", "").toLowerCase(Locale.ROOT));
    }

    /** One whose clock may be off as much as most. */
    public LinkSetup(
            String id, String kind, String make, String name, URI address, boolean paused, boolean openAllowed) {
        this(id, kind, make, name, address, paused, openAllowed, Optional.empty(), CLOCK_LIMIT);
    }

    /** The parts of it that somebody fills in. */
    public enum Part {
        MAKE,
        ID,
        NAME,
        ADDRESS,
        TOKEN,
        CLOCK_LIMIT,
        CERTIFICATE
    }

    /** What is wrong with one of them. */
    public record Problem(Part part, Saying saying) {}

    /**
     * The system.
     *
     * @throws IllegalArgumentException if the id cannot be one, which is then among the {@link #problems}
     */
    public SystemId system() {
        return new SystemId(id);
    }

    /** The same, connected to or not. */
    public LinkSetup paused(boolean now) {
        return new LinkSetup(id, kind, make, name, address, now, openAllowed, certificate, clockLimit);
    }

    /** The same under another name. */
    public LinkSetup named(String other) {
        return new LinkSetup(id, kind, make, other, address, paused, openAllowed, certificate, clockLimit);
    }

    /** The same with another limit for its clock. */
    public LinkSetup clockLimit(Duration other) {
        return new LinkSetup(id, kind, make, name, address, paused, openAllowed, certificate, other);
    }

    /** The same with a certificate that somebody has confirmed, or none. */
    public LinkSetup certificate(Optional<String> other) {
        return new LinkSetup(id, kind, make, name, address, paused, openAllowed, other, clockLimit);
    }

    /** Whether a token that is meant for this goes to the same place at another: its address, and who is trusted there. */
    public boolean sameDestination(LinkSetup other) {
        return address.equals(other.address) && certificate.equals(other.certificate);
    }

    /** The name under which its token is stored; it differs for each destination. */
    String secretName() {
        return Secrets.nameFor("link/" + id, address.toString(), certificate.orElse(""));
    }

    /** Whether what passes on the way can be read by whoever sits there. */
    public boolean open() {
        return "http".equals(scheme());
    }

    private String scheme() {
        return String.valueOf(address.getScheme()).toLowerCase(Locale.ROOT);
    }

    /** All that keeps it from being connected to, in the order of its parts; nothing if all is well. */
    public List<Problem> problems() {
        List<Problem> found = new ArrayList<>();
        if (id.isBlank()) {
            found.add(problem(Part.ID, "setup.id-missing"));
        } else if (!fitsAsId(id)) {
            found.add(new Problem(Part.ID, Saying.of("setup.id-odd", SystemId.LONGEST)));
        } else if (id.equalsIgnoreCase(SystemId.CUSTODIA.value())) {
            found.add(problem(Part.ID, "setup.id-own"));
        }
        if (name.isBlank()) {
            found.add(problem(Part.NAME, "setup.name-missing"));
        } else if (name.length() > LONGEST_NAME || name.chars().anyMatch(Character::isISOControl)) {
            found.add(new Problem(Part.NAME, Saying.of("setup.name-odd", LONGEST_NAME)));
        }
        boolean web = Set.of("http", "https").contains(scheme());
        if (!web || address.getHost() == null) {
            found.add(problem(Part.ADDRESS, "setup.address-odd"));
        } else if (address.getRawUserInfo() != null
                || address.getRawQuery() != null
                || address.getRawFragment() != null) {
            found.add(problem(Part.ADDRESS, "setup.address-too-much"));
        } else if (open() && !openAllowed && !ownMachine(address.getHost())) {
            found.add(problem(Part.ADDRESS, "setup.address-open"));
        }
        if (certificate.filter(c -> !c.matches("[0-9a-f]{64}")).isPresent()) {
            found.add(problem(Part.CERTIFICATE, "setup.certificate-odd"));
        }
        if (clockLimit.isNegative() || clockLimit.isZero() || clockLimit.compareTo(MOST_CLOCK_LIMIT) > 0) {
            found.add(problem(Part.CLOCK_LIMIT, "setup.clock-limit-odd"));
        }
        return found;
    }

    /** What is wrong with what somebody would sign in with; nothing if all is well. */
    public static List<Problem> problems(String token) {
        if (token.isBlank()) {
            return List.of(problem(Part.TOKEN, "setup.token-missing"));
        }
        return fitsAsToken(token) ? List.of() : List.of(problem(Part.TOKEN, "setup.token-odd"));
    }

    private static Problem problem(Part part, String code) {
        return new Problem(part, Saying.of(code));
    }

    /** Whether a system may be called so. */
    public static boolean fitsAsId(String id) {
        return !id.isBlank()
                && id.length() <= SystemId.LONGEST
                && id.chars().noneMatch(c -> c == '/' || Character.isISOControl(c));
    }

    /** Whether it can stand in a request. */
    public static boolean fitsAsToken(String token) {
        return !token.isEmpty()
                && token.length() <= LONGEST_TOKEN
                && token.chars().allMatch(c -> c > 32 && c < 127);
    }

    /** Whether a host is this machine (RFC 6890): whatever a name server says, no other name than localhost counts. */
    static boolean ownMachine(String host) {
        return host.equalsIgnoreCase("localhost")
                || host.equals("[::1]")
                || host.matches("127(\\.(25[0-5]|2[0-4]\\d|1?\\d?\\d)){3}");
    }
}
