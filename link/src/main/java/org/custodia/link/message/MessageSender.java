package org.custodia.link.message;

import java.time.Duration;
import java.util.Optional;
import org.custodia.core.message.MailServer;
import org.custodia.core.message.Message;
import org.custodia.core.message.NotSentException;
import org.custodia.core.message.Receiver;
import org.custodia.core.message.Sender;

/** Sends messages by mail and to addresses of the web. Safe for use by several threads. */
public final class MessageSender implements Sender {
    /** An attempt takes no longer, whatever the other side does. */
    private static final Duration WITHIN = Duration.ofSeconds(40);
    /** As RFC 5321 asks for (4.5.3.2.6). */
    private static final Duration ANSWER_WITHIN = Duration.ofMinutes(10);

    private final MailPost mail;
    private final WebPost web;

    public MessageSender() {
        this(WITHIN, ANSWER_WITHIN);
    }

    /**
     * @param within how long one attempt may take, for mail until the server has the message
     * @param answerWithin how long a mail server may take then to say that it has taken it
     */
    MessageSender(Duration within, Duration answerWithin) {
        this.mail = new MailPost(within, answerWithin);
        this.web = new WebPost(within);
    }

    @Override
    public MailDelivery mail(
            Receiver.Mail to, MailServer server, Optional<String> password, Message message, Message.Words words)
            throws NotSentException {
        return mail.send(to, server, password, message, words);
    }

    @Override
    public void web(Receiver.Web to, String key, Message message, Message.Words words) throws NotSentException {
        web.send(to, key, message, words);
    }

    @Override
    public void close() {
        mail.close();
        web.close();
    }
}
