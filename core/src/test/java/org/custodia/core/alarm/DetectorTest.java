package org.custodia.core.alarm;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.custodia.core.alarm.Happening.GATE;
import static org.custodia.core.alarm.Happening.VAULT;
import static org.custodia.core.alarm.Happening.at;

import java.time.DayOfWeek;
import java.time.Duration;
import java.time.LocalTime;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Random;
import java.util.Set;
import java.util.TreeSet;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.constraints.IntRange;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.Priority;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.SystemId;
import org.junit.jupiter.api.Test;

/** What rules find, in whatever order it comes. */
class DetectorTest {
    private final Happening make = new Happening();

    private static Rule rule(Rule.When when) {
        return rule(when, Rule.Where.ANYWHERE, Rule.Who.ANYBODY, Hours.ALWAYS);
    }

    private static Rule rule(Rule.When when, Rule.Where where, Rule.Who who, Hours during) {
        return new Rule("r", 1, "R", true, when, where, who, during, Priority.CAUTION);
    }

    private static final Rule.Once FORCED = new Rule.Once(Set.of(Kinds.FORCED), Set.of(), Set.of(Kinds.CLOSED));

    private static Detector detector(Rule... rules) {
        return new Detector(List.of(rules), () -> Happening.SITES);
    }

    private static Rule.Often refused(int times, int seconds, Rule.Per per) {
        return new Rule.Often(Set.of(Kinds.REFUSED), Set.of(), times, Duration.ofSeconds(seconds), per);
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
        Rule.Where yard = new Rule.Where(Set.of(), Set.of(Happening.YARD), Set.of());
        Rule.Where vault = new Rule.Where(Set.of(VAULT), Set.of(), Set.of());
        Rule.Where brine = new Rule.Where(Set.of(), Set.of(), Set.of(new SystemId("brine")));
        for (Rule.Where where : List.of(yard, vault, brine)) {
            Detector d = detector(rule(FORCED, where, Rule.Who.ANYBODY, Hours.ALWAYS));
            assertThat(d.take(make.event(Kinds.FORCED, VAULT, 1).build())).hasSize(where == vault ? 1 : 0);
            assertThat(d.take(make.event(Kinds.FORCED, GATE, 1).build())).hasSize(where == yard ? 1 : 0);
        }
        PersonId ana = new PersonId("tidewater/ana");
        Rule.Once refused = new Rule.Once(Set.of(Kinds.REFUSED), Set.of("no-level"), Set.of());
        Detector hers = detector(rule(refused, Rule.Where.ANYWHERE, new Rule.Who(Set.of(ana), false), Hours.ALWAYS));
        Detector nobodys = detector(rule(refused, Rule.Where.ANYWHERE, new Rule.Who(Set.of(), true), Hours.ALWAYS));
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
        Hours night =
                new Hours(List.of(new Hours.Span(Set.of(DayOfWeek.MONDAY), LocalTime.of(22, 0), LocalTime.of(6, 0))));
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

    @Test
    void three_within_a_minute_are_found_and_two_are_not_and_the_same_one_does_not_count_twice() {
        Detector d = detector(rule(refused(3, 60, Rule.Per.PLACE)));
        Event first = make.event(Kinds.REFUSED, VAULT, 0).build();
        assertThat(d.take(first)).isEmpty();
        assertThat(d.take(first)).isEmpty();
        assertThat(d.take(make.event(Kinds.REFUSED, GATE, 10).build())).isEmpty();
        assertThat(d.take(make.event(Kinds.REFUSED, VAULT, 30).build())).isEmpty();
        assertThat(d.take(make.event(Kinds.REFUSED, VAULT, 61).build())).isEmpty();
        assertThat(d.take(make.event(Kinds.REFUSED, VAULT, 60).build())).hasSize(1);
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

    /** Whatever the order and however often it comes: it is found exactly if there is a window with enough in it. */
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
        boolean there = seconds.stream()
                .anyMatch(from -> seconds.subSet(from, true, from + span, true).size() >= times);
        for (int round = 0; round < 3; round++) {
            Detector d = detector(rule(refused(times, Math.max(span, 100), Rule.Per.PLACE)));
            Detector narrow = detector(rule(refused(times, span, Rule.Per.PLACE)));
            boolean found = false;
            boolean wide = false;
            for (Event event : all) {
                found |= !narrow.take(event).isEmpty();
                wide |= !d.take(event).isEmpty();
                narrow.take(event);
            }
            // What came long before the newest is forgotten; within twice the window nothing is.
            assertThat(!found || there).isTrue();
            if (round == 0) {
                assertThat(found).isEqualTo(there);
            }
            assertThat(wide).isTrue();
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
        assertThat(d.tick(at(9.9))).isEmpty();
        assertThat(d.tick(at(10)))
                .singleElement()
                .satisfies(f -> assertThat(f.subject().id()).isEqualTo("tidewater/vault"));
        assertThat(d.tick(at(100))).isEmpty();
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
        assertThatThrownBy(() -> new Rule.Who(Set.of(new PersonId("tidewater/ana")), true))
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
}
