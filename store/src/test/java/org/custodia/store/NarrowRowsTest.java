package org.custodia.store;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.CompletionException;
import org.custodia.core.event.Cancellation;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventField;
import org.custodia.core.event.EventIntake.Unread;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventLogException;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.Translation;
import org.custodia.core.event.Translation.Rule;
import org.custodia.core.operator.Actor;
import org.custodia.core.operator.Actor.Level;
import org.custodia.core.operator.NotPermittedException;
import org.custodia.core.operator.Permission;
import org.custodia.core.operator.Roles;
import org.custodia.core.operator.Roles.Role;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.ReaderId;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SystemId;
import org.jooq.impl.DSL;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** What lies in the tables: nothing twice, sums that agree with the rows, messages apart, meanings that can change. */
class NarrowRowsTest {
    /** Where the log lies, unless it lies in a file; the same throughout a test. */
    Optional<ServerAddress> server() {
        return Optional.empty();
    }

    @TempDir
    Path path;

    private StoreFixture store;

    @BeforeEach
    void open() {
        store = new StoreFixture(path, server());
    }

    @AfterEach
    void close() {
        store.close();
    }

    private long number(String sql) {
        return store.database.reader().fetchSingle(sql).get(0, Long.class);
    }

    private void again() {
        store.close();
        store = new StoreFixture(path, server());
    }

    /** A badge event with the message that a system sends for it. */
    private static Event badge(long n, String kind) {
        Instant at = StoreFixture.START.plusSeconds(n);
        String door = "d" + n % 5;
        return Event.of(new EventKey(StoreFixture.SYSTEM, 1, n), Kinds.of(kind), at)
                .received(at.plusMillis(20 + n % 100), Duration.ZERO)
                .door(new DoorId("tidewater/" + door))
                .reader(new ReaderId(door + ".in"))
                .credential("2" + n)
                .code("T1")
                .detail("credential-kind", "card")
                .raw("{\"epoch\":1,\"seq\":" + n + ",\"time\":\"" + at + "\",\"kind\":\"" + kind + "\",\"door\":\""
                        + door + "\",\"reader\":\"" + door + ".in\",\"credential\":\"2" + n
                        + "\",\"credentialKind\":\"card\"}")
                .build();
    }

    private List<Event> badges(long from, long to, String kind) {
        List<Event> events = new ArrayList<>();
        for (long n = from; n <= to; n++) {
            events.add(badge(n, kind));
        }
        return events;
    }

    @Test
    void messages_that_differ_only_in_what_their_rows_say_are_kept_once() {
        store.accept(badges(100, 600, "access.granted"), false).join();
        assertThat(number("SELECT COUNT(*) FROM payload")).isEqualTo(1);
        assertThat(number("SELECT COUNT(*) FROM occasion")).isEqualTo(5);
        for (Event event : badges(100, 600, "access.granted")) {
            Event stored = store.log.byKey(event.key()).orElseThrow();
            assertThat(stored.raw()).isEqualTo(event.raw());
            assertThat(stored.details()).isEqualTo(event.details());
        }
        again();
        store.accept(badges(601, 700, "access.granted"), false).join();
        assertThat(number("SELECT COUNT(*) FROM payload")).isLessThanOrEqualTo(2);
        assertThat(number("SELECT COUNT(*) FROM occasion")).isEqualTo(5);
        assertThat(number("SELECT COUNT(*) FROM origin")).isEqualTo(1);
    }

    @Test
    void a_message_can_be_erased_and_all_the_rest_stays() {
        store.accept(badges(101, 103, "access.granted"), false).join();
        List<Event> before = store.log.find(EventQuery.all());
        long hashes = number("SELECT SUM(LENGTH(hash)) FROM payload");
        store.database.write(dsl -> dsl.execute("UPDATE payload SET content = NULL"));
        List<Event> after = store.log.find(EventQuery.all());
        assertThat(after).extracting(Event::raw).containsOnly("");
        assertThat(after).extracting(Event::details).containsOnly(Map.of());
        for (int i = 0; i < before.size(); i++) {
            Event rest = after.get(i).toBuilder()
                    .raw(before.get(i).raw())
                    .details(before.get(i).details())
                    .build();
            assertThat(rest).isEqualTo(before.get(i));
        }
        assertThat(number("SELECT SUM(LENGTH(hash)) FROM payload"))
                .isEqualTo(hashes)
                .isEqualTo(32);
    }

    @Test
    void a_message_that_is_damaged_is_said_to_be() {
        store.accept(badges(1, 1, "access.granted"), false).join();
        byte[] content = store.database
                .reader()
                .fetchSingle("SELECT content FROM payload")
                .get(0, byte[].class);
        byte[] cut = java.util.Arrays.copyOf(content, content.length - 3);
        for (byte[] bad : List.of(new byte[] {0x28, (byte) 0xB5, 0x2F, (byte) 0xFD}, new byte[0], new byte[1], cut)) {
            store.database.write(dsl -> dsl.execute("UPDATE payload SET content = ?", bad));
            assertThat(store.log.find(EventQuery.all()).get(0).details()).containsKey("unreadable-details");
        }
        store.database.write(dsl -> dsl.execute("UPDATE payload SET dictionary = 77"));
        assertThat(store.log.find(EventQuery.all()).get(0).details()).containsKey("unreadable-details");
    }

    private void sumsAgree() {
        long events = number("SELECT COUNT(*) FROM event");
        assertThat(number("SELECT SUM(events) FROM occasion")).isEqualTo(events);
        for (String count : List.of("hour_total", "hour_count", "day_count")) {
            assertThat(number("SELECT SUM(events) FROM " + count)).isEqualTo(events);
        }
        assertThat(number(
                        "SELECT COUNT(*) FROM (SELECT time / 3600000000 AS hour, occasion, COUNT(*) AS events FROM event"
                                + " GROUP BY 1, 2 EXCEPT SELECT hour, occasion, events FROM hour_count)"))
                .isZero();
        assertThat(number(
                        "SELECT COUNT(*) FROM (SELECT occasion, time / 86400000000 AS day, COUNT(*) AS events FROM event"
                                + " GROUP BY 1, 2 EXCEPT SELECT occasion, day, events FROM day_count)"))
                .isZero();
        assertThat(number(
                        "SELECT COUNT(*) FROM (SELECT time / 3600000000 AS hour, COUNT(*) AS events FROM event GROUP BY 1"
                                + " EXCEPT SELECT hour, events FROM hour_total)"))
                .isZero();
        assertThat(number("SELECT COUNT(*) FROM (SELECT origin, MAX(time) AS newest FROM event GROUP BY 1"
                        + " EXCEPT SELECT id, newest FROM origin)"))
                .isZero();
        assertThat(number("SELECT COUNT(*) FROM (SELECT occasion, COUNT(*) AS events FROM event GROUP BY 1"
                        + " EXCEPT SELECT id, events FROM occasion)"))
                .isZero();
    }

    @Test
    void sums_agree_with_the_rows_after_redelivery_failure_and_restart() {
        store.accept(new RandomEvents(5).events(300), true).join();
        store.accept(new RandomEvents(5).events(300), true).join();
        sumsAgree();
        long stored = number("SELECT COUNT(*) FROM event");
        store.limitPages();
        List<Event> more = new ArrayList<>();
        for (long n = 1_000; n < 9_000; n++) {
            more.add(badge(n, "kind." + n % 40).toBuilder()
                    .raw(StoreFixture.noise(80) + n)
                    .build());
        }
        assertThat(store.accept(more, true)).failsWithin(Duration.ofSeconds(60));
        store.unlimitPages();
        assertThat(number("SELECT COUNT(*) FROM event")).isEqualTo(stored);
        sumsAgree();
        store.accept(more, true).join();
        sumsAgree();
        again();
        store.accept(badges(20_000, 20_100, "kind.7"), false).join();
        // One that is late falls into an hour that was counted long ago.
        store.accept(
                        List.of(Event.of(
                                        new EventKey(StoreFixture.SYSTEM, 1, 30_000),
                                        Kinds.OPENED,
                                        StoreFixture.START.minusSeconds(90_000))
                                .received(StoreFixture.START, Duration.ZERO)
                                .build()),
                        false)
                .join();
        sumsAgree();
    }

    private static final Actor ANA = Actor.withAll("ana", "Ana", "Desk 1");

    private static Rule rule(String sentKind, String kind, String reason) {
        return new Rule(Optional.of(sentKind), Optional.empty(), Kinds.of(kind), Optional.ofNullable(reason));
    }

    @Test
    void a_new_translation_gives_the_past_a_new_meaning_and_touches_nothing_that_was_sent() {
        store.accept(badges(1, 50, "vendor.x"), false).join();
        assertThat(store.intake.translation(StoreFixture.SYSTEM).version()).isZero();
        Translation made = store.intake
                .translate(StoreFixture.SYSTEM, 0, List.of(rule("vendor.x", "access.refused", "wrong PIN")), ANA)
                .join();
        assertThat(made.version()).isEqualTo(1);
        store.accept(badges(51, 60, "vendor.x"), false).join();
        List<Event> refused = store.log.find(EventQuery.all().kinds(Kinds.REFUSED));
        assertThat(refused).hasSize(60).allMatch(e -> e.reason().equals(Optional.of("wrong PIN")));
        assertThat(refused).extracting(Translation::sentKind).containsOnly("vendor.x");
        assertThat(refused).extracting(Event::raw).allMatch(r -> r.contains("vendor.x"));
        assertThat(store.published)
                .filteredOn(e -> e.kind().equals(Kinds.REFUSED))
                .hasSize(10);
        assertThat(store.log.count(EventQuery.all().kinds(Kinds.of("vendor.x"))))
                .isZero();
        assertThat(store.log.facets(EventField.REASON, EventQuery.all(), 5, new Cancellation()))
                .containsExactly(new org.custodia.core.event.EventLog.Facet<>("wrong PIN", 60));
        // The same event again is the same event, whatever it is called by now.
        store.accept(badges(40, 60, "vendor.x"), false).join();
        assertThat(store.log.count(EventQuery.all().kinds(Kinds.CONFLICT))).isZero();
        store.accept(badges(60, 60, "vendor.y"), false).join();
        assertThat(store.log.count(EventQuery.all().kinds(Kinds.CONFLICT))).isEqualTo(1);
        sumsAgree();

        again();
        assertThat(store.intake.translation(StoreFixture.SYSTEM)).isEqualTo(made);
        store.intake
                .translate(StoreFixture.SYSTEM, 1, List.of(rule("vendor.x", "door.held", null)), ANA)
                .join();
        assertThat(store.log.find(EventQuery.all().kinds(Kinds.HELD)))
                .hasSize(60)
                .allMatch(e -> e.reason().isEmpty());
        store.intake.translate(StoreFixture.SYSTEM, 2, List.of(), ANA).join();
        assertThat(store.log.find(EventQuery.all().kinds(Kinds.of("vendor.x"))))
                .hasSize(60)
                .extracting(Event::details)
                .containsOnly(Map.of("credential-kind", "card"));
        assertThat(store.log.find(EventQuery.all().kinds(Kinds.TRANSLATED)))
                .extracting(e -> e.detail("version").orElseThrow())
                .containsExactly("1", "2", "3");
    }

    @Test
    void meaning_is_changed_by_those_who_may_set_up_everywhere() {
        for (Role role : Roles.all(List.of(new SiteId("harbour"), new SiteId("yard")))) {
            long version = store.intake.translation(StoreFixture.SYSTEM).version();
            if (role.has(Set.of(Permission.SET_UP), Level.CHANGE, null)) {
                store.intake
                        .translate(StoreFixture.SYSTEM, version, List.of(), role.actor())
                        .join();
                version++;
            } else {
                assertThatThrownBy(() -> store.intake.translate(StoreFixture.SYSTEM, 0, List.of(), role.actor()))
                        .as(role.toString())
                        .isInstanceOf(NotPermittedException.class);
            }
            assertThat(store.intake.translation(StoreFixture.SYSTEM).version()).isEqualTo(version);
        }
    }

    @Test
    void a_translation_that_was_changed_meanwhile_is_not_changed_again() {
        store.intake
                .translate(StoreFixture.SYSTEM, 0, List.of(rule("a.x", "door.held", null)), ANA)
                .join();
        assertThatThrownBy(() -> store.intake
                        .translate(StoreFixture.SYSTEM, 0, List.of(rule("a.x", "door.forced", null)), ANA)
                        .join())
                .isInstanceOf(CompletionException.class)
                .cause()
                .isInstanceOf(EventLogException.class)
                .hasMessage("store.translation-changed \"tidewater\" n1 n0");
        assertThat(store.intake.translation(StoreFixture.SYSTEM).version()).isEqualTo(1);
        assertThat(store.intake.trouble()).isEmpty();
        assertThat(store.database.reader().fetchCount(DSL.table("translation"))).isEqualTo(1);
    }

    @Test
    void texts_of_any_characters_and_any_length_are_kept_as_they_came() {
        List<String> odd =
                List.of("a\u0000b", "\u001b@", "\u0000", "\u001b", "é\u0000\u001b[日本 😀", "x".repeat(90_000));
        List<Event> sent = new ArrayList<>();
        for (int i = 0; i < odd.size(); i++) {
            String text = odd.get(i);
            String id = "tidewater/" + text.substring(0, Math.min(150, text.length()));
            sent.add(StoreFixture.event(i + 1L).toBuilder()
                    .kind(Kinds.of("odd." + i))
                    .door(new DoorId(id))
                    .controller(new ControllerId(id))
                    .reader(new ReaderId(id))
                    .person(new PersonId(id))
                    .credential(text)
                    .operator(text)
                    .cause(text)
                    .code(text)
                    .reason(text)
                    .detail(text, text)
                    .raw(text)
                    .build());
        }
        store.accept(sent, true).join();
        List<Event> stored = store.log.storedAfter(0, 100);
        assertThat(stored).hasSize(sent.size());
        for (int i = 0; i < sent.size(); i++) {
            Event back = stored.get(i).toBuilder().position(0).build();
            assertThat(back.details().keySet()).isEqualTo(sent.get(i).details().keySet());
            assertThat(back.toString().length())
                    .isEqualTo(sent.get(i).toString().length());
            assertThat(back).isEqualTo(sent.get(i));
            assertThat(stored.get(i).raw()).isEqualTo(sent.get(i).raw());
            assertThat(stored.get(i).operator()).isEqualTo(sent.get(i).operator());
            assertThat(store.log.find(
                            EventQuery.all().doors(Set.of(sent.get(i).door().orElseThrow()))))
                    .containsExactly(stored.get(i));
            assertThat(store.log.find(
                            EventQuery.all().person(sent.get(i).person().orElseThrow())))
                    .containsExactly(stored.get(i));
        }
        store.intake
                .keepUnread(Unread.of(
                        StoreFixture.SYSTEM, StoreFixture.START, "{\u0000\u001b", Saying.quoted("it is\u0000odd")))
                .join();
        assertThat(store.log.unreadCount()).isEqualTo(1);
        store.accept(sent, true).join();
        assertThat(store.log.count(EventQuery.all())).isEqualTo(sent.size());
        assertThat(store.intake.record(sent.get(0).toBuilder().key(new EventKey(SystemId.CUSTODIA, 1, 0))))
                .succeedsWithin(Duration.ofSeconds(60));
    }
}
