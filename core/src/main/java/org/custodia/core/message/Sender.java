package org.custodia.core.message;

import java.util.Optional;
import org.custodia.core.saying.Saying;

/** Sends messages. Each call waits for the answer, for a bounded time; several may be made at once. */
public interface Sender extends AutoCloseable {
    /**
     * Sends one by mail.
     *
     * @param password what the user of the server signs in with
     * @return what is to be said though it went: that some address was not taken
     * @throws NotSentException if it did not go, or nobody knows
     */
    Optional<Saying> mail(
            Receiver.Mail to, MailServer server, Optional<String> password, Message message, Message.Words words)
            throws NotSentException;

    /**
     * Sends one to an address of the web.
     *
     * @param key that it is signed with
     * @throws NotSentException if it did not go, or nobody knows
     */
    void web(Receiver.Web to, String key, Message message, Message.Words words) throws NotSentException;

    /** Ends what is under way. */
    @Override
    void close();
}
