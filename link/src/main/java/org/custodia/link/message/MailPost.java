package org.custodia.link.message;

import jakarta.activation.DataHandler;
import jakarta.mail.Address;
import jakarta.mail.AuthenticationFailedException;
import jakarta.mail.MessagingException;
import jakarta.mail.SendFailedException;
import jakarta.mail.Session;
import jakarta.mail.Transport;
import jakarta.mail.internet.InternetAddress;
import jakarta.mail.internet.MimeBodyPart;
import jakarta.mail.internet.MimeMessage;
import jakarta.mail.internet.MimeMultipart;
import jakarta.mail.util.ByteArrayDataSource;
import java.io.IOException;
import java.io.OutputStream;
import java.net.IDN;
import java.net.InetAddress;
import java.net.Socket;
import java.net.SocketException;
import java.net.SocketTimeoutException;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Date;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Optional;
import java.util.Properties;
import java.util.Set;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicBoolean;
import javax.net.SocketFactory;
import javax.net.ssl.SSLException;
import javax.net.ssl.SSLSocketFactory;
import org.custodia.core.message.MailServer;
import org.custodia.core.message.Message;
import org.custodia.core.message.NotSentException;
import org.custodia.core.message.NotSentException.Why;
import org.custodia.core.message.Receiver;
import org.custodia.core.message.Sender;
import org.custodia.core.saying.Saying;
import org.custodia.link.Certificates;
import org.eclipse.angus.mail.smtp.SMTPAddressFailedException;
import org.eclipse.angus.mail.smtp.SMTPSendFailedException;
import org.eclipse.angus.mail.smtp.SMTPTransport;
import org.eclipse.angus.mail.util.MailConnectException;
import org.eclipse.angus.mail.util.SocketConnectException;

/** Hands messages to a mail server (SMTP, RFC 5321). */
final class MailPost implements AutoCloseable {
    private static final int LONGEST_SUBJECT = 200;
    private static final int LONGEST_QUOTE = 300;

    /** How long a server may take until it has a message. */
    private final Duration within;
    /** How long it may take to say that it has taken the message; RFC 5321 asks for ten minutes (4.5.3.2.6). */
    private final Duration answerWithin;
    /** What is connected: closing it is what ends an attempt. */
    private final Set<Socket> sockets = ConcurrentHashMap.newKeySet();

    private volatile boolean closed;

    MailPost(Duration within, Duration answerWithin) {
        this.within = within;
        this.answerWithin = answerWithin;
    }

    Sender.MailDelivery send(
            Receiver.Mail to, MailServer server, Optional<String> password, Message message, Message.Words words)
            throws NotSentException {
        String where = server.host() + ":" + server.port();
        Attempt made = new Attempt();
        Session session = Session.getInstance(properties(server, made));
        AtomicBoolean handedOver = new AtomicBoolean();
        AtomicBoolean late = new AtomicBoolean();
        CompletableFuture<Void> limit = new CompletableFuture<>();
        Runnable end = () -> {
            late.set(true);
            made.end();
        };
        after(within, limit, () -> {
            // A message that is broken off once it was handed over may have been taken, and would go out again.
            if (handedOver.get()) {
                after(answerWithin, limit, end);
            } else {
                end.run();
            }
        });
        Transport transport = null;
        try {
            MimeMessage mail = mail(session, to, server, message, words, handedOver);
            transport = session.getTransport("smtp");
            transport.connect(server.user().orElse(null), server.user().isPresent() ? password.orElse("") : null);
            Address[] recipients = readable(to, transport, where);
            transport.sendMessage(mail, recipients);
            return undeliverable(to, recipients);
        } catch (MessagingException e) {
            if (closed) {
                throw new NotSentException(why(handedOver), Saying.of("message.stopped"));
            }
            Optional<Sender.MailDelivery> partly = partly(e, to);
            if (partly.isPresent()) {
                return partly.get();
            }
            throw failed(e, where, late.get(), handedOver);
        } finally {
            limit.complete(null);
            leave(transport);
            made.end();
        }
    }

    /** Does something after a time, unless what it is about is over by then. */
    private static void after(Duration time, CompletableFuture<Void> over, Runnable what) {
        CompletableFuture.delayedExecutor(time.toMillis(), TimeUnit.MILLISECONDS)
                .execute(() -> {
                    if (!over.isDone()) {
                        what.run();
                    }
                });
    }

    /**
     * The addresses that a server can take: those beyond ASCII need SMTPUTF8 (RFC 6531).
     *
     * @throws NotSentException if it can take none
     */
    private static Address[] readable(Receiver.Mail to, Transport transport, String where)
            throws NotSentException, MessagingException {
        boolean all = transport instanceof SMTPTransport smtp && smtp.supportsExtension("SMTPUTF8");
        List<Address> some = new ArrayList<>();
        for (String address : to.to()) {
            if (all || isAscii(address)) {
                some.add(new InternetAddress(ascii(address)));
            }
        }
        if (some.isEmpty()) {
            throw new NotSentException(
                    Why.REFUSED, Saying.of("message.address-beyond-ascii", where, String.join(", ", to.to())));
        }
        return some.toArray(Address[]::new);
    }

    /** Whether what stands before the domain is ASCII; a domain can be written so always. */
    private static boolean isAscii(String address) {
        return address.substring(0, address.lastIndexOf('@')).chars().allMatch(c -> c < 128);
    }

    /** An address with its domain as the net has it (RFC 5890). */
    private static String ascii(String address) {
        int at = address.lastIndexOf('@');
        return address.substring(0, at + 1) + IDN.toASCII(address.substring(at + 1));
    }

    private static Sender.MailDelivery undeliverable(Receiver.Mail to, Address[] recipients) {
        List<String> others = to.to().stream()
                .filter(a ->
                        Arrays.stream(recipients).noneMatch(r -> r.toString().equals(ascii(a))))
                .toList();
        return others.isEmpty() ? Sender.MailDelivery.TO_ALL : new Sender.MailDelivery(others, List.of(), "");
    }

    /** Whatever a server says to our leaving, it changes nothing. */
    private static void leave(Transport transport) {
        try {
            if (transport != null) {
                transport.close();
            }
        } catch (MessagingException e) {
            // Its connection is closed all the same.
        }
    }

    private Properties properties(MailServer server, Attempt attempt) {
        Properties p = new Properties();
        p.put("mail.smtp.host", server.host());
        p.put("mail.smtp.port", String.valueOf(server.port()));
        p.put("mail.smtp.auth", String.valueOf(server.user().isPresent()));
        p.put("mail.smtp.connectiontimeout", String.valueOf(within.dividedBy(4).toMillis()));
        // What takes longer is ended from outside, since how long it may take depends on how far it has come.
        p.put("mail.smtp.timeout", String.valueOf(answerWithin.toMillis()));
        p.put("mail.mime.allowutf8", "true");
        p.put("mail.smtp.socketFactory", attempt.plain());
        p.put("mail.smtp.socketFactory.fallback", "false");
        // One address that is not taken keeps nobody else from being told.
        p.put("mail.smtp.sendpartial", "true");
        p.put("mail.smtp.localhost", "custodia");
        p.put("mail.smtp.quitwait", "false");
        // Whoever has confirmed one certificate has that one, whatever name it bears.
        p.put(
                "mail.smtp.ssl.checkserveridentity",
                String.valueOf(server.certificate().isEmpty()));
        p.put("mail.smtp.ssl.protocols", "TLSv1.3 TLSv1.2");
        switch (server.security()) {
            case NONE -> {}
            case STARTTLS -> {
                p.put("mail.smtp.starttls.enable", "true");
                p.put("mail.smtp.starttls.required", "true");
                p.put("mail.smtp.ssl.socketFactory", attempt.secure(server));
            }
            case TLS -> {
                p.put("mail.smtp.ssl.enable", "true");
                p.put("mail.smtp.ssl.socketFactory", attempt.secure(server));
            }
        }
        return p;
    }

    private static MimeMessage mail(
            Session session,
            Receiver.Mail to,
            MailServer server,
            Message message,
            Message.Words words,
            AtomicBoolean handedOver)
            throws MessagingException {
        MimeMessage mail = new MimeMessage(session) {
            @Override
            protected void updateMessageID() throws MessagingException {
                String host = server.from().substring(server.from().indexOf('@') + 1);
                setHeader("Message-ID", "<" + message.id() + "@" + host + ">");
            }

            @Override
            public void writeTo(OutputStream out, String[] without) throws IOException, MessagingException {
                super.writeTo(out, without);
                handedOver.set(true);
            }
        };
        mail.setFrom(new InternetAddress(server.from()));
        for (String address : to.to()) {
            mail.addRecipient(jakarta.mail.Message.RecipientType.TO, new InternetAddress(ascii(address)));
        }
        mail.setSubject(oneLine(words.subject()), StandardCharsets.UTF_8.name());
        mail.setSentDate(Date.from(message.sent()));
        // So that nobody's absence answers it (RFC 3834).
        mail.setHeader("Auto-Submitted", "auto-generated");
        mail.setHeader("Custodia-Attempt", String.valueOf(message.attempt()));
        MimeBodyPart text = new MimeBodyPart();
        text.setText(words.text(), StandardCharsets.UTF_8.name());
        MimeMultipart parts = new MimeMultipart(text);
        if (message.picture().isPresent()) {
            MimeBodyPart picture = new MimeBodyPart();
            picture.setDataHandler(new DataHandler(
                    new ByteArrayDataSource(message.picture().get().jpeg(), "image/jpeg")));
            picture.setFileName("picture.jpg");
            picture.setDisposition(jakarta.mail.Part.ATTACHMENT);
            parts.addBodyPart(picture);
        }
        mail.setContent(parts);
        mail.saveChanges();
        return mail;
    }

    /** What others called a door does not write headers. */
    private static String oneLine(String text) {
        String line = text.replaceAll("\\p{Cntrl}+", " ").strip();
        return line.length() > LONGEST_SUBJECT ? line.substring(0, LONGEST_SUBJECT) : line;
    }

    // ---- What went wrong

    private static Why why(AtomicBoolean handedOver) {
        return handedOver.get() ? Why.NOT_KNOWN : Why.NOBODY_TAKES_ANY;
    }

    /** That it went to some and not to others; nothing where it went to nobody. */
    private static Optional<Sender.MailDelivery> partly(MessagingException e, Receiver.Mail to) {
        if (!(e instanceof SendFailedException s)
                || s.getValidSentAddresses() == null
                || s.getValidSentAddresses().length == 0) {
            return Optional.empty();
        }
        Set<String> refused = new LinkedHashSet<>();
        Set<String> notNow = new LinkedHashSet<>();
        String answer = "";
        for (Throwable cause : causes(e)) {
            if (cause instanceof SMTPAddressFailedException a) {
                boolean forGood = a.getReturnCode() / 100 == 5;
                (forGood ? refused : notNow).add(a.getAddress().getAddress());
                answer = forGood ? answer : quote(a.getMessage());
            }
        }
        // What the server said nothing about was not tried.
        for (Address address : s.getValidUnsentAddresses() == null ? new Address[0] : s.getValidUnsentAddresses()) {
            notNow.add(((InternetAddress) address).getAddress());
        }
        notNow.removeAll(refused);
        return Optional.of(new Sender.MailDelivery(asSetUp(refused, to), asSetUp(notNow, to), answer));
    }

    /** Addresses as they were entered, of some as they were sent. */
    private static List<String> asSetUp(Set<String> sent, Receiver.Mail to) {
        return to.to().stream().filter(a -> sent.contains(ascii(a))).toList();
    }

    private NotSentException failed(Exception e, String where, boolean late, AtomicBoolean handedOver) {
        List<Throwable> causes = causes(e);
        if (late || any(causes, SocketTimeoutException.class) && !any(causes, MailConnectException.class)) {
            return new NotSentException(why(handedOver), Saying.of("message.no-answer", where, within));
        }
        if (any(causes, AuthenticationFailedException.class)) {
            return new NotSentException(Why.NOBODY_TAKES_ANY, Saying.of("message.password-refused", where));
        }
        if (any(causes, MailConnectException.class) || any(causes, SocketConnectException.class)) {
            return new NotSentException(Why.NOBODY_TAKES_ANY, Saying.of("message.nobody-there", where));
        }
        for (Throwable cause : causes) {
            if (cause instanceof SMTPAddressFailedException a) {
                return answered(where, a.getReturnCode(), a.getMessage());
            }
            if (cause instanceof SMTPSendFailedException s && s.getReturnCode() >= 400) {
                return answered(where, s.getReturnCode(), s.getMessage());
            }
        }
        for (Throwable cause : causes) {
            if (cause instanceof Certificates.NotTrusted not) {
                return NotTaken.of(where, not);
            }
        }
        if (any(causes, SSLException.class) || String.valueOf(e.getMessage()).contains("STARTTLS")) {
            return new NotSentException(Why.NOBODY_TAKES_ANY, Saying.of("message.not-secure", where));
        }
        return new NotSentException(why(handedOver), Saying.of("message.broke-off", where));
    }

    /** It said no, or not now (RFC 5321, 4.2.1). */
    private static NotSentException answered(String where, int code, String words) {
        return new NotSentException(
                code / 100 == 5 ? Why.REFUSED : Why.NOBODY_TAKES_ANY,
                Saying.of(code / 100 == 5 ? "message.mail-refused" : "message.mail-not-now", where, quote(words)));
    }

    private static String quote(String words) {
        String quote = oneLine(String.valueOf(words));
        return quote.length() > LONGEST_QUOTE ? quote.substring(0, LONGEST_QUOTE) : quote;
    }

    private static List<Throwable> causes(Throwable e) {
        List<Throwable> all = new java.util.ArrayList<>();
        java.util.Deque<Throwable> more = new java.util.ArrayDeque<>(List.of(e));
        while (!more.isEmpty() && all.size() < 50) {
            Throwable one = more.removeFirst();
            all.add(one);
            if (one instanceof MessagingException m && m.getNextException() != null) {
                more.add(m.getNextException());
            }
            if (one.getCause() != null && !all.contains(one.getCause())) {
                more.add(one.getCause());
            }
        }
        return all;
    }

    private static boolean any(List<Throwable> causes, Class<? extends Throwable> type) {
        return causes.stream().anyMatch(type::isInstance);
    }

    /** What one attempt connects with, so that it can be ended from outside: an interrupt does not end a read. */
    private final class Attempt {
        private final Set<Socket> mine = ConcurrentHashMap.newKeySet();

        private Socket tracked(Socket socket) throws SocketException {
            mine.add(socket);
            sockets.add(socket);
            if (closed) {
                closeQuietly(socket);
                throw new SocketException("stopped");
            }
            return socket;
        }

        void end() {
            mine.forEach(s -> {
                closeQuietly(s);
                sockets.remove(s);
            });
        }

        SocketFactory plain() {
            return new SocketFactory() {
                @Override
                public Socket createSocket() throws IOException {
                    return tracked(new Socket());
                }

                @Override
                public Socket createSocket(String host, int port) throws IOException {
                    return tracked(new Socket(host, port));
                }

                @Override
                public Socket createSocket(String host, int port, InetAddress here, int from) throws IOException {
                    return tracked(new Socket(host, port, here, from));
                }

                @Override
                public Socket createSocket(InetAddress host, int port) throws IOException {
                    return tracked(new Socket(host, port));
                }

                @Override
                public Socket createSocket(InetAddress host, int port, InetAddress here, int from) throws IOException {
                    return tracked(new Socket(host, port, here, from));
                }
            };
        }

        SSLSocketFactory secure(MailServer server) {
            SSLSocketFactory usual = Certificates.context(server.certificate()).getSocketFactory();
            return new SSLSocketFactory() {
                @Override
                public String[] getDefaultCipherSuites() {
                    return usual.getDefaultCipherSuites();
                }

                @Override
                public String[] getSupportedCipherSuites() {
                    return usual.getSupportedCipherSuites();
                }

                @Override
                public Socket createSocket() throws IOException {
                    return tracked(usual.createSocket());
                }

                @Override
                public Socket createSocket(Socket under, String host, int port, boolean closes) throws IOException {
                    return tracked(usual.createSocket(under, host, port, closes));
                }

                @Override
                public Socket createSocket(String host, int port) throws IOException {
                    return tracked(usual.createSocket(host, port));
                }

                @Override
                public Socket createSocket(String host, int port, InetAddress here, int from) throws IOException {
                    return tracked(usual.createSocket(host, port, here, from));
                }

                @Override
                public Socket createSocket(InetAddress host, int port) throws IOException {
                    return tracked(usual.createSocket(host, port));
                }

                @Override
                public Socket createSocket(InetAddress host, int port, InetAddress here, int from) throws IOException {
                    return tracked(usual.createSocket(host, port, here, from));
                }
            };
        }
    }

    @Override
    public void close() {
        closed = true;
        sockets.forEach(MailPost::closeQuietly);
    }

    private static void closeQuietly(Socket socket) {
        try {
            socket.close();
        } catch (IOException e) {
            // It is not wanted any more.
        }
    }
}
