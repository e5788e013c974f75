package org.custodia.core.message;

import java.util.List;
import java.util.Optional;
import org.custodia.core.saying.Saying;

/** Sends messages. Each call waits for the answer, for a bounded time; several may be made at once. */
public interface Sender extends AutoCloseable {
    /**
     * Sends one by mail.
     *
     * @param password what the user of the server signs in with
     * @return which of the addresses it went to
     * @throws NotSentException if it went to none, or that is not known
     */
    MailDelivery mail(
            Receiver.Mail to, MailServer server, Optional<String> password, Message message, Message.Words words)
            throws NotSentException;

    /**
     * Sends one to an address of the web.
     *
     * @param key that it is signed with
     * @throws NotSentException if it did not go, or nobody knows
     */
    void web(Receiver.Web to, String key, Message message, Message.Words words) throws NotSentException;

    /**
     * What came of a mail that at least one address took.
     *
     * @param refused addresses that the server refused for good
     * @param notNow addresses that the server did not take now: to be tried again
     * @param answer what the server said about the last of these, empty where it took all
     */
    record MailDelivery(List<String> refused, List<String> notNow, String answer) {
        /** All addresses took it. */
        public static final MailDelivery TO_ALL = new MailDelivery(List.of(), List.of(), "");

        public MailDelivery {
            refused = List.copyOf(refused);
            notNow = List.copyOf(notNow);
        }

        /** What is to be said though it went; nothing where it went to all. */
        public Optional<Saying> remark() {
            if (!notNow.isEmpty()) {
                return Optional.of(Saying.of("message.partly-later", String.join(", ", notNow), answer));
            }
            return refused.isEmpty()
                    ? Optional.empty()
                    : Optional.of(Saying.of("message.partly", String.join(", ", refused)));
        }
    }

    /** Ends what is under way. */
    @Override
    void close();
}
