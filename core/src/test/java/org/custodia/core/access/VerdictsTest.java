package org.custodia.core.access;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.List;
import java.util.Set;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.MemoryLog;
import org.custodia.core.event.Snapshots;
import org.custodia.core.operator.Actor;
import org.custodia.core.operator.NotPermittedException;
import org.custodia.core.operator.Permission;
import org.custodia.core.operator.SiteScope;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.SystemId;
import org.junit.jupiter.api.Test;

class VerdictsTest {
    private static final Instant NOW = Instant.parse("2026-11-24T14:00:00Z");
    private static final Clock CLOCK = Clock.fixed(NOW, ZoneOffset.UTC);
    private static final SiteModel SITES = new SiteModel(
            List.of(),
            List.of(new Door(
                    new DoorId("tidewater/vault"),
                    new SystemId("tidewater"),
                    new ControllerId("tidewater/c1"),
                    "Vault",
                    new SiteId("harbour"),
                    "0",
                    "outside",
                    "inside",
                    Duration.ofSeconds(30),
                    Set.of())),
            List.of(),
            List.of());
    private static final Actor OPERATOR = Actor.withAll("iv", "I. Vantongeren", "desk");

    private final MemoryLog log = new MemoryLog();
    private final Event badge = Event.of(new EventKey(new SystemId("tidewater"), 1, 7), Kinds.GRANTED, NOW)
            .door(new DoorId("tidewater/vault"))
            .person(new PersonId("tidewater/p1"))
            .build();

    private Event verdict(SystemId by, long number, String about, String verdict) {
        return Event.of(new EventKey(by, 1, number), Kinds.VERDICT, NOW)
                .detail("about", about)
                .detail("verdict", verdict)
                .build();
    }

    @Test
    void the_newest_of_several_holds_and_is_there_after_a_restart() {
        try (Verdicts verdicts = new Verdicts(log, log, Snapshots.inMemory(), () -> SITES, CLOCK)) {
            assertThat(verdicts.of(badge.key())).isEmpty();
            Event given = verdicts.give(OPERATOR, badge, Verdict.DIFFERENT).join();
            assertThat(given.operator()).contains("iv");
            assertThat(given.detail("operator-name")).contains("I. Vantongeren");
            assertThat(given.door()).isEqualTo(badge.door());
            assertThat(given.person()).isEqualTo(badge.person());
            assertThat(verdicts.of(badge.key())).contains(Verdict.DIFFERENT);
            verdicts.give(OPERATOR, badge, Verdict.SAME).join();
            assertThat(verdicts.of(badge.key())).contains(Verdict.SAME);
        }
        try (Verdicts again = new Verdicts(log, log, Snapshots.inMemory(), () -> SITES, CLOCK)) {
            assertThat(again.of(badge.key())).contains(Verdict.SAME);
        }
    }

    @Test
    void nobody_elses_verdict_is_believed_and_a_broken_one_breaks_nothing() {
        log.store(
                verdict(new SystemId("tidewater"), 8, badge.key().text(), "same"),
                verdict(SystemId.CUSTODIA, 900, "nonsense", "same"),
                verdict(SystemId.CUSTODIA, 901, badge.key().text(), "perhaps"),
                Event.of(new EventKey(SystemId.CUSTODIA, 1, 902), Kinds.VERDICT, NOW)
                        .build());
        try (Verdicts verdicts = new Verdicts(log, log, Snapshots.inMemory(), () -> SITES, CLOCK)) {
            assertThat(verdicts.of(badge.key())).isEmpty();
            log.store(verdict(new SystemId("tidewater"), 9, badge.key().text(), "same"));
            assertThat(verdicts.of(badge.key())).isEmpty();
        }
    }

    @Test
    void who_may_not_look_may_not_judge_and_after_the_end_nothing_is_taken_in() {
        Verdicts verdicts = new Verdicts(log, log, Snapshots.inMemory(), () -> SITES, CLOCK);
        Actor nobody = Actor.with("x", "Somebody", "desk", Set.of(Permission.REPORT), SiteScope.everywhere());
        assertThatThrownBy(() -> verdicts.give(nobody, badge, Verdict.SAME)).isInstanceOf(NotPermittedException.class);
        Actor yard = Actor.with("y", "Yard", "desk", Set.of(Permission.SEE_LIVE), SiteScope.at(new SiteId("yard")));
        assertThatThrownBy(() -> verdicts.give(yard, badge, Verdict.SAME)).isInstanceOf(NotPermittedException.class);
        Event nowhere = badge.toBuilder().door(null).build();
        Actor harbour =
                Actor.with("h", "Harbour", "desk", Set.of(Permission.SEE_LIVE), SiteScope.at(new SiteId("harbour")));
        assertThatThrownBy(() -> verdicts.give(harbour, nowhere, Verdict.SAME))
                .isInstanceOf(NotPermittedException.class);
        assertThat(log.events).isEmpty();
        verdicts.give(harbour, badge, Verdict.DIFFERENT).join();
        assertThat(log.events).hasSize(1);
        verdicts.close();
        log.store(verdict(SystemId.CUSTODIA, 5, badge.key().text(), "same"));
        assertThat(verdicts.of(badge.key())).contains(Verdict.DIFFERENT);
    }
}
