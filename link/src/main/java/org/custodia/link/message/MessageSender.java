package org.custodia.link.message;

import java.time.Duration;
import java.util.Optional;
import org.custodia.core.message.MailServer;
import org.custodia.core.message.Message;
import org.custodia.core.message.NotSentException;
import org.custodia.core.message.Receiver;
import org.custodia.core.message.Sender;
import org.custodia.core.saying.Saying;

/** Sends messages by mail and to addresses of the web. Safe for use by several threads. */
public final class MessageSender implements Sender {
    /** An attempt takes no longer, whatever the other side does. */
    private static final Duration WITHIN = Duration.ofSeconds(40);

    private final MailPost mail;
    private final WebPost web;

    public MessageSender() {
        this(WITHIN);
    }

    /**
     * @param within how long one attempt may take
     */
    MessageSender(Duration within) {
        this.mail = new MailPost(within);
        this.web = new WebPost(within);
    }

    @Override
    public Optional<Saying> mail(
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
