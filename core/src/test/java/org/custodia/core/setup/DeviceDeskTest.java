package org.custodia.core.setup;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.net.URI;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventLogException;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.MemoryLog;
import org.custodia.core.event.OnRecord;
import org.custodia.core.operator.Actor;
import org.custodia.core.operator.NotPermittedException;
import org.custodia.core.operator.Permission;
import org.custodia.core.operator.Roles;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Placing;
import org.custodia.core.site.Site;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.SystemId;
import org.custodia.core.site.Thing;
import org.custodia.core.site.Walk;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** Putting in its place what systems have, with every kind of operator, and taking it back. */
class DeviceDeskTest {
    private static final Instant NOW = Instant.parse("2026-11-20T08:00:00Z");
    private static final SiteId HARBOUR = new SiteId("harbour");
    private static final SiteId YARD = new SiteId("yard");
    private static final Door VAULT = door("vault", HARBOUR);
    private static final Door GATE = door("gate", YARD);
    private static final SiteModel SITES = new SiteModel(
            List.of(new Site(HARBOUR, "Harbour House", ZoneOffset.UTC), new Site(YARD, "Yard", ZoneOffset.UTC)),
            List.of(VAULT, GATE),
            List.of(),
            List.of());
    private static final Actor ANA = Actor.withAll("ana", "Ana", "desk");

    private final MemoryLog log = new MemoryLog();
    private final DevicesInHand book = new DevicesInHand(log);
    private final SetupInHand hand = new SetupInHand(log);
    private final Clock clock = Clock.fixed(NOW, ZoneOffset.UTC);
    private final DeviceDesk desk = new DeviceDesk(book, () -> SITES, log, clock);
    private final SetupDesk setup = new SetupDesk(hand, hand, hand, log, clock);

    private static Door door(String id, SiteId site) {
        return new Door(
                new DoorId("tidewater/" + id),
                new SystemId("tidewater"),
                new ControllerId("tidewater/c"),
                id,
                site,
                "",
                "out",
                "in",
                Duration.ofSeconds(30),
                Set.of());
    }

    @BeforeEach
    void found() {
        for (Door door : List.of(VAULT, GATE)) {
            Thing thing = Thing.of(door.id());
            book.found.put(
                    thing.toString(),
                    new Found(thing, new Found.SaidDoor(door), 1, Placing.none(thing), 0, Found.News.NEW, List.of()));
        }
    }

    private Found of(Door door) {
        return book.found.get(Thing.of(door.id()).toString());
    }

    private List<Event> onRecord() {
        return log.find(EventQuery.all().kinds(Kinds.SET_UP));
    }

    @Test
    void a_change_is_on_record_with_what_it_was_and_one_that_changes_nothing_is_not() {
        Placing named = of(VAULT).placing().name(Optional.of("Strongroom"));
        desk.place(List.of(named), List.of(of(VAULT)), ANA);
        desk.place(List.of(named), List.of(of(VAULT)), ANA);
        desk.place(List.of(named.leftOut(true)), List.of(of(VAULT)), ANA);
        desk.place(List.of(named), List.of(of(VAULT)), ANA);
        assertThat(onRecord())
                .extracting(e -> e.detail("change").orElseThrow())
                .containsExactly("renamed", "left-out", "taken-in");
        assertThat(onRecord().get(0).detail("name")).contains("vault");
        assertThat(onRecord().get(0).detail("now")).contains("Strongroom");
        assertThat(onRecord().get(0).door()).contains(VAULT.id());
        assertThat(onRecord().get(0).operator()).contains("ana");
    }

    @Test
    void what_cannot_be_is_refused_and_nothing_of_it_is_kept() {
        Placing none = of(VAULT).placing();
        for (Placing odd : List.of(
                none.name(Optional.of("")),
                none.name(Optional.of(" x")),
                none.level(Optional.of("a\nb")),
                none.inside(Optional.of("z".repeat(Placing.LONGEST + 1))),
                none.site(Optional.of(new SiteId("atlantis"))))) {
            Placing fine = of(GATE).placing().name(Optional.of("Fine"));
            assertThatThrownBy(() -> desk.place(List.of(fine, odd), List.of(of(VAULT), of(GATE)), ANA))
                    .isInstanceOf(SetupException.class);
        }
        Placing another = Placing.none(Thing.of(new DoorId("tidewater/other")));
        assertThatThrownBy(() -> desk.place(List.of(another), List.of(of(VAULT)), ANA))
                .isInstanceOf(SetupException.class);
        assertThat(book.found()).allMatch(f -> f.placing().saysNothing());
        assertThat(onRecord()).isEmpty();
        // An empty zone says that there is none, which is not the same as saying nothing.
        desk.place(List.of(none.outside(Optional.of(""))), List.of(of(VAULT)), ANA);
        assertThat(of(VAULT).door().orElseThrow().outside()).isEmpty();
    }

    @Test
    void the_second_of_two_is_told_that_something_was_changed_meanwhile() {
        Found looked = of(VAULT);
        desk.place(List.of(looked.placing().name(Optional.of("A"))), List.of(looked), ANA);
        assertThatThrownBy(() -> desk.place(List.of(looked.placing().name(Optional.of("B"))), List.of(looked), ANA))
                .isInstanceOf(EventLogException.class)
                .hasMessageContaining("changed-meanwhile");
    }

    @Test
    void every_kind_of_operator_gets_as_far_as_permitted() {
        for (Roles.Role role : Roles.all(Set.of(HARBOUR, YARD))) {
            Actor actor = role.actor();
            for (Door door : List.of(VAULT, GATE)) {
                book.found.clear();
                found();
                boolean may = role.has(Set.of(Permission.SET_UP), Actor.Level.CHANGE, door.site());
                boolean looks = role.has(Set.of(Permission.SET_UP), Actor.Level.LOOK, door.site());
                boolean both = role.has(Set.of(Permission.SET_UP), Actor.Level.CHANGE, HARBOUR)
                        && role.has(Set.of(Permission.SET_UP), Actor.Level.CHANGE, YARD);
                boolean everywhere = role.has(Set.of(Permission.SET_UP), Actor.Level.CHANGE, null);
                boolean looksEverywhere = role.has(Set.of(Permission.SET_UP), Actor.Level.LOOK, null);
                Found it = of(door);
                DevicesInHand fresh = new DevicesInHand(log);
                fresh.found.putAll(book.found);
                DeviceDesk at = new DeviceDesk(fresh, () -> SITES, log, clock);
                ChangeDesk changes = new ChangeDesk(fresh, most -> List.of(), ChangeDesk.Others.none(), setup, clock);
                assertThat(at.found(actor).contains(it)).as("%s", role).isEqualTo(looks);
                assertThat(leads(() -> at.place(List.of(it.placing().leftOut(true)), List.of(it), actor)))
                        .as("%s", role)
                        .isEqualTo(may);
                SiteId other = door.site().equals(YARD) ? HARBOUR : YARD;
                Found now = fresh.found.get(it.thing().toString());
                assertThat(leads(() -> at.place(List.of(now.placing().site(Optional.of(other))), List.of(now), actor)))
                        .as("%s to %s", role, other)
                        .isEqualTo(both);
                at.seen(List.of(it), actor);
                assertThat(fresh.found.get(it.thing().toString()).news())
                        .isEqualTo(may ? Found.News.NONE : Found.News.NEW);
                Walk walk = new Walk(VAULT.id(), GATE.id(), Duration.ofSeconds(9));
                assertThat(leads(() -> at.neighbours(List.of(walk), actor)))
                        .as("%s", role)
                        .isEqualTo(both);
                assertThat(leads(() -> at.addSite("Pier " + role, "Europe/London", actor)))
                        .as("%s", role)
                        .isEqualTo(everywhere);
                assertThat(leads(() -> changes.changes(9, actor))).isEqualTo(looksEverywhere);
                assertThat(leads(() -> changes.takeBack(change(true), actor))).isEqualTo(everywhere);
            }
        }
    }

    private static boolean leads(Runnable way) {
        try {
            way.run();
            return true;
        } catch (NotPermittedException e) {
            return false;
        }
    }

    private static ChangeBook.Change change(boolean newest) {
        return new ChangeBook.Change(
                ChangeBook.About.WALK,
                NOW,
                "ana",
                List.of(new ChangeBook.Part("a b", 1, newest, Optional.empty(), Optional.empty())));
    }

    @Test
    void what_was_changed_since_is_not_taken_back() {
        ChangeDesk changes = new ChangeDesk(book, most -> List.of(), ChangeDesk.Others.none(), setup, clock);
        assertThatThrownBy(() -> changes.takeBack(change(false), ANA)).isInstanceOf(SetupException.class);
        assertThat(book.takenBack).isEmpty();
        changes.takeBack(change(true), ANA);
        assertThat(book.takenBack).hasSize(1);
        assertThat(onRecord()).extracting(e -> e.detail("change").orElseThrow()).containsExactly("taken-back");
    }

    @Test
    void sites_of_our_own_have_names_and_zones_of_their_own() {
        Site pier = desk.addSite(" Pier ", "Atlantic/Azores", ANA);
        assertThat(pier.name()).isEqualTo("Pier");
        assertThat(book.sites).containsValue(pier);
        for (String[] odd : new String[][] {
            {"", "Europe/London"}, {"harbour HOUSE", "Europe/London"}, {"Quay", "Moon/Base"}, {"a\tb", "Europe/London"}
        }) {
            assertThatThrownBy(() -> desk.addSite(odd[0], odd[1], ANA)).isInstanceOf(SetupException.class);
        }
        assertThat(desk.addSite("Pier", "Europe/London", ANA).id()).isNotEqualTo(pier.id());
    }

    @Test
    void neighbours_are_kept_and_ended() {
        Walk walk = new Walk(VAULT.id(), GATE.id(), Duration.ofSeconds(20));
        desk.neighbours(List.of(walk), ANA);
        assertThat(book.walked).hasSize(1);
        assertThatThrownBy(() -> desk.noNeighbours(walk, ANA)).isInstanceOf(SetupException.class);
        Walk gone = new Walk(VAULT.id(), new DoorId("tidewater/x"), Duration.ofSeconds(20));
        assertThatThrownBy(() -> desk.neighbours(List.of(gone), ANA)).isInstanceOf(SetupException.class);
        SetupSites known = new SetupSites(walk);
        DeviceDesk at = new DeviceDesk(book, () -> known.model, log, clock);
        at.noNeighbours(walk, ANA);
        assertThat(book.walked.get(1).walk()).isEmpty();
    }

    private static final class SetupSites {
        private final SiteModel model;

        SetupSites(Walk walk) {
            model = new SiteModel(
                    SITES.sites(),
                    SITES.doors(),
                    List.of(),
                    List.of(),
                    List.of(),
                    List.of(),
                    List.of(walk),
                    List.of(),
                    Set.of());
        }
    }

    @Test
    void a_link_that_is_put_back_has_to_be_told_again_with_what_to_sign_in() {
        LinkSetup link = new LinkSetup(
                "tidewater", "access", "link-protocol", "Tidewater", URI.create("https://a.example/"), false, false);
        hand.putToken(link, "secret");
        long kept = hand.keep(link, 0, ANA, OnRecord.setUp("test", "said", ANA, NOW));
        setup.remove(link.system(), kept, ANA);
        assertThat(hand.kept).isEmpty();
        ChangeDesk changes = new ChangeDesk(
                book,
                most -> List.of(new ChangeBook.Change(
                        ChangeBook.About.LINK,
                        NOW,
                        "ana",
                        List.of(new ChangeBook.Part("tidewater", 2, true, Optional.of(link), Optional.empty())))),
                ChangeDesk.Others.none(),
                setup,
                clock);
        changes.takeBack(changes.changes(1, ANA).get(0), ANA);
        assertThat(hand.all()).extracting(LinkBook.Kept::link).containsExactly(link);
        assertThat(hand.done).last().asString().contains("cannot");
        // Moved elsewhere and back: the token was for elsewhere.
        LinkSetup moved = new LinkSetup(
                "tidewater", "access", "link-protocol", "Tidewater", URI.create("https://b.example/"), false, false);
        setup.change(moved, Optional.of("other"), hand.version(link.system()), ANA);
        setup.putBack("tidewater", Optional.of(link), hand.version(link.system()), ANA);
        assertThat(hand.kept).isEmpty();
        assertThatThrownBy(() -> setup.putBack("tidewater", Optional.of(link), 1, ANA))
                .isInstanceOf(EventLogException.class);
    }
}
