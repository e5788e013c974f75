package org.custodia.store;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.net.URI;
import java.nio.file.Path;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.custodia.core.alarm.Escalation;
import org.custodia.core.alarm.Rule;
import org.custodia.core.alarm.Versions.Edit;
import org.custodia.core.alarm.Versions.Said;
import org.custodia.core.event.EventLogException;
import org.custodia.core.event.Priority;
import org.custodia.core.message.MailServer;
import org.custodia.core.message.Receiver;
import org.custodia.core.operator.Actor;
import org.custodia.core.operator.NotPermittedException;
import org.custodia.core.operator.Permission;
import org.custodia.core.operator.SiteScope;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Rules with all their versions, all or none. */
class VersionedRegisterTest {
    private static final Instant NOW = Instant.parse("2026-11-24T14:20:00Z");
    private static final Actor IV = Actor.withAll("iv", "I. Vantongeren", "Desk 1");

    @TempDir
    Path path;

    private StoreFixture store;
    private VersionedRegister<Rule> register;

    @BeforeEach
    void open() {
        store = new StoreFixture(path);
        register = VersionedRegister.ofRules(
                new Registers(store.database, store.intake), Clock.fixed(NOW, ZoneOffset.UTC));
    }

    @AfterEach
    void close() {
        store.close();
    }

    @Test
    void each_rule_comes_back_as_it_was_kept_in_its_version() {
        List<Rule> shipped = Rule.shipped();
        register.keep(
                shipped.stream().map(r -> new Edit<>(r.id(), Optional.of(r), 0)).toList(),
                IV,
                List.of(StoreFixture.fact()));
        shipped.forEach(r -> assertThat(register.newest().get(r.id()))
                .isEqualTo(new Said<>(Optional.of(r.version(1)), 1, NOW, Optional.of("iv"))));
        String id = shipped.get(0).id();
        register.keep(List.of(new Edit<>(id, Optional.empty(), 1)), IV, List.of(StoreFixture.fact()));
        assertThat(register.newest().get(id).value()).isEmpty();
        assertThat(register.versions(id)).extracting(Said::version).containsExactly(2L, 1L);
        assertThat(register.versions("none")).isEmpty();
    }

    @Test
    void where_one_was_changed_meanwhile_none_is_kept() {
        Rule forced = Rule.shipped().get(0);
        Rule held = Rule.shipped().get(4);
        register.keep(List.of(new Edit<>(forced.id(), Optional.of(forced), 0)), IV, List.of(StoreFixture.fact()));
        assertThatThrownBy(() -> register.keep(
                        List.of(
                                new Edit<>(held.id(), Optional.of(held), 0),
                                new Edit<>(forced.id(), Optional.of(forced.on(false)), 0)),
                        IV,
                        List.of(StoreFixture.fact())))
                .isInstanceOf(EventLogException.class);
        assertThat(register.newest()).containsOnlyKeys(forced.id());
        Actor looks = Actor.with("x", "X", "desk", List.of(Permission.HANDLE_ALARMS), SiteScope.everywhere());
        assertThatThrownBy(() -> register.keep(
                        List.of(new Edit<>(held.id(), Optional.of(held), 0)), looks, List.of(StoreFixture.fact())))
                .isInstanceOf(NotPermittedException.class);
    }

    @Test
    void receivers_the_mail_server_and_the_course_of_calling_come_back_as_they_were_kept() {
        Registers registers = new Registers(store.database, store.intake);
        Clock clock = Clock.fixed(NOW, ZoneOffset.UTC);
        VersionedRegister<Receiver> receivers = VersionedRegister.ofReceivers(registers, clock);
        Receiver duty = new Receiver(
                "duty", 0, "Duty", true, new Receiver.Mail(List.of("a@custodia.test", "b@custodia.test"), false));
        Receiver phones = new Receiver(
                "phones",
                0,
                "Phones",
                false,
                new Receiver.Web(URI.create("https://phones.custodia.test/in?x=1"), Optional.of("0a".repeat(32))));
        receivers.keep(
                List.of(new Edit<>("duty", Optional.of(duty), 0), new Edit<>("phones", Optional.of(phones), 0)),
                IV,
                List.of(StoreFixture.fact()));
        assertThat(receivers.newest().get("duty").value()).contains(duty.version(1));
        assertThat(receivers.newest().get("phones").value()).contains(phones.version(1));

        VersionedRegister<MailServer> servers = VersionedRegister.ofMailServers(registers, clock);
        MailServer server = new MailServer(
                0, "mail.custodia.test", 465, MailServer.Security.TLS, Optional.of("us"), "us@custodia.test");
        servers.keep(List.of(new Edit<>(MailServer.ID, Optional.of(server), 0)), IV, List.of(StoreFixture.fact()));
        assertThat(servers.newest().get(MailServer.ID).value()).contains(server.version(1));
        MailServer confirmed = server.certificate(Optional.of("f1".repeat(32)));
        servers.keep(List.of(new Edit<>(MailServer.ID, Optional.of(confirmed), 1)), IV, List.of(StoreFixture.fact()));
        assertThat(servers.newest().get(MailServer.ID).value()).contains(confirmed.version(2));

        VersionedRegister<Escalation> escalations = VersionedRegister.ofEscalations(registers, clock);
        Escalation one = new Escalation(
                0,
                Map.of(
                        Priority.LOW,
                        List.of(
                                new Escalation.Step(Duration.ofSeconds(90), List.of()),
                                new Escalation.Step(Duration.ofMinutes(5), List.of("duty", "phones")))));
        escalations.keep(List.of(new Edit<>("calling", Optional.of(one), 0)), IV, List.of(StoreFixture.fact()));
        assertThat(escalations.newest().get("calling").value()).contains(one.version(1));
    }
}
