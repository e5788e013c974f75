package org.custodia.link.message;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.catchThrowableOfType;

import com.icegreen.greenmail.util.DummySSLServerSocketFactory;
import com.icegreen.greenmail.util.GreenMail;
import com.icegreen.greenmail.util.ServerSetup;
import com.sun.net.httpserver.HttpsConfigurator;
import com.sun.net.httpserver.HttpsServer;
import java.io.BufferedReader;
import java.io.IOException;
import java.io.InputStreamReader;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.net.ServerSocket;
import java.net.Socket;
import java.net.URI;
import java.nio.charset.StandardCharsets;
import java.security.KeyStore;
import java.security.MessageDigest;
import java.time.Duration;
import java.util.HexFormat;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicInteger;
import javax.net.ssl.KeyManagerFactory;
import javax.net.ssl.SSLContext;
import javax.net.ssl.SSLSocket;
import org.assertj.core.api.ThrowableAssert.ThrowingCallable;
import org.custodia.core.message.MailServer;
import org.custodia.core.message.MailServer.Security;
import org.custodia.core.message.NotSentException;
import org.custodia.core.message.NotSentException.Why;
import org.custodia.core.message.Receiver;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;

/** Servers with a certificate that nobody vouches for: nothing is told to them before somebody has confirmed just that one. */
class ConfirmedCertificatesTest {
    private static final Receiver.Mail DUTY = new Receiver.Mail(List.of("duty@custodia.test"), false);
    private static final String KEY = "0123456789abcdef0123456789abcdef";
    private static final String ANOTHER = "ab".repeat(32);

    private final MessageSender sender = new MessageSender(Duration.ofSeconds(30), Duration.ofSeconds(30));

    @AfterEach
    void close() {
        sender.close();
    }

    private static KeyStore keys() {
        return new DummySSLServerSocketFactory().getKeyStore();
    }

    private static String print() throws Exception {
        KeyStore keys = keys();
        byte[] certificate = keys.getCertificate(keys.aliases().nextElement()).getEncoded();
        return HexFormat.of().formatHex(MessageDigest.getInstance("SHA-256").digest(certificate));
    }

    private static SSLContext context() throws Exception {
        KeyManagerFactory factory = KeyManagerFactory.getInstance(KeyManagerFactory.getDefaultAlgorithm());
        factory.init(keys(), "changeit".toCharArray());
        SSLContext context = SSLContext.getInstance("TLS");
        context.init(factory.getKeyManagers(), null, null);
        return context;
    }

    private static MailServer server(int port, Security security, String certificate) {
        return new MailServer(
                0,
                "127.0.0.1",
                port,
                security,
                Optional.empty(),
                "custodia@sternwick.test",
                Optional.ofNullable(certificate));
    }

    private void mail(MailServer server) throws NotSentException {
        sender.mail(DUTY, server, Optional.empty(), Messages.message(Optional.empty()), Messages.WORDS);
    }

    private static void notTaken(String code, ThrowingCallable way) throws Exception {
        NotSentException e = catchThrowableOfType(NotSentException.class, way);
        assertThat(e.saying().code()).isEqualTo(code);
        assertThat(e.why()).isEqualTo(Why.NOBODY_TAKES_ANY);
        assertThat(e.certificate().orElseThrow().fingerprint()).isEqualTo(print());
        assertThat(e.certificate().orElseThrow().vouchedFor()).isFalse();
    }

    @Test
    void mail_that_is_secured_from_the_beginning() throws Exception {
        GreenMail green = new GreenMail(ServerSetup.SMTPS.dynamicPort());
        green.start();
        try {
            int port = green.getSmtps().getPort();
            notTaken("message.certificate-unknown", () -> mail(server(port, Security.TLS, null)));
            notTaken("message.certificate-changed", () -> mail(server(port, Security.TLS, ANOTHER)));
            assertThat(green.getReceivedMessages()).isEmpty();
            mail(server(port, Security.TLS, print()));
            assertThat(green.getReceivedMessages()).hasSize(1);
        } finally {
            green.stop();
        }
    }

    /** It greets in the open and goes on secured; what it was told in the open is kept. */
    private static void startsSecuring(ServerSocket server, List<String> open, List<String> secured) {
        try (Socket plain = server.accept()) {
            BufferedReader in =
                    new BufferedReader(new InputStreamReader(plain.getInputStream(), StandardCharsets.US_ASCII));
            say(plain, "220 here");
            open.add(in.readLine());
            say(plain, "250-here\r\n250 STARTTLS");
            open.add(in.readLine());
            say(plain, "220 go on");
            SSLSocket socket = (SSLSocket) context().getSocketFactory().createSocket(plain, null, 0, true);
            socket.setUseClientMode(false);
            socket.startHandshake();
            BufferedReader more =
                    new BufferedReader(new InputStreamReader(socket.getInputStream(), StandardCharsets.US_ASCII));
            String line;
            boolean data = false;
            while ((line = more.readLine()) != null) {
                secured.add(line);
                if (line.equals(".")) {
                    data = false;
                }
                if (!data) {
                    data = line.equals("DATA");
                    say(socket, line.equals("DATA") ? "354 tell" : line.equals("QUIT") ? "221 bye" : "250 yes");
                }
            }
        } catch (Exception e) {
            // Whoever does not take its certificate is gone.
        }
    }

    private static void say(Socket socket, String words) throws IOException {
        socket.getOutputStream().write((words + "\r\n").getBytes(StandardCharsets.US_ASCII));
        socket.getOutputStream().flush();
    }

    @Test
    void mail_that_is_secured_after_the_greeting() throws Exception {
        String[] confirmed = {null, ANOTHER, print()};
        for (String certificate : confirmed) {
            List<String> open = new java.util.concurrent.CopyOnWriteArrayList<>();
            List<String> secured = new java.util.concurrent.CopyOnWriteArrayList<>();
            try (ServerSocket server = new ServerSocket(0, 5, InetAddress.getLoopbackAddress())) {
                CompletableFuture<Void> over = CompletableFuture.runAsync(() -> startsSecuring(server, open, secured));
                MailServer to = server(server.getLocalPort(), Security.STARTTLS, certificate);
                if (print().equals(certificate)) {
                    mail(to);
                    over.get(30, TimeUnit.SECONDS);
                    assertThat(secured).anyMatch(l -> l.startsWith("RCPT TO:<duty@custodia.test>"));
                } else {
                    notTaken(
                            certificate == null ? "message.certificate-unknown" : "message.certificate-changed",
                            () -> mail(to));
                    over.get(30, TimeUnit.SECONDS);
                    assertThat(secured).isEmpty();
                }
                assertThat(open).hasSize(2).noneMatch(l -> l.contains("duty"));
            }
        }
    }

    @Test
    void an_address_of_the_web() throws Exception {
        AtomicInteger asked = new AtomicInteger();
        HttpsServer server = HttpsServer.create(new InetSocketAddress(InetAddress.getLoopbackAddress(), 0), 0);
        server.setHttpsConfigurator(new HttpsConfigurator(context()));
        server.createContext("/in", exchange -> {
            asked.incrementAndGet();
            exchange.getRequestBody().readAllBytes();
            exchange.sendResponseHeaders(204, -1);
            exchange.close();
        });
        server.start();
        try {
            URI address = URI.create("https://127.0.0.1:" + server.getAddress().getPort() + "/in");
            notTaken("message.certificate-unknown", () -> web(new Receiver.Web(address)));
            notTaken("message.certificate-changed", () -> web(new Receiver.Web(address, Optional.of(ANOTHER))));
            assertThat(asked).hasValue(0);
            web(new Receiver.Web(address, Optional.of(print())));
            assertThat(asked).hasValue(1);
            // What was confirmed for one is not taken from another.
            notTaken("message.certificate-unknown", () -> web(new Receiver.Web(address)));
        } finally {
            server.stop(0);
        }
    }

    private void web(Receiver.Web to) throws NotSentException {
        sender.web(to, KEY, Messages.message(Optional.empty()), Messages.WORDS);
    }
}
