package org.custodia.link.message;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.catchThrowableOfType;

import com.icegreen.greenmail.user.GreenMailUser;
import com.icegreen.greenmail.util.GreenMail;
import com.icegreen.greenmail.util.GreenMailUtil;
import com.icegreen.greenmail.util.ServerSetup;
import jakarta.mail.BodyPart;
import jakarta.mail.internet.MimeMessage;
import jakarta.mail.internet.MimeMultipart;
import java.io.IOException;
import java.net.InetAddress;
import java.net.ServerSocket;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.TimeUnit;
import org.custodia.core.link.RecorderLink;
import org.custodia.core.message.MailServer;
import org.custodia.core.message.MailServer.Security;
import org.custodia.core.message.NotSentException;
import org.custodia.core.message.NotSentException.Why;
import org.custodia.core.message.Receiver;
import org.custodia.core.message.Sender;
import org.custodia.core.saying.Saying;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;

/** Mail, to servers that take it and to servers that do not: which it was decides whether it is sent again. */
class MailPostTest {
    private static final Receiver.Mail DUTY = new Receiver.Mail(List.of("duty@custodia.test"), true);

    private final MessageSender sender = new MessageSender(Duration.ofSeconds(30), Duration.ofSeconds(30));
    private final MessageSender hasty = new MessageSender(Duration.ofMillis(1_200), Duration.ofMillis(1_200));

    @AfterEach
    void close() {
        sender.close();
        hasty.close();
    }

    private static MailServer server(int port, Security security, String... user) {
        return new MailServer(
                0, "127.0.0.1", port, security, List.of(user).stream().findFirst(), "custodia@sternwick.test");
    }

    private static GreenMail green() {
        GreenMail green = new GreenMail(ServerSetup.SMTP.dynamicPort());
        green.start();
        return green;
    }

    private Sender.MailDelivery send(MessageSender by, Receiver.Mail to, MailServer server, String password)
            throws NotSentException {
        return by.mail(to, server, Optional.ofNullable(password), Messages.message(Optional.empty()), Messages.WORDS);
    }

    private NotSentException refused(MessageSender by, MailServer server, String password) {
        return catchThrowableOfType(NotSentException.class, () -> send(by, DUTY, server, password));
    }

    @Test
    void a_mail_arrives_with_its_picture_and_says_who_it_is() throws Exception {
        GreenMail green = green();
        try {
            byte[] jpeg = {1, 2, 3, 4};
            Sender.MailDelivery delivery = sender.mail(
                    new Receiver.Mail(List.of("duty@custodia.test", "night@custodia.test"), true),
                    server(green.getSmtp().getPort(), Security.NONE),
                    Optional.empty(),
                    Messages.message(Optional.of(new RecorderLink.Still(jpeg, Messages.T))),
                    Messages.WORDS);
            assertThat(delivery).isEqualTo(Sender.MailDelivery.TO_ALL);
            MimeMessage[] all = green.getReceivedMessages();
            assertThat(all).hasSize(2);
            MimeMessage mail = all[0];
            // What a door is called writes no header, and is read whatever its letters.
            assertThat(mail.getSubject()).isEqualTo("Forced open: Bürotür Bcc: others@custodia.test");
            assertThat(mail.getHeader("Bcc")).isNull();
            assertThat(mail.getMessageID()).isEqualTo("<3f2a-1@sternwick.test>");
            assertThat(mail.getHeader("Auto-Submitted")).containsExactly("auto-generated");
            assertThat(mail.getHeader("Custodia-Attempt")).containsExactly("2");
            assertThat(mail.getSentDate()).isEqualTo(Messages.T);
            MimeMultipart parts = (MimeMultipart) mail.getContent();
            assertThat(parts.getBodyPart(0).getContent().toString().replace("\r", ""))
                    .isEqualTo(Messages.WORDS.text());
            BodyPart picture = parts.getBodyPart(1);
            assertThat(picture.getContentType()).startsWith("image/jpeg");
            assertThat(picture.getInputStream().readAllBytes()).isEqualTo(jpeg);
        } finally {
            green.stop();
        }
    }

    @Test
    void whoever_signs_in_is_let_in_by_the_right_password_and_by_no_other() throws Exception {
        GreenMail green = green();
        try {
            GreenMailUser user = green.setUser("duty@custodia.test", "us", "right");
            green.getManagers().getUserManager().setAuthRequired(true);
            MailServer server = server(green.getSmtp().getPort(), Security.NONE, "us");
            NotSentException wrong = refused(sender, server, "wrong");
            assertThat(wrong.saying().code()).isEqualTo("message.password-refused");
            assertThat(wrong.why()).isEqualTo(Why.NOBODY_TAKES_ANY);
            assertThat(wrong.getMessage()).doesNotContain("wrong");
            send(sender, DUTY, server, "right");
            assertThat(green.getReceivedMessagesForDomain("custodia.test")).hasSize(1);
            assertThat(GreenMailUtil.getBody(green.getReceivedMessages()[0])).contains("14:20");
            assertThat(user.getLogin()).isEqualTo("us");
        } finally {
            green.stop();
        }
    }

    @Test
    void nothing_is_said_in_the_open_where_it_is_to_be_secured() throws Exception {
        GreenMail green = green();
        try {
            // It offers no way to secure what it is told.
            NotSentException e =
                    refused(sender, server(green.getSmtp().getPort(), Security.STARTTLS, "us"), "password");
            assertThat(e.saying().code()).isEqualTo("message.not-secure");
            assertThat(e.why()).isEqualTo(Why.NOBODY_TAKES_ANY);
            assertThat(green.getReceivedMessages()).isEmpty();
        } finally {
            green.stop();
        }
    }

    @Test
    void a_server_that_is_not_there_has_taken_nothing() throws IOException {
        int port;
        try (ServerSocket free = new ServerSocket(0, 1, InetAddress.getLoopbackAddress())) {
            port = free.getLocalPort();
        }
        NotSentException e = refused(sender, server(port, Security.NONE), null);
        assertThat(e.saying()).isEqualTo(Saying.of("message.nobody-there", "127.0.0.1:" + port));
        assertThat(e.why()).isEqualTo(Why.NOBODY_TAKES_ANY);
    }

    @Test
    void what_it_says_no_to_is_told_apart_from_what_it_cannot_take_now() throws IOException {
        try (Scripted never = new Scripted(Scripted.mail("220 hello", "550 5.1.1 no such person", "250 ok"))) {
            NotSentException e = refused(sender, server(never.port(), Security.NONE), null);
            assertThat(e.saying().code()).isEqualTo("message.mail-refused");
            assertThat(e.saying().of().get(1).toString()).contains("no such person");
            assertThat(e.why()).isEqualTo(Why.REFUSED);
        }
        try (Scripted later = new Scripted(Scripted.mail("220 hello", "250 ok", "452 4.2.2 full"))) {
            NotSentException e = refused(sender, server(later.port(), Security.NONE), null);
            assertThat(e.saying().code()).isEqualTo("message.mail-not-now");
            assertThat(e.why()).isEqualTo(Why.NOBODY_TAKES_ANY);
        }
        try (Scripted busy = new Scripted(Scripted.mail("421 too busy", "250 ok", "250 ok"))) {
            assertThat(refused(sender, server(busy.port(), Security.NONE), null).why())
                    .isEqualTo(Why.NOBODY_TAKES_ANY);
        }
    }

    /** A server with a scripted answer for each address; it accepts the mail for the others. */
    private static Scripted choosy(Map<String, String> answers, boolean utf8, List<String> said) throws IOException {
        return new Scripted((in, out) -> {
            Scripted.say(out, "220 hello");
            String line;
            while ((line = in.readLine()) != null) {
                said.add(line);
                String here = line;
                if (line.startsWith("EHLO")) {
                    Scripted.say(out, utf8 ? "250-here" : "250 here");
                    if (utf8) {
                        Scripted.say(out, "250 SMTPUTF8");
                    }
                } else if (line.startsWith("RCPT")) {
                    Scripted.say(
                            out,
                            answers.entrySet().stream()
                                    .filter(a -> here.contains(a.getKey()))
                                    .map(Map.Entry::getValue)
                                    .findFirst()
                                    .orElse("250 fine"));
                } else if (line.startsWith("DATA")) {
                    Scripted.say(out, "354 go on");
                    while (!".".equals(line)) {
                        line = in.readLine();
                    }
                    Scripted.say(out, "250 ok");
                } else {
                    Scripted.say(out, "250 fine");
                }
            }
        });
    }

    @Test
    void one_address_that_is_not_taken_keeps_no_other_from_being_told() throws Exception {
        Map<String, String> answers = Map.of("gone", "550 5.1.1 gone", "full", "450 4.2.2 full");
        Receiver.Mail three =
                new Receiver.Mail(List.of("gone@custodia.test", "duty@custodia.test", "full@custodia.test"), false);
        try (Scripted some = choosy(answers, false, new CopyOnWriteArrayList<>())) {
            Sender.MailDelivery delivery = send(sender, three, server(some.port(), Security.NONE), null);
            assertThat(delivery.refused()).containsExactly("gone@custodia.test");
            // What is not taken now is not taken for sent: it goes to that address again.
            assertThat(delivery.notNow()).containsExactly("full@custodia.test");
            assertThat(delivery.answer()).contains("4.2.2 full");
        }
    }

    @Test
    void an_address_with_letters_beyond_ascii_goes_only_to_a_server_that_takes_it() throws Exception {
        Receiver.Mail two = new Receiver.Mail(List.of("wächter@sternwick.test", "duty@müseum.test"), false);
        List<String> said = new CopyOnWriteArrayList<>();
        try (Scripted plain = choosy(Map.of(), false, said)) {
            Sender.MailDelivery delivery = send(sender, two, server(plain.port(), Security.NONE), null);
            assertThat(delivery.refused()).containsExactly("wächter@sternwick.test");
            assertThat(said).contains("RCPT TO:<duty@xn--mseum-kva.test>");
            assertThat(said).noneMatch(l -> l.startsWith("RCPT") && l.contains("chter"));
            Receiver.Mail one = new Receiver.Mail(List.of("wächter@sternwick.test"), false);
            NotSentException none = catchThrowableOfType(
                    NotSentException.class, () -> send(sender, one, server(plain.port(), Security.NONE), null));
            assertThat(none.saying().code()).isEqualTo("message.address-beyond-ascii");
            assertThat(none.why()).isEqualTo(Why.REFUSED);
        }
        said.clear();
        try (Scripted utf8 = choosy(Map.of(), true, said)) {
            assertThat(send(sender, two, server(utf8.port(), Security.NONE), null))
                    .isEqualTo(Sender.MailDelivery.TO_ALL);
            assertThat(said).anyMatch(l -> l.startsWith("MAIL FROM") && l.contains("SMTPUTF8"));
        }
    }

    /** A message that is broken off once the server has it would go out again. */
    @Test
    void a_server_that_takes_its_time_once_it_has_the_message_is_waited_for() throws Exception {
        MessageSender patient = new MessageSender(Duration.ofMillis(700), Duration.ofSeconds(30));
        CountDownLatch waited = new CountDownLatch(1);
        try (Scripted slow = new Scripted((in, out) -> {
            Scripted.say(out, "220 hello");
            String line;
            while ((line = in.readLine()) != null) {
                if (line.startsWith("DATA")) {
                    Scripted.say(out, "354 go on");
                    while (!".".equals(line)) {
                        line = in.readLine();
                    }
                    // Longer than it may take before it has the message.
                    CompletableFuture.delayedExecutor(1_500, TimeUnit.MILLISECONDS)
                            .execute(waited::countDown);
                    try {
                        waited.await();
                    } catch (InterruptedException e) {
                        return;
                    }
                }
                Scripted.say(out, "250 fine");
            }
        })) {
            assertThat(send(patient, DUTY, server(slow.port(), Security.NONE), null))
                    .isEqualTo(Sender.MailDelivery.TO_ALL);
        } finally {
            patient.close();
        }
    }

    /** It hangs before the mail, in it, and after it: only the last may have taken it. */
    @Test
    void one_that_hangs_is_left_and_may_have_taken_what_it_was_given() throws IOException {
        try (Scripted mute = new Scripted((in, out) -> Scripted.nothing(in))) {
            NotSentException e = refused(hasty, server(mute.port(), Security.NONE), null);
            assertThat(e.why()).isEqualTo(Why.NOBODY_TAKES_ANY);
        }
        try (Scripted swallows = new Scripted(Scripted.mail("220 hello", "250 ok", null))) {
            NotSentException e = refused(hasty, server(swallows.port(), Security.NONE), null);
            assertThat(e.saying().code()).isEqualTo("message.no-answer");
            assertThat(e.why()).isEqualTo(Why.NOT_KNOWN);
        }
        // It says a little now and then, for ever.
        try (Scripted drips = new Scripted((in, out) -> {
            while (true) {
                Scripted.say(out, "220-still here");
                if (in.ready()) {
                    in.readLine();
                }
            }
        })) {
            NotSentException e = refused(hasty, server(drips.port(), Security.NONE), null);
            assertThat(e.why()).isEqualTo(Why.NOBODY_TAKES_ANY);
        }
        try (Scripted breaks = new Scripted((in, out) -> {
            Scripted.say(out, "220 hello");
            in.readLine();
        })) {
            assertThat(refused(sender, server(breaks.port(), Security.NONE), null)
                            .why())
                    .isEqualTo(Why.NOBODY_TAKES_ANY);
        }
    }

    @Test
    void closing_ends_what_is_under_way() throws Exception {
        CompletableFuture<Void> connected = new CompletableFuture<>();
        try (Scripted mute = new Scripted((in, out) -> {
            connected.complete(null);
            Scripted.nothing(in);
        })) {
            CompletableFuture<NotSentException> ended =
                    CompletableFuture.supplyAsync(() -> refused(sender, server(mute.port(), Security.NONE), null));
            connected.get(30, TimeUnit.SECONDS);
            sender.close();
            assertThat(ended.get(15, TimeUnit.SECONDS).saying().code()).isEqualTo("message.stopped");
        }
    }
}
