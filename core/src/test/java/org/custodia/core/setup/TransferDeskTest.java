package org.custodia.core.setup;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatCode;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.net.URI;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.assertj.core.api.ThrowableAssert.ThrowingCallable;
import org.custodia.core.event.EventLogException;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.MemoryLog;
import org.custodia.core.event.OnRecord;
import org.custodia.core.event.Translation;
import org.custodia.core.operator.Actor;
import org.custodia.core.operator.NotPermittedException;
import org.custodia.core.operator.Permission;
import org.custodia.core.operator.Roles;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.Crop;
import org.custodia.core.site.DeviceId;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Lookout;
import org.custodia.core.site.Pairing;
import org.custodia.core.site.Placing;
import org.custodia.core.site.Side;
import org.custodia.core.site.Site;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SystemId;
import org.custodia.core.site.Thing;
import org.custodia.core.site.Walk;
import org.junit.jupiter.api.Test;

/** A whole setup that is taken in: whole, twice, half, by two at once, with what cannot be, and by those who may not. */
class TransferDeskTest {
    private static final Clock CLOCK = Clock.fixed(Instant.parse("2026-11-24T13:00:00Z"), ZoneOffset.UTC);
    private static final Actor ODO = Actor.withAll("odo", "O. Brandvold", "desk");
    private static final SystemId TIDEWATER = new SystemId("tidewater");
    private static final DoorId VAULT = new DoorId("tidewater/vault");
    private static final DoorId ANTE = new DoorId("tidewater/ante");
    private static final CameraId OUTSIDE = new CameraId("quayside/vault-outside");

    private final MemoryLog log = new MemoryLog();
    private final SetupInHand hand = new SetupInHand(log);
    private final DevicesInHand devices = new DevicesInHand(log);
    private final SetupDesk links = new SetupDesk(hand, hand, hand, log, CLOCK);
    private final TransferDesk desk = new TransferDesk(links, hand, devices, devices, log, hand.files, CLOCK);

    private static LinkSetup link(String address) {
        return new LinkSetup("tidewater", "access", "link-protocol", "Tidewater", URI.create(address), false, false);
    }

    private static Pairing pair(Duration leadIn) {
        return new Pairing(VAULT, OUTSIDE, Side.ENTRY, Pairing.View.OUTSIDE, leadIn, Crop.WHOLE, Duration.ZERO);
    }

    private static Translation.Rule rule(String means) {
        return new Translation.Rule(Optional.of("odd.knock"), Optional.empty(), Kinds.of(means), Optional.empty());
    }

    private static final Placing STRONGROOM = Placing.none(Thing.of(VAULT))
            .name(Optional.of("Strongroom"))
            .site(Optional.of(new SiteId("here Boathouse")));

    private static WholeSetup whole() {
        return new WholeSetup(
                "Sternwick Museum",
                List.of(link("https://sternwick.example/access/")),
                List.of(new Site(new SiteId("here Boathouse"), "Boathouse", ZoneId.of("Europe/London"))),
                List.of(pair(Duration.ofSeconds(7))),
                List.of(STRONGROOM),
                List.of(new Walk(VAULT, ANTE, Duration.ofSeconds(12))),
                List.of(new Lookout(
                        OUTSIDE, new Lookout.OfDevice(new DeviceId("tidewater/panic-1")), Duration.ofSeconds(5))),
                Map.of(TIDEWATER, List.of(rule("door.forced"))),
                List.of());
    }

    private SetupPlan plan(WholeSetup whole) {
        hand.whole = whole;
        return desk.plan(new byte[0], ODO);
    }

    @Test
    void all_of_it_is_taken_in_before_its_systems_are_known_and_changes_nothing_the_second_time() {
        SetupPlan plan = plan(whole());
        assertThat(plan.changes()).isEqualTo(7);
        assertThat(plan.same()).isZero();
        assertThat(plan.problems()).isEmpty();
        assertThat(plan.links()).singleElement().satisfies(l -> assertThat(l.asksForToken())
                .isTrue());
        // Looking changes nothing.
        assertThat(hand.all()).isEmpty();
        desk.carryOut(plan, ODO);
        assertThat(hand.all())
                .extracting(LinkBook.Kept::link)
                .containsExactly(link("https://sternwick.example/access/"));
        assertThat(hand.done).containsExactly("cannot open tidewater, link.token-missing");
        assertThat(hand.allPairs()).extracting(PairBook.Kept::pairing).containsExactly(pair(Duration.ofSeconds(7)));
        assertThat(devices.placed.values()).containsExactly(STRONGROOM);
        assertThat(devices.allWalks()).hasSize(1);
        assertThat(devices.allLookouts()).hasSize(1);
        assertThat(devices.ownSites()).hasSize(1);
        assertThat(log.translation(TIDEWATER).rules()).containsExactly(rule("door.forced"));
        assertThat(log.events)
                .filteredOn(e -> e.kind().equals(Kinds.SET_UP))
                .extracting(e -> e.detail("what").orElseThrow())
                .containsExactly("site", "thing", "walk", "pair", "lookout", "link");
        int events = log.events.size();
        SetupPlan again = plan(whole());
        assertThat(again.changes()).isZero();
        assertThat(again.same()).isEqualTo(7);
        desk.carryOut(again, ODO);
        assertThat(log.events).hasSize(events);
    }

    @Test
    void what_was_written_says_the_same_when_it_is_read() {
        desk.carryOut(plan(whole()), ODO);
        hand.whole = null;
        desk.write("Sternwick Museum", List.of(), ODO);
        assertThat(hand.whole).isEqualTo(whole());
    }

    @Test
    void what_is_there_otherwise_is_changed_and_what_is_not_in_it_stays() {
        desk.carryOut(plan(whole()), ODO);
        hand.keep(
                new LinkSetup(
                        "quayside",
                        "recorder",
                        "link-protocol",
                        "Quayside",
                        URI.create("https://sternwick.example/recorder/"),
                        false,
                        false),
                0,
                ODO,
                OnRecord.setUp("test", "said", ODO, Instant.EPOCH));
        hand.putToken(link("https://sternwick.example/access/"), "hush-hush");
        hand.done.clear();
        WholeSetup other = new WholeSetup(
                "Sternwick Museum",
                List.of(link("https://sternwick.example/access/").clockLimit(Duration.ofSeconds(9))),
                List.of(),
                List.of(pair(Duration.ofSeconds(3))),
                List.of(STRONGROOM.level(Optional.of("-1"))),
                List.of(new Walk(ANTE, VAULT, Duration.ofSeconds(20))),
                List.of(),
                Map.of(TIDEWATER, List.of(rule("door.held"))),
                List.of());
        SetupPlan plan = plan(other);
        assertThat(plan.changes()).isEqualTo(5);
        assertThat(plan.shown())
                .allSatisfy(c -> assertThat(c.parts().get(0).before()).isPresent());
        assertThat(plan.links().get(0).asksForToken()).isFalse();
        desk.carryOut(plan, ODO);
        assertThat(hand.done).containsExactly("open tidewater hush-hush");
        assertThat(hand.all()).hasSize(2);
        assertThat(hand.allPairs()).extracting(PairBook.Kept::pairing).containsExactly(pair(Duration.ofSeconds(3)));
        assertThat(devices.allWalks()).containsExactly(new Walk(VAULT, ANTE, Duration.ofSeconds(20)));
        assertThat(devices.ownSites()).hasSize(1);
        assertThat(devices.allLookouts()).hasSize(1);
    }

    @Test
    void what_signs_in_is_sent_to_no_other_address_that_a_file_names() {
        desk.carryOut(plan(whole()), ODO);
        hand.putToken(link("https://sternwick.example/access/"), "hush-hush");
        hand.done.clear();
        WholeSetup lured = new WholeSetup(
                "Sternwick Museum",
                List.of(link("https://elsewhere.example/access/")),
                List.of(),
                List.of(),
                List.of(),
                List.of(),
                List.of(),
                Map.of(),
                List.of());
        SetupPlan plan = plan(lured);
        assertThat(plan.links().get(0).asksForToken()).isTrue();
        desk.carryOut(plan, ODO);
        assertThat(hand.done).containsExactly("cannot open tidewater, link.token-missing");
        assertThat(hand.kept).isEmpty();
    }

    @Test
    void what_cannot_be_is_left_out_and_said_and_the_rest_is_taken() {
        WholeSetup odd = new WholeSetup(
                "Sternwick Museum",
                List.of(
                        new LinkSetup(
                                "brine",
                                "access",
                                "telepathy",
                                "Brine",
                                URI.create("https://sternwick.example/"),
                                false,
                                false),
                        new LinkSetup(
                                "open",
                                "access",
                                "link-protocol",
                                "Open",
                                URI.create("http://sternwick.example/"),
                                false,
                                false),
                        link("https://sternwick.example/access/")),
                List.of(),
                List.of(pair(Duration.ofSeconds(7)), pair(Duration.ofSeconds(9))),
                List.of(Placing.none(Thing.of(VAULT)).name(Optional.of("two\nlines")), Placing.none(Thing.of(ANTE))),
                List.of(),
                List.of(),
                Map.of(),
                List.of());
        SetupPlan plan = plan(odd);
        assertThat(plan.problems())
                .extracting(p -> p.what() + ": " + p.why().code())
                .containsExactlyInAnyOrder(
                        "Brine: setup.make-unknown", "Open: setup.address-open", "tidewater/vault: setup.words-odd");
        assertThat(plan.changes()).isEqualTo(2);
        desk.carryOut(plan, ODO);
        assertThat(hand.all()).extracting(k -> k.link().id()).containsExactly("tidewater");
        // Of a pair that is there twice the first counts.
        assertThat(hand.allPairs()).extracting(PairBook.Kept::pairing).containsExactly(pair(Duration.ofSeconds(7)));
    }

    @Test
    void what_somebody_said_meanwhile_stands_and_the_file_can_be_taken_again() {
        SetupPlan plan = plan(whole());
        devices.place(
                List.of(new DeviceBook.PlacingEdit(Placing.none(Thing.of(VAULT)).name(Optional.of("Safe")), 0)),
                ODO,
                List.of(OnRecord.setUp("test", "said", ODO, Instant.EPOCH)));
        assertThatThrownBy(() -> desk.carryOut(plan, ODO)).isInstanceOf(EventLogException.class);
        assertThat(devices.placed.get(Thing.of(VAULT)).name()).contains("Safe");
        assertThat(hand.all()).isEmpty();
        SetupPlan again = plan(whole());
        assertThat(again.same()).isEqualTo(1);
        desk.carryOut(again, ODO);
        assertThat(devices.placed.get(Thing.of(VAULT))).isEqualTo(STRONGROOM);
        assertThat(plan(whole()).changes()).isZero();
    }

    private static void refused(boolean expected, ThrowingCallable way) {
        if (expected) {
            assertThatThrownBy(way).isInstanceOf(NotPermittedException.class);
        } else {
            assertThatCode(way).doesNotThrowAnyException();
        }
    }

    @Test
    void nobody_takes_in_or_reads_more_than_they_may() {
        SetupPlan plan = plan(whole());
        for (Roles.Role role : Roles.all(List.of(new SiteId("main")))) {
            Actor actor = role.actor();
            boolean looks = role.has(Set.of(Permission.SET_UP), Actor.Level.LOOK, null);
            boolean sets = role.has(Set.of(Permission.SET_UP), Actor.Level.CHANGE, null);
            refused(!looks, () -> desk.plan(new byte[0], actor));
            hand.whole = whole();
            refused(!looks, () -> desk.write("x", List.of(), actor));
            hand.whole = whole();
            if (!sets) {
                refused(true, () -> desk.carryOut(plan, actor));
            }
        }
        assertThat(hand.all()).isEmpty();
        hand.whole = null;
        assertThatThrownBy(() -> desk.plan(new byte[0], ODO)).isInstanceOf(SetupException.class);
    }
}
