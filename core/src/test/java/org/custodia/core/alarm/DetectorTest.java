package org.custodia.core.alarm;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.custodia.core.alarm.Happening.GATE;
import static org.custodia.core.alarm.Happening.VAULT;
import static org.custodia.core.alarm.Happening.at;

import java.time.DayOfWeek;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.ZonedDateTime;
import java.util.ArrayList;
import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.Set;
import java.util.TreeSet;
import java.util.stream.Stream;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.constraints.IntRange;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.EventLogException;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.MemoryLog;
import org.custodia.core.event.Priority;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.Camera;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.Device;
import org.custodia.core.site.DeviceId;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorCapability;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.SystemId;
import org.custodia.core.site.Walk;
import org.junit.jupiter.api.Test;

/** What rules find, in whatever order it comes. */
class DetectorTest {
    private final Happening make = new Happening();

    private static Rule rule(Rule.When when) {
        return rule(when, Rule.Where.ANYWHERE, Rule.Who.ANYBODY, Hours.ALWAYS);
    }

    private static Rule rule(Rule.When when, Rule.Where where, Rule.Who who, Hours during) {
        return new Rule("r", 1, "R", true, when, where, who, during, Priority.CAUTION, Rule.Then.CALLS);
    }

    private static final Rule.Once FORCED = new Rule.Once(Set.of(Kinds.FORCED), Set.of(), Set.of(Kinds.CLOSED));

    private static Detector detector(Rule... rules) {
        return new Detector(List.of(rules), Known.of(() -> Happening.SITES));
    }

    private static Rule.Often refused(int times, int seconds, Rule.Per per) {
        return new Rule.Often(Set.of(Kinds.REFUSED), Set.of(), Set.of(), times, Duration.ofSeconds(seconds), per);
    }

    @Test
    void a_condition_begins_and_ends_at_its_own_door() {
        Detector d = detector(rule(FORCED));
        assertThat(d.take(make.event(Kinds.OPENED, VAULT, 0).build())).isEmpty();
        assertThat(d.take(make.event(Kinds.FORCED, VAULT, 1).build()))
                .singleElement()
                .satisfies(f -> assertThat(f.subject()).isEqualTo(new Subject(Subject.Sort.DOOR, "tidewater/vault")));
        assertThat(d.take(make.event(Kinds.CLOSED, GATE, 2).build()))
                .singleElement()
                .satisfies(f -> assertThat(f.subject().id()).isEqualTo("tidewater/gate"));
        assertThat(d.take(make.event(Kinds.CLOSED, VAULT, 3).build())).hasOnlyElementsOfType(Detector.Ended.class);
    }

    @Test
    void what_only_custodia_may_say_is_not_believed_of_anybody_else() {
        Rule lost = rule(new Rule.Once(Set.of(Kinds.LINK_LOST), Set.of(), Set.of(Kinds.LINK_BACK)));
        assertThat(detector(lost).take(make.event(Kinds.LINK_LOST, VAULT, 0).build()))
                .isEmpty();
        Event own = Event.of(new EventKey(SystemId.CUSTODIA, 1, 1), Kinds.LINK_LOST, at(0))
                .detail("system", "tidewater")
                .build();
        assertThat(detector(lost).take(own)).singleElement().satisfies(f -> assertThat(f.subject())
                .isEqualTo(new Subject(Subject.Sort.SYSTEM, "tidewater")));
    }

    @Test
    void a_pair_in_doubt_calls_by_a_rule_until_it_holds_again() {
        Detector d = detector(rule(new Rule.Once(Set.of(Kinds.PAIR_IN_DOUBT), Set.of(), Set.of(Kinds.PAIR_HOLDS))));
        List<Detector.Finding> found = d.take(pairEvent(1, Kinds.PAIR_IN_DOUBT));
        assertThat(found).hasSize(1);
        assertThat(found.get(0).subject().site(Happening.SITES)).isPresent();
        assertThat(d.take(pairEvent(2, Kinds.PAIR_HOLDS))).hasOnlyElementsOfType(Detector.Ended.class);
    }

    private static Event pairEvent(int number, EventKind kind) {
        return Event.of(new EventKey(SystemId.CUSTODIA, 1, number), kind, at(number))
                .door(VAULT)
                .detail("camera", "quayside/vault-outside")
                .build();
    }

    @Test
    void what_is_no_id_is_about_the_next_thing_that_is_named() {
        Detector d = detector(rule(new Rule.Once(Set.of(Kinds.INPUT_ON), Set.of(), Set.of())));
        for (String odd : List.of("", " ", "x".repeat(5_000))) {
            Event event = make.event(Kinds.INPUT_ON, VAULT, 1)
                    .detail("unit", odd)
                    .detail("camera", odd)
                    .build();
            Subject subject = d.take(event).get(0).subject();
            assertThat(Subject.parse(subject.toString())).contains(subject);
            assertThat(subject.site(Happening.SITES))
                    .as("%s characters", odd.length())
                    .isPresent();
        }
        assertThat(Subject.parse("CAMERA " + "x".repeat(5_000))).isEmpty();
        assertThat(Subject.parse("NOTHING x")).isEmpty();
    }

    @Test
    void where_who_and_when_narrow_it() {
        Rule.Where yard = new Rule.Where(Set.of(), Set.of(), Set.of(Happening.YARD), Set.of(), Set.of());
        Rule.Where vault = Rule.Where.at(Set.of(VAULT));
        Rule.Where brine = new Rule.Where(Set.of(), Set.of(), Set.of(), Set.of(new SystemId("brine")), Set.of());
        for (Rule.Where where : List.of(yard, vault, brine)) {
            Detector d = detector(rule(FORCED, where, Rule.Who.ANYBODY, Hours.ALWAYS));
            assertThat(d.take(make.event(Kinds.FORCED, VAULT, 1).build())).hasSize(where == vault ? 1 : 0);
            assertThat(d.take(make.event(Kinds.FORCED, GATE, 1).build())).hasSize(where == yard ? 1 : 0);
        }
        PersonId ana = new PersonId("tidewater/ana");
        Rule.Once refused = new Rule.Once(Set.of(Kinds.REFUSED), Set.of("no-level"), Set.of());
        Detector hers =
                detector(rule(refused, Rule.Where.ANYWHERE, new Rule.Who(Set.of(ana), Set.of(), false), Hours.ALWAYS));
        Detector nobodys =
                detector(rule(refused, Rule.Where.ANYWHERE, new Rule.Who(Set.of(), Set.of(), true), Hours.ALWAYS));
        Event byAna = make.event(Kinds.REFUSED, VAULT, 1)
                .person(ana)
                .reason("no-level")
                .build();
        Event byNobody = make.event(Kinds.REFUSED, VAULT, 1).reason("no-level").build();
        Event otherwise = make.event(Kinds.REFUSED, VAULT, 1)
                .person(ana)
                .reason("wrong-pin")
                .build();
        assertThat(hers.take(byAna)).hasSize(1);
        assertThat(hers.take(byNobody)).isEmpty();
        assertThat(hers.take(otherwise)).isEmpty();
        assertThat(nobodys.take(byAna)).isEmpty();
        assertThat(nobodys.take(byNobody)).hasSize(1);
        // A Tuesday, 13:00 in London; the night from Monday to Tuesday ends at 06:00.
        Hours night = new Hours(
                List.of(new Hours.Span(Set.of(DayOfWeek.MONDAY), LocalTime.of(22, 0), LocalTime.of(6, 0))),
                Hours.Holidays.AS_USUAL);
        Detector atNight = detector(rule(FORCED, Rule.Where.ANYWHERE, Rule.Who.ANYBODY, night));
        assertThat(atNight.take(make.event(Kinds.FORCED, VAULT, 0).build())).isEmpty();
        assertThat(atNight.take(make.event(Kinds.FORCED, VAULT, -8 * 3_600).build()))
                .hasSize(1);
        assertThat(atNight.take(make.event(Kinds.FORCED, VAULT, -7 * 3_600).build()))
                .isEmpty();
        assertThat(atNight.take(make.event(Kinds.FORCED, VAULT, -15 * 3_600).build()))
                .hasSize(1);
        assertThat(atNight.take(make.event(Kinds.FORCED, VAULT, 9 * 3_600).build()))
                .isEmpty();
    }

    /** A timetable is on by the clock of where it happens; one that is gone keeps no alarm back. */
    @Test
    void a_rule_holds_within_a_timetable_or_outside_it() {
        Known known = new Known() {
            @Override
            public SiteModel sites() {
                return Happening.SITES;
            }

            @Override
            public Optional<String> kindOf(PersonId person, Instant at) {
                return Optional.empty();
            }

            @Override
            public boolean holiday(SystemId system, LocalDate day) {
                return false;
            }

            @Override
            public Optional<Boolean> timetableOn(String id, ZonedDateTime there) {
                return id.equals("tidewater/office")
                        ? Optional.of(there.getHour() >= 8 && there.getHour() < 18)
                        : Optional.empty();
            }
        };
        for (boolean outside : List.of(false, true)) {
            Hours office = new Hours(
                    List.of(), Hours.Holidays.AS_USUAL, Optional.of(new Hours.Within("tidewater/office", outside)));
            Detector d = new Detector(List.of(rule(FORCED, Rule.Where.ANYWHERE, Rule.Who.ANYBODY, office)), known);
            // 13:00 in London, and 21:00.
            assertThat(d.take(make.event(Kinds.FORCED, VAULT, 0).build())).hasSize(outside ? 0 : 1);
            assertThat(d.take(make.event(Kinds.FORCED, VAULT, 8 * 3_600).build()))
                    .hasSize(outside ? 1 : 0);
            Hours gone = new Hours(
                    List.of(), Hours.Holidays.AS_USUAL, Optional.of(new Hours.Within("tidewater/gone", outside)));
            Detector still = new Detector(List.of(rule(FORCED, Rule.Where.ANYWHERE, Rule.Who.ANYBODY, gone)), known);
            assertThat(still.take(make.event(Kinds.FORCED, VAULT, 0).build())).hasSize(1);
        }
    }

    @Test
    void three_within_a_minute_are_found_and_two_are_not_and_the_same_one_does_not_count_twice() {
        Detector d = detector(rule(refused(3, 60, Rule.Per.PLACE)));
        Event first = make.event(Kinds.REFUSED, VAULT, 0).build();
        assertThat(d.take(first)).isEmpty();
        assertThat(d.take(first)).isEmpty();
        assertThat(d.take(make.event(Kinds.REFUSED, GATE, 10).build())).isEmpty();
        assertThat(d.take(make.event(Kinds.REFUSED, VAULT, 30).build())).isEmpty();
        assertThat(d.take(make.event(Kinds.REFUSED, VAULT, 61).build())).isEmpty();
        // With it, the windows from 0 to 60 and from 30 to 61 are full.
        assertThat(d.take(make.event(Kinds.REFUSED, VAULT, 60).build())).hasSize(2);
        Detector byBadge = detector(rule(refused(2, 60, Rule.Per.BADGE)));
        assertThat(byBadge.take(
                        make.event(Kinds.REFUSED, VAULT, 0).credential("1").build()))
                .isEmpty();
        assertThat(byBadge.take(make.event(Kinds.REFUSED, GATE, 5).build())).isEmpty();
        assertThat(byBadge.take(
                        make.event(Kinds.REFUSED, GATE, 5).credential("2").build()))
                .isEmpty();
        assertThat(byBadge.take(
                        make.event(Kinds.REFUSED, GATE, 9).credential("1").build()))
                .hasSize(1);
    }

    /** Whatever the order and however often it comes, each event that makes a window full is found once. */
    @Property(tries = 300)
    void what_is_counted_does_not_depend_on_the_order(
            @ForAll long seed,
            @ForAll @IntRange(min = 2, max = 5) int times,
            @ForAll @IntRange(min = 1, max = 40) int span) {
        Random random = new Random(seed);
        List<Event> all = new ArrayList<>();
        TreeSet<Integer> seconds = new TreeSet<>();
        while (seconds.size() < 12) {
            seconds.add(random.nextInt(200));
        }
        seconds.forEach(s -> all.add(make.event(Kinds.REFUSED, VAULT, s).build()));
        Set<Instant> full = new TreeSet<>();
        seconds.stream()
                .filter(to -> seconds.subSet(to - span, true, to, true).size() >= times)
                .forEach(to -> full.add(at(to)));
        for (int round = 0; round < 4; round++) {
            MemoryLog log = new MemoryLog();
            Detector d = new Detector(
                    List.of(RuleTimeline.always(rule(refused(times, span, Rule.Per.PLACE)))),
                    Known.of(() -> Happening.SITES),
                    History.of(log));
            List<Instant> found = new ArrayList<>();
            for (Event event : all) {
                log.store(event);
                Event stored = log.byKey(event.key()).orElseThrow();
                d.take(stored).forEach(f -> found.add(((Detector.Raised) f).at()));
                // Once more, as after a restart: nothing that was not found before.
                d.take(stored).forEach(f -> assertThat(found).contains(((Detector.Raised) f).at()));
            }
            assertThat(found).containsExactlyInAnyOrderElementsOf(full);
            Collections.shuffle(all, random);
        }
    }

    @Test
    void what_does_not_follow_is_found_when_its_time_is_over_and_not_before() {
        Rule.Unfollowed nobody =
                new Rule.Unfollowed(Set.of(Kinds.GRANTED), Set.of(Kinds.OPENED), Duration.ofSeconds(10));
        Detector d = detector(rule(nobody));
        d.take(make.event(Kinds.GRANTED, VAULT, 0).build());
        d.take(make.event(Kinds.GRANTED, GATE, 0).build());
        d.take(make.event(Kinds.OPENED, GATE, 3).build());
        // Before it, or too late, it does not follow.
        d.take(make.event(Kinds.OPENED, VAULT, -1).build());
        d.take(make.event(Kinds.OPENED, VAULT, 11).build());
        assertThat(d.tick(at(11.9))).isEmpty();
        assertThat(d.tick(at(12)))
                .singleElement()
                .satisfies(f -> assertThat(f.subject().id()).isEqualTo("tidewater/vault"));
        assertThat(d.tick(at(100))).isEmpty();
    }

    @Test
    void each_of_those_that_are_waited_after_is_told_once_and_in_its_time() {
        Detector d = detector(
                rule(new Rule.Unfollowed(Set.of(Kinds.GRANTED), Set.of(Kinds.OPENED), Duration.ofSeconds(10))));
        d.take(make.event(Kinds.GRANTED, VAULT, 20).build());
        Event first = make.event(Kinds.GRANTED, GATE, 0).build();
        d.take(first);
        d.take(first);
        assertThat(d.tick(at(15))).singleElement().satisfies(f -> assertThat(f.by())
                .isEqualTo(first));
        assertThat(d.tick(at(31))).isEmpty();
        assertThat(d.tick(at(33))).hasSize(1);
        assertThat(d.tick(at(40))).isEmpty();
    }

    /** Where nothing can be heard nothing follows from hearing nothing. */
    @Test
    void what_did_not_come_while_a_link_or_a_controller_was_lost_may_have_happened() {
        Rule.Unfollowed nobody =
                new Rule.Unfollowed(Set.of(Kinds.GRANTED), Set.of(Kinds.OPENED), Duration.ofSeconds(10));
        for (boolean link : List.of(true, false)) {
            for (boolean opened : List.of(true, false)) {
                Detector d = detector(rule(nobody));
                assertThat(d.looksAt(Kinds.LINK_LOST)).isTrue();
                d.take(make.event(Kinds.GRANTED, VAULT, 0)
                        .controller(new ControllerId("tidewater/c1"))
                        .build());
                d.take(silence(link, true, 2));
                assertThat(d.tick(at(500))).isEmpty();
                d.take(silence(link, false, 501));
                assertThat(d.tick(at(510))).isEmpty();
                if (opened) {
                    d.take(make.event(Kinds.OPENED, VAULT, 3).build());
                }
                assertThat(d.tick(at(540))).hasSize(opened ? 0 : 1);
                assertThat(d.tick(at(600))).isEmpty();
            }
        }
        // That one is not back follows from its silence.
        for (boolean link : List.of(true, false)) {
            Detector lost = detector(rule(new Rule.Unfollowed(
                    Set.of(link ? Kinds.LINK_LOST : Kinds.CONTROLLER_LOST),
                    Set.of(link ? Kinds.LINK_BACK : Kinds.CONTROLLER_BACK),
                    Duration.ofSeconds(60))));
            lost.take(silence(link, true, 0));
            lost.take(silence(link, false, 50));
            assertThat(lost.tick(at(70))).isEmpty();
            lost.take(silence(link, true, 100));
            assertThat(lost.tick(at(161))).isEmpty();
            assertThat(lost.tick(at(163))).hasSize(1);
        }
        // Nor while its history is being read.
        Detector d = detector(rule(nobody));
        d.take(make.event(Kinds.GRANTED, VAULT, 0).build());
        assertThat(d.tick(at(50), system -> false)).isEmpty();
        assertThat(d.tick(at(60), system -> true)).isEmpty();
        assertThat(d.tick(at(65), system -> true)).hasSize(1);
    }

    private Event silence(boolean link, boolean lost, double seconds) {
        return link
                ? Event.of(
                                new EventKey(SystemId.CUSTODIA, 1, (long) seconds),
                                lost ? Kinds.LINK_LOST : Kinds.LINK_BACK,
                                at(seconds))
                        .received(at(seconds), Duration.ZERO)
                        .detail("system", "tidewater")
                        .build()
                : Event.of(
                                new EventKey(Happening.TIDEWATER, 1, 1_000 + (long) seconds),
                                lost ? Kinds.CONTROLLER_LOST : Kinds.CONTROLLER_BACK,
                                at(seconds))
                        .received(at(seconds), Duration.ZERO)
                        .controller(new ControllerId("tidewater/c1"))
                        .build();
    }

    @Test
    void whom_nobody_can_look_up_is_not_passed_over() {
        Rule contractors = rule(
                FORCED,
                Rule.Where.at(Set.of(VAULT)),
                new Rule.Who(Set.of(), Set.of("contractor"), false),
                Hours.ALWAYS);
        Detector d = new Detector(List.of(contractors), new Known() {
            @Override
            public SiteModel sites() {
                return Happening.SITES;
            }

            @Override
            public Optional<String> kindOf(PersonId person, Instant at) {
                throw new EventLogException(Saying.of("store.not-read", "the log"), null);
            }

            @Override
            public boolean holiday(SystemId system, LocalDate day) {
                return false;
            }
        });
        PersonId ana = new PersonId("tidewater/ana");
        assertThat(d.take(make.event(Kinds.FORCED, VAULT, 0).person(ana).build()))
                .hasSize(1);
        assertThat(d.take(make.event(Kinds.FORCED, GATE, 0).person(ana).build()))
                .isEmpty();
    }

    @Test
    void whether_an_end_would_be_found_follows_from_where_a_rule_looks() {
        Subject vault = new Subject(Subject.Sort.DOOR, VAULT.value());
        Subject panic = new Subject(Subject.Sort.DEVICE, "tidewater/panic");
        Subject camera = new Subject(Subject.Sort.CAMERA, "lanthorn/yard");
        Subject system = new Subject(Subject.Sort.SYSTEM, "tidewater");
        Subject controller = new Subject(Subject.Sort.CONTROLLER, "tidewater/c1");
        SiteModel model = new SiteModel(
                Happening.SITES.sites(),
                Happening.SITES.doors(),
                List.of(new Camera(new CameraId("lanthorn/yard"), new SystemId("lanthorn"), "Yard", Happening.YARD)),
                List.of(),
                List.of(),
                List.of(new Device(
                        new DeviceId("tidewater/panic"),
                        Happening.TIDEWATER,
                        Optional.empty(),
                        "panic-button",
                        "Panic",
                        Happening.HARBOUR,
                        Optional.of(VAULT))),
                List.of(),
                List.of(),
                Set.of());
        Set<DoorId> none = Set.of();
        Map<Rule.Where, Set<Subject>> ends = new LinkedHashMap<>();
        ends.put(Rule.Where.ANYWHERE, Set.of(vault, panic, camera, system, controller));
        ends.put(Rule.Where.at(Set.of(VAULT)), Set.of(vault, panic, controller));
        ends.put(Rule.Where.at(Set.of(GATE)), Set.of(controller));
        ends.put(
                new Rule.Where(none, Set.of(), Set.of(Happening.YARD), Set.of(), Set.of()), Set.of(camera, controller));
        ends.put(
                new Rule.Where(none, Set.of(), Set.of(), Set.of(Happening.TIDEWATER), Set.of()),
                Set.of(vault, panic, system, controller));
        ends.put(
                new Rule.Where(none, Set.of(), Set.of(), Set.of(new SystemId("lanthorn")), Set.of()),
                Set.of(camera, controller));
        ends.put(
                new Rule.Where(none, Set.of(), Set.of(), Set.of(), Set.of(new DeviceId("tidewater/panic"))),
                Set.of(panic, controller));
        ends.forEach((where, subjects) -> {
            Detector d =
                    new Detector(List.of(rule(FORCED, where, Rule.Who.ANYBODY, Hours.ALWAYS)), Known.of(() -> model));
            for (Subject subject : List.of(vault, panic, camera, system, controller)) {
                assertThat(d.ends("r", subject)).as(where + " " + subject).isEqualTo(subjects.contains(subject));
                assertThat(d.ends("another", subject)).isFalse();
            }
        });
        Detector moment = detector(rule(new Rule.Once(Set.of(Kinds.FORCED), Set.of(), Set.of())));
        assertThat(moment.ends("r", vault)).isFalse();
    }

    @Test
    void what_makes_no_sense_is_no_rule() {
        assertThatThrownBy(() -> new Rule.Once(Set.of(), Set.of(), Set.of()))
                .isInstanceOf(IllegalArgumentException.class);
        assertThatThrownBy(() -> new Rule.Once(Set.of(Kinds.FORCED), Set.of(), Set.of(Kinds.FORCED)))
                .hasMessageContaining("does not end it");
        assertThatThrownBy(() -> new Rule.Once(Set.of(Kinds.ALARM_RAISED), Set.of(), Set.of()))
                .hasMessageContaining("raises no alarm");
        assertThatThrownBy(() -> refused(1, 60, Rule.Per.PLACE)).isInstanceOf(IllegalArgumentException.class);
        assertThatThrownBy(() -> refused(3, 0, Rule.Per.PLACE)).isInstanceOf(IllegalArgumentException.class);
        assertThatThrownBy(() -> new Rule.Who(Set.of(new PersonId("tidewater/ana")), Set.of(), true))
                .isInstanceOf(IllegalArgumentException.class);
        assertThat(Rule.shipped()).extracting(Rule::id).doesNotHaveDuplicates();
    }

    @Test
    void what_is_remembered_is_bounded() {
        Detector d = detector(rule(refused(2, 60, Rule.Per.BADGE)));
        for (int i = 0; i < 30_000; i++) {
            d.take(make.event(Kinds.REFUSED, VAULT, i * 0.001)
                    .credential("b" + i)
                    .build());
        }
        // The first was forgotten, the last was not.
        assertThat(d.take(make.event(Kinds.REFUSED, VAULT, 31).credential("b0").build()))
                .isEmpty();
        assertThat(d.take(make.event(Kinds.REFUSED, VAULT, 31)
                        .credential("b29999")
                        .build()))
                .hasSize(1);
    }

    @Test
    void so_often_in_a_row_is_counted_anew_by_what_comes_in_between_in_whatever_order() {
        Rule.Often inARow = new Rule.Often(
                Set.of(Kinds.REFUSED), Set.of(), Set.of(Kinds.GRANTED), 3, Duration.ofSeconds(60), Rule.Per.PLACE);
        List<Event> all = List.of(
                make.event(Kinds.REFUSED, VAULT, 0).build(),
                make.event(Kinds.REFUSED, VAULT, 10).build(),
                make.event(Kinds.GRANTED, VAULT, 15).build(),
                make.event(Kinds.REFUSED, VAULT, 20).build(),
                make.event(Kinds.GRANTED, GATE, 25).build(),
                make.event(Kinds.REFUSED, VAULT, 30).build());
        Detector d = detector(rule(inARow));
        all.forEach(e -> assertThat(d.take(e)).isEmpty());
        assertThat(d.take(make.event(Kinds.REFUSED, VAULT, 40).build())).hasSize(1);
        // One that comes late, from before the break, makes three of those before it.
        assertThat(d.take(make.event(Kinds.REFUSED, VAULT, 5).build()))
                .singleElement()
                .satisfies(f -> assertThat(((Detector.Raised) f).since()).isEqualTo(at(0)));
        assertThatThrownBy(() -> new Rule.Often(
                        Set.of(Kinds.REFUSED),
                        Set.of(),
                        Set.of(Kinds.REFUSED),
                        3,
                        Duration.ofSeconds(60),
                        Rule.Per.PLACE))
                .hasMessageContaining("anew");
    }

    /** Brute force: some window with enough of them and no break inside. */
    @Property(tries = 200)
    void in_a_row_agrees_with_going_through_all_windows(@ForAll long seed) {
        Random random = new Random(seed);
        Rule.Often inARow = new Rule.Often(
                Set.of(Kinds.REFUSED), Set.of(), Set.of(Kinds.GRANTED), 3, Duration.ofSeconds(60), Rule.Per.PLACE);
        TreeSet<Integer> refused = new TreeSet<>();
        TreeSet<Integer> granted = new TreeSet<>();
        Detector d = detector(rule(inARow));
        boolean found = false;
        int second = 0;
        for (int i = 0; i < 15; i++) {
            second += 1 + random.nextInt(25);
            boolean yes = random.nextInt(3) == 0;
            (yes ? granted : refused).add(second);
            found |= !d.take(make.event(yes ? Kinds.GRANTED : Kinds.REFUSED, VAULT, second)
                            .build())
                    .isEmpty();
        }
        boolean there = refused.stream().anyMatch(from -> {
            Integer broken = granted.higher(from);
            int to = broken == null ? from + 60 : Math.min(from + 60, broken);
            return refused.subSet(from, true, to, true).size() >= 3;
        });
        assertThat(found).isEqualTo(there);
    }

    private static final DoorId HALL = new DoorId("tidewater/hall");
    private static final DoorId FAR = new DoorId("tidewater/far");

    private static Door door(DoorId id, SiteId site, String outside, String inside, DoorCapability... can) {
        return new Door(
                id,
                Happening.TIDEWATER,
                new ControllerId("tidewater/c1"),
                id.value(),
                site,
                "0",
                outside,
                inside,
                Duration.ofSeconds(30),
                Set.of(can));
    }

    /** Vault, hall and gate in a row, twenty seconds each; the far door is at another site. */
    private static final SiteModel WALKED = new SiteModel(
            Happening.SITES.sites(),
            List.of(
                    door(VAULT, Happening.HARBOUR, "Stair", "Vault", DoorCapability.CONTACT),
                    door(HALL, Happening.HARBOUR, "Hall", "Stair", DoorCapability.CONTACT),
                    door(GATE, Happening.HARBOUR, "Quay", "Hall"),
                    door(FAR, Happening.YARD, "Yard", "Workshop")),
            List.of(),
            List.of(),
            List.of(),
            List.of(),
            List.of(new Walk(VAULT, HALL, Duration.ofSeconds(20)), new Walk(HALL, GATE, Duration.ofSeconds(20))),
            List.of(),
            Set.of());

    private static Detector walked(Rule rule) {
        return new Detector(List.of(rule), new Known() {
            @Override
            public SiteModel sites() {
                return WALKED;
            }

            @Override
            public Optional<String> kindOf(PersonId person, Instant at) {
                return Optional.of(person.value().contains("ana") ? "staff" : "contractor");
            }

            @Override
            public boolean holiday(SystemId system, LocalDate day) {
                return day.equals(LocalDate.of(2026, 11, 25));
            }
        });
    }

    @Test
    void who_is_at_two_doors_sooner_than_anybody_walks_is_found_in_either_order() {
        Rule.TooFar half = new Rule.TooFar(Set.of(Kinds.GRANTED), 50, Duration.ofMinutes(5));
        PersonId ana = new PersonId("tidewater/ana");
        PersonId ben = new PersonId("tidewater/ben");
        Detector d = walked(rule(half));
        assertThat(d.take(make.event(Kinds.GRANTED, VAULT, 0).person(ana).build()))
                .isEmpty();
        assertThat(d.take(make.event(Kinds.GRANTED, GATE, 5).person(ben).build()))
                .isEmpty();
        // Forty seconds to the gate by way of the hall; half of that is allowed.
        assertThat(d.take(make.event(Kinds.GRANTED, GATE, 20).person(ana).build()))
                .isEmpty();
        assertThat(d.take(make.event(Kinds.GRANTED, VAULT, 39.9).person(ana).build()))
                .singleElement()
                .satisfies(f -> assertThat(((Detector.Raised) f).since()).isEqualTo(at(20)));
        // Another site, and no way known: five minutes at least.
        assertThat(d.take(make.event(Kinds.GRANTED, FAR, 300).person(ana).build()))
                .hasSize(1);
        assertThat(d.take(make.event(Kinds.GRANTED, FAR, 305).person(ben).build()))
                .isEmpty();
        // What comes late is compared with what came after it, and the same one twice is one.
        Event late = make.event(Kinds.GRANTED, VAULT, 200).person(ben).build();
        assertThat(d.take(late)).hasSize(1);
        assertThat(d.take(late)).isEmpty();
        // The same door again, and badges of nobody known, each by itself.
        assertThat(d.take(make.event(Kinds.GRANTED, FAR, 302).person(ana).build()))
                .isEmpty();
        assertThat(d.take(make.event(Kinds.GRANTED, VAULT, 400).credential("7").build()))
                .isEmpty();
        assertThat(d.take(make.event(Kinds.GRANTED, GATE, 401).credential("8").build()))
                .isEmpty();
        assertThat(d.take(make.event(Kinds.GRANTED, GATE, 402).credential("7").build()))
                .hasSize(1);
        assertThat(d.take(make.event(Kinds.GRANTED, VAULT, 403).build())).isEmpty();
    }

    @Test
    void zones_devices_kinds_of_person_and_holidays_narrow_it_too() {
        Rule.Once refused = new Rule.Once(Set.of(Kinds.REFUSED, Kinds.INPUT_ON), Set.of(), Set.of());
        Rule.Where stair = new Rule.Where(
                Set.of(), Set.of(new Rule.Zone(Happening.HARBOUR, "Stair")), Set.of(), Set.of(), Set.of());
        Rule.Where button =
                new Rule.Where(Set.of(), Set.of(), Set.of(), Set.of(), Set.of(new DeviceId("tidewater/panic-1")));
        Detector onStair = walked(rule(refused, stair, Rule.Who.ANYBODY, Hours.ALWAYS));
        assertThat(onStair.take(make.event(Kinds.REFUSED, VAULT, 0).build())).hasSize(1);
        assertThat(onStair.take(make.event(Kinds.REFUSED, HALL, 0).build())).hasSize(1);
        assertThat(onStair.take(make.event(Kinds.REFUSED, GATE, 0).build())).isEmpty();
        Detector ofButton = walked(rule(refused, button, Rule.Who.ANYBODY, Hours.ALWAYS));
        assertThat(ofButton.take(make.event(Kinds.INPUT_ON, null, 0)
                        .detail("unit", "panic-1")
                        .build()))
                .hasSize(1);
        assertThat(ofButton.take(make.event(Kinds.INPUT_ON, null, 0)
                        .detail("unit", "panic-2")
                        .build()))
                .isEmpty();
        Rule.Who contractors = new Rule.Who(Set.of(), Set.of("contractor"), false);
        Detector theirs = walked(rule(refused, Rule.Where.ANYWHERE, contractors, Hours.ALWAYS));
        assertThat(theirs.take(make.event(Kinds.REFUSED, VAULT, 0)
                        .person(new PersonId("tidewater/ana"))
                        .build()))
                .isEmpty();
        assertThat(theirs.take(make.event(Kinds.REFUSED, VAULT, 0)
                        .person(new PersonId("tidewater/ben"))
                        .build()))
                .hasSize(1);
        assertThat(theirs.take(make.event(Kinds.REFUSED, VAULT, 0).build())).isEmpty();
        Hours.Span tuesdays = new Hours.Span(
                Set.of(DayOfWeek.TUESDAY, DayOfWeek.WEDNESDAY), LocalTime.of(13, 0), LocalTime.of(14, 0));
        // Tuesday at one, Tuesday at three, and the same on Wednesday, which is a holiday.
        List<Integer> when = List.of(0, 2 * 3_600, 24 * 3_600, 26 * 3_600);
        Map<Hours.Holidays, List<Integer>> expected = Map.of(
                Hours.Holidays.AS_USUAL, List.of(0, 24 * 3_600),
                Hours.Holidays.NEVER, List.of(0),
                Hours.Holidays.ONLY, List.of(24 * 3_600),
                Hours.Holidays.ALL_DAY, List.of(0, 24 * 3_600, 26 * 3_600));
        expected.forEach((holidays, hits) -> {
            Detector d = walked(
                    rule(refused, Rule.Where.ANYWHERE, Rule.Who.ANYBODY, new Hours(List.of(tuesdays), holidays)));
            assertThat(when.stream()
                            .filter(s -> !d.take(
                                            make.event(Kinds.REFUSED, VAULT, s).build())
                                    .isEmpty())
                            .toList())
                    .as(holidays.name())
                    .isEqualTo(hits);
        });
    }

    @Test
    void what_doors_do_not_report_themselves_is_found_as_if_they_had() {
        Detector d = walked(rule(FORCED));
        d.take(make.event(Kinds.MODE, VAULT, 0).detail("mode", "locked").build());
        assertThat(d.looksAt(Kinds.GRANTED)).isTrue();
        assertThat(d.take(make.event(Kinds.GRANTED, VAULT, 5).build())).isEmpty();
        assertThat(d.take(make.event(Kinds.OPENED, VAULT, 6).build())).isEmpty();
        assertThat(d.take(make.event(Kinds.CLOSED, VAULT, 8).build())).hasOnlyElementsOfType(Detector.Ended.class);
        assertThat(d.take(make.event(Kinds.OPENED, VAULT, 30).build()))
                .singleElement()
                .isInstanceOfSatisfying(
                        Detector.Raised.class, r -> assertThat(r.cause().kind()).isEqualTo(Kinds.OPENED));
        Rule.Often nobody = new Rule.Often(
                Set.of(Kinds.NOBODY_ENTERED), Set.of(), Set.of(), 2, Duration.ofMinutes(5), Rule.Per.PLACE);
        Detector again = walked(rule(nobody));
        again.take(make.event(Kinds.MODE, VAULT, 0).detail("mode", "locked").build());
        again.take(make.event(Kinds.CLOSED, VAULT, 0).build());
        again.take(make.event(Kinds.GRANTED, VAULT, 5).build());
        again.take(make.event(Kinds.GRANTED, VAULT, 50).build());
        assertThat(again.tick(at(61))).isEmpty();
        assertThat(again.tick(at(63))).hasSize(1);
        // A system cannot say that.
        assertThat(again.take(make.event(Kinds.NOBODY_ENTERED, VAULT, 70).build()))
                .isEmpty();
        // Where no rule asks for it, doors are not followed.
        assertThat(detector(rule(new Rule.Once(Set.of(Kinds.DURESS), Set.of(), Set.of())))
                        .looksAt(Kinds.GRANTED))
                .isFalse();
    }

    private static Rule whileHeld() {
        return rule(new Rule.Once(Set.of(Kinds.REFUSED), Set.of(), Set.of()))
                .holding(Optional.of(new Rule.Holding(Set.of(Kinds.HELD), Set.of(Kinds.CLOSED), Rule.Extent.PLACE)));
    }

    /** The door does not report by itself that it is held open. */
    @Test
    void a_state_that_no_event_reports_holds_too_also_after_a_restart() {
        MemoryLog log = new MemoryLog();
        Detector d = new Detector(List.of(RuleTimeline.always(whileHeld())), Known.of(() -> WALKED), History.of(log));
        List<Event> before = List.of(
                make.event(Kinds.MODE, VAULT, 0).detail("mode", "locked").build(),
                make.event(Kinds.CLOSED, VAULT, 0).build(),
                make.event(Kinds.GRANTED, VAULT, 5).build(),
                make.event(Kinds.OPENED, VAULT, 6).build());
        log.store(before.toArray(Event[]::new));
        log.events.forEach(d::take);
        assertThat(d.tick(at(45))).isEmpty();
        assertThat(stored(d, log, make.event(Kinds.REFUSED, VAULT, 50).build())).hasSize(1);

        Detector again =
                new Detector(List.of(RuleTimeline.always(whileHeld())), Known.of(() -> WALKED), History.of(log));
        again.restore(d.state());
        assertThat(stored(again, log, make.event(Kinds.REFUSED, VAULT, 55).build()))
                .hasSize(1);
        stored(again, log, make.event(Kinds.CLOSED, VAULT, 60).build());
        assertThat(stored(again, log, make.event(Kinds.REFUSED, VAULT, 65).build()))
                .isEmpty();
    }

    private static List<Detector.Finding> stored(Detector d, MemoryLog log, Event event) {
        log.store(event);
        return d.take(log.events.get(log.events.size() - 1));
    }

    @Test
    void what_followed_from_an_event_is_found_by_a_state_that_becomes_known_later() {
        Rule heldWhileArmed = rule(new Rule.Once(Set.of(Kinds.HELD), Set.of(), Set.of()))
                .holding(Optional.of(
                        new Rule.Holding(Set.of(Kinds.PANEL_ARMED), Set.of(Kinds.PANEL_DISARMED), Rule.Extent.SITE)));
        MemoryLog log = new MemoryLog();
        Detector d =
                new Detector(List.of(RuleTimeline.always(heldWhileArmed)), Known.of(() -> WALKED), History.of(log));
        stored(d, log, make.event(Kinds.MODE, VAULT, 0).detail("mode", "locked").build());
        stored(d, log, make.event(Kinds.CLOSED, VAULT, 0).build());
        stored(d, log, make.event(Kinds.GRANTED, VAULT, 5).build());
        Event opened = make.event(Kinds.OPENED, VAULT, 6).build();
        stored(d, log, opened);
        assertThat(d.tick(at(45))).isEmpty();
        assertThat(stored(d, log, make.event(Kinds.PANEL_ARMED, VAULT, 10).build()))
                .singleElement()
                .satisfies(f -> assertThat(f.by().key()).isEqualTo(opened.key()));
        // Armed again, which changes nothing.
        assertThat(stored(d, log, make.event(Kinds.PANEL_ARMED, VAULT, 12).build()))
                .isEmpty();
        assertThat(stored(d, log, make.event(Kinds.PANEL_DISARMED, VAULT, 20).build()))
                .singleElement()
                .isInstanceOf(Detector.Contradicted.class);
    }

    private static Rule named(String id, Rule.When when) {
        return Happening.rule(id, when);
    }

    private static Detector reading(MemoryLog log, Rule... rules) {
        return new Detector(
                Stream.of(rules).map(RuleTimeline::always).toList(), Known.of(() -> WALKED), History.of(log));
    }

    /** Puts an event into the log and has it evaluated while the log cannot be read. */
    private static List<Detector.Finding> unreadable(Detector d, MemoryLog log, Event event) {
        log.store(event);
        List<Detector.Finding> found = new ArrayList<>();
        log.unreadable = true;
        assertThatThrownBy(() -> d.take(log.events.get(log.events.size() - 1), found))
                .isInstanceOf(EventLogException.class);
        log.unreadable = false;
        return found;
    }

    @Test
    void a_log_that_cannot_be_read_for_one_rule_keeps_nothing_from_the_others() {
        MemoryLog log = new MemoryLog();
        Detector d = reading(
                log, named("place", refused(2, 60, Rule.Per.PLACE)), named("person", refused(2, 60, Rule.Per.PERSON)));
        PersonId ana = new PersonId("tidewater/ana");
        PersonId ben = new PersonId("tidewater/ben");
        assertThat(stored(
                        d, log, make.event(Kinds.REFUSED, VAULT, 0).person(ana).build()))
                .isEmpty();
        Event second = make.event(Kinds.REFUSED, VAULT, 5).person(ben).build();
        assertThat(unreadable(d, log, second))
                .singleElement()
                .satisfies(f -> assertThat(f.rule().id()).isEqualTo("place"));
        assertThat(d.take(log.events.get(1))).isEmpty();
        assertThat(stored(
                        d, log, make.event(Kinds.REFUSED, HALL, 10).person(ben).build()))
                .singleElement()
                .satisfies(f -> assertThat(f.rule().id()).isEqualTo("person"));
    }

    @Test
    void what_followed_while_the_log_could_not_be_read_counts_once_it_can() {
        MemoryLog log = new MemoryLog();
        Detector d = reading(
                log,
                named(
                        "forced",
                        new Rule.Often(
                                Set.of(Kinds.FORCED), Set.of(), Set.of(), 2, Duration.ofSeconds(60), Rule.Per.PLACE)));
        stored(d, log, make.event(Kinds.MODE, VAULT, 0).detail("mode", "locked").build());
        stored(d, log, make.event(Kinds.CLOSED, VAULT, 0).build());
        assertThat(unreadable(d, log, make.event(Kinds.OPENED, VAULT, 30).build()))
                .isEmpty();
        assertThat(d.take(log.events.get(2))).isEmpty();
        stored(d, log, make.event(Kinds.CLOSED, VAULT, 35).build());
        assertThat(stored(d, log, make.event(Kinds.OPENED, VAULT, 40).build())).hasSize(1);
    }

    @Test
    void what_did_not_follow_is_found_once_the_log_can_be_read() {
        MemoryLog log = new MemoryLog();
        Detector d = reading(
                log,
                named(
                        "nobody",
                        new Rule.Unfollowed(Set.of(Kinds.GRANTED), Set.of(Kinds.OPENED), Duration.ofSeconds(20))));
        stored(d, log, make.event(Kinds.GRANTED, VAULT, 0).build());
        log.unreadable = true;
        assertThatThrownBy(() -> d.tick(at(30))).isInstanceOf(EventLogException.class);
        log.unreadable = false;
        assertThat(d.tick(at(30))).hasSize(1);
        assertThat(d.tick(at(31))).isEmpty();
    }
}
