package org.custodia.practice.post;

import com.fasterxml.jackson.databind.JsonNode;
import com.icegreen.greenmail.configuration.GreenMailConfiguration;
import com.icegreen.greenmail.util.GreenMail;
import com.icegreen.greenmail.util.ServerSetup;
import jakarta.mail.BodyPart;
import jakarta.mail.Message;
import jakarta.mail.MessagingException;
import jakarta.mail.internet.MimeMessage;
import jakarta.mail.internet.MimeMultipart;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Collections;
import java.util.Deque;
import java.util.HashSet;
import java.util.HexFormat;
import java.util.List;
import java.util.Set;
import org.custodia.wire.MessageForm;
import org.custodia.wire.Wire;
import org.custodia.wire.WireException;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** Catches mail and web messages on loopback. The latest are kept, in memory. Safe for use by several threads. */
public final class PostOffice implements AutoCloseable {
    private static final Logger LOG = LoggerFactory.getLogger(PostOffice.class);
    private static final int MOST = 500;
    private static final int LONGEST = 1024 * 1024;
    /** What was signed longer ago is not believed. */
    private static final Duration FRESH = Duration.ofMinutes(5);

    private final Clock clock;
    private final String key;
    private final Deque<Caught> all = new ArrayDeque<>();
    private final Set<String> ids = new HashSet<>();
    private final int port;
    private GreenMail mail;
    private Instant mailDownUntil = Instant.MIN;
    private Instant webDownUntil = Instant.MIN;

    /**
     * Begins to take mail, on a port that is free.
     *
     * @param token of the site, which the key of its web messages is made from
     */
    public PostOffice(Clock clock, String token) {
        this.clock = clock;
        this.key = key(token);
        this.mail = server(0);
        this.port = mail.getSmtp().getPort();
    }

    private static String key(String token) {
        try {
            return HexFormat.of()
                    .formatHex(MessageDigest.getInstance("SHA-256")
                            .digest(("messages " + token).getBytes(StandardCharsets.UTF_8)));
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException(e);
        }
    }

    private static GreenMail server(int port) {
        GreenMail server = new GreenMail(new ServerSetup(port, "127.0.0.1", ServerSetup.PROTOCOL_SMTP));
        server.withConfiguration(GreenMailConfiguration.aConfig().withDisabledAuthentication());
        server.start();
        return server;
    }

    /** Where mail is taken, on loopback. */
    public int mailPort() {
        return port;
    }

    /** What web messages are to be signed with. */
    public String key() {
        return key;
    }

    /** Has the mail server, or the address of the web, be gone for a while. */
    public synchronized void down(boolean web, Instant until) {
        if (web) {
            webDownUntil = until;
        } else {
            mailDownUntil = until;
            tick();
        }
    }

    /** Whether the address of the web answers that it cannot. */
    public synchronized boolean webDown() {
        return webDownUntil.isAfter(clock.instant());
    }

    /** Takes in what came by mail, and lets the server go or come back when it is time for it. */
    public synchronized void tick() {
        boolean down = mailDownUntil.isAfter(clock.instant());
        if (mail != null) {
            collect();
        }
        if (down && mail != null) {
            mail.stop();
            mail = null;
        } else if (!down && mail == null) {
            mail = server(port);
        }
    }

    private void collect() {
        MimeMessage[] came = mail.getReceivedMessages();
        if (came.length == 0) {
            return;
        }
        for (MimeMessage message : came) {
            try {
                add(read(message));
            } catch (MessagingException | IOException e) {
                LOG.warn("A mail that came cannot be read: {}", e.getMessage());
            }
        }
        try {
            mail.purgeEmailFromAllMailboxes();
        } catch (com.icegreen.greenmail.store.FolderException e) {
            LOG.warn("Mails that were read stay: {}", e.getMessage());
        }
    }

    private Caught read(MimeMessage message) throws MessagingException, IOException {
        String text = "";
        int picture = 0;
        if (message.getContent() instanceof MimeMultipart parts) {
            for (int i = 0; i < parts.getCount(); i++) {
                BodyPart part = parts.getBodyPart(i);
                if (part.isMimeType("text/plain")) {
                    text = String.valueOf(part.getContent());
                } else if (part.isMimeType("image/*")) {
                    picture = part.getInputStream().readAllBytes().length;
                }
            }
        } else {
            text = String.valueOf(message.getContent());
        }
        List<String> to = new ArrayList<>();
        for (var address : message.getRecipients(Message.RecipientType.TO)) {
            to.add(address.toString());
        }
        return new Caught(
                clock.instant(),
                "mail",
                String.join(", ", to),
                message.getMessageID(),
                String.valueOf(message.getSubject()),
                text,
                "attempt " + String.join("", message.getHeader("Custodia-Attempt", "")),
                picture);
    }

    /**
     * Takes a message that was sent to the address of the web.
     *
     * @return whether it is what it says: signed with the key, just now
     */
    public synchronized boolean take(String time, String signature, byte[] body) {
        String remark;
        boolean good = false;
        if (time == null || signature == null) {
            remark = "not signed";
        } else if (!MessageDigest.isEqual(
                MessageForm.signature(key, time, body).getBytes(StandardCharsets.US_ASCII),
                signature.getBytes(StandardCharsets.US_ASCII))) {
            remark = "signed with another key, or changed on the way";
        } else if (!fresh(time)) {
            remark = "signed at another time: sent again by somebody else?";
        } else {
            remark = "signature holds";
            good = true;
        }
        try {
            JsonNode json = Wire.mapper().readTree(body.length > LONGEST ? new byte[0] : body);
            add(new Caught(
                    clock.instant(),
                    "web",
                    json.path("alarm").path("priority").asText("-"),
                    json.path("id").asText(""),
                    json.path("subject").asText(""),
                    json.path("text").asText(""),
                    remark + ", attempt " + json.path("attempt").asInt(),
                    0));
        } catch (IOException | WireException e) {
            return false;
        }
        return good;
    }

    private boolean fresh(String time) {
        try {
            Instant signed = Instant.ofEpochSecond(Long.parseLong(time));
            return Duration.between(signed, clock.instant()).abs().compareTo(FRESH) <= 0;
        } catch (NumberFormatException | java.time.DateTimeException e) {
            return false;
        }
    }

    private void add(Caught one) {
        // A mail to several comes once for each of them.
        boolean copy = all.stream()
                .anyMatch(c -> c.way().equals("mail")
                        && c.id().equals(one.id())
                        && c.remark().startsWith(one.remark()));
        if (copy) {
            return;
        }
        boolean before = !ids.add(one.way() + one.to() + one.id());
        all.addLast(
                before
                        ? new Caught(
                                one.when(),
                                one.way(),
                                one.to(),
                                one.id(),
                                one.subject(),
                                one.text(),
                                one.remark() + ", came before",
                                one.picture())
                        : one);
        while (all.size() > MOST) {
            Caught gone = all.removeFirst();
            ids.remove(gone.way() + gone.to() + gone.id());
        }
    }

    /** What came, the newest first. */
    public synchronized List<Caught> caught() {
        if (mail != null) {
            collect();
        }
        List<Caught> newest = new ArrayList<>(all);
        Collections.reverse(newest);
        return newest;
    }

    @Override
    public synchronized void close() {
        if (mail != null) {
            mail.stop();
            mail = null;
        }
        mailDownUntil = Instant.MAX;
    }
}
