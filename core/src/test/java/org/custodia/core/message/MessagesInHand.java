package org.custodia.core.message;

import java.io.IOException;
import java.time.Clock;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.CopyOnWriteArrayList;
import org.custodia.core.access.PersonRegister;
import org.custodia.core.alarm.AlarmDesk;
import org.custodia.core.alarm.Escalation;
import org.custodia.core.alarm.VersionsInHand;
import org.custodia.core.event.MemoryLog;
import org.custodia.core.event.Snapshots;
import org.custodia.core.saying.Saying;
import org.custodia.core.setup.SetupInHand;
import org.custodia.core.site.Sites;

/** Receivers and messages in memory, and a post that takes all, or nothing. */
public final class MessagesInHand implements AutoCloseable {
    /** What went out: to whom. */
    public final List<String> sent = new CopyOnWriteArrayList<>();
    /** While it is so nothing is taken. */
    public volatile boolean down;

    public final MessageDesk desk;
    private final Dispatch dispatch;

    public MessagesInHand(AlarmDesk alarms, MemoryLog log, Sites sites, PersonRegister people, Clock clock) {
        VersionsInHand<Escalation> escalations = new VersionsInHand<>(Escalation::version);
        escalations.log = log;
        Receivers receivers =
                new Receivers(new VersionsInHand<>(Receiver::version), new VersionsInHand<>(MailServer::version));
        OutboxInHand outbox = new OutboxInHand(log);
        SetupInHand secrets = new SetupInHand(log);
        Composer composer = new Composer(
                alarms,
                sites::get,
                people,
                (camera, at) -> {
                    throw new IOException("no picture");
                },
                m -> new Message.Words("subject", "text", "what", "where"),
                clock);
        dispatch = new Dispatch(
                outbox,
                receivers,
                secrets,
                composer,
                new Passing(log, s -> Optional.empty(), s -> false),
                new Post(),
                log,
                log,
                Snapshots.inMemory(),
                clock);
        desk = new MessageDesk(receivers, escalations, alarms, outbox, dispatch, secrets, log, clock);
    }

    private final class Post implements Sender {
        @Override
        public MailDelivery mail(
                Receiver.Mail to, MailServer server, Optional<String> password, Message message, Message.Words words)
                throws NotSentException {
            take(String.join(" ", to.to()));
            return MailDelivery.TO_ALL;
        }

        @Override
        public void web(Receiver.Web to, String key, Message message, Message.Words words) throws NotSentException {
            take(to.address().toString());
        }

        private void take(String to) throws NotSentException {
            if (down) {
                throw new NotSentException(
                        NotSentException.Why.NOBODY_TAKES_ANY, Saying.of("message.nobody-there", "post.test"));
            }
            sent.add(to);
        }

        @Override
        public void close() {
            // Nothing is under way.
        }
    }

    @Override
    public void close() {
        dispatch.close();
    }
}
