package org.custodia.app;

import java.net.URI;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.custodia.core.alarm.Escalation;
import org.custodia.core.event.Priority;
import org.custodia.core.message.MailServer;
import org.custodia.core.message.MessageDesk;
import org.custodia.core.message.Receiver;
import org.custodia.core.operator.Actor;
import org.custodia.practice.PracticeSite;

/** Has messages of the demo go to the practice site's post, which is at another port each time. */
final class DemoPost {
    private static final Actor ACTOR = Actor.withAll("custodia", "Custodia, for the demo", "hub");
    private static final String DUTY = "duty-manager";
    private static final String PHONES = "phones";

    private final PracticeSite site;
    private final MessageDesk messages;

    DemoPost(PracticeSite site, MessageDesk messages) {
        this.site = site;
        this.messages = messages;
    }

    /** Sets it up where it is not set up so; what somebody changed otherwise stays. */
    void setUp() {
        MailServer there = new MailServer(
                0,
                "127.0.0.1",
                site.post().mailPort(),
                MailServer.Security.NONE,
                Optional.empty(),
                "custodia@sternwick.example");
        Optional<MailServer> before = messages.server(ACTOR);
        if (before.filter(b -> !b.host().equals(there.host()) || b.version(0).equals(there))
                .isEmpty()) {
            messages.keep(there, before.map(MailServer::version).orElse(0L), Optional.empty(), ACTOR);
        }
        boolean first = messages.receivers(ACTOR).isEmpty() && before.isEmpty();
        if (first) {
            messages.keep(
                    new Receiver(
                            DUTY,
                            0,
                            "Duty manager",
                            true,
                            new Receiver.Mail(List.of("duty.manager@sternwick.example"), true)),
                    0,
                    Optional.empty(),
                    ACTOR);
        }
        URI address = site.postAddress();
        Optional<Receiver> phones = messages.receivers(ACTOR).stream()
                .map(MessageDesk.Standing::receiver)
                .filter(r -> r.id().equals(PHONES))
                .findFirst();
        boolean moved = phones.map(Receiver::way)
                .filter(w -> w instanceof Receiver.Web web
                        && web.address().getHost().equals(address.getHost())
                        && !web.address().equals(address))
                .isPresent();
        if (first || moved) {
            messages.keep(
                    new Receiver(
                            PHONES,
                            0,
                            phones.map(Receiver::name).orElse("Phones of the watch"),
                            phones.map(Receiver::on).orElse(true),
                            new Receiver.Web(address)),
                    phones.map(Receiver::version).orElse(0L),
                    Optional.of(site.post().key()),
                    ACTOR);
        }
        Escalation usual = messages.escalation(ACTOR);
        if (first && usual.version() == 0) {
            List<Escalation.Step> urgent = usual.of(Priority.URGENT);
            messages.keep(
                    new Escalation(
                            0,
                            Map.of(
                                    Priority.URGENT,
                                    List.of(
                                            new Escalation.Step(urgent.get(0).after(), List.of(PHONES)),
                                            new Escalation.Step(urgent.get(1).after(), List.of(PHONES, DUTY)),
                                            urgent.get(2)),
                                    Priority.CAUTION,
                                    usual.of(Priority.CAUTION))),
                    0,
                    ACTOR);
        }
    }
}
