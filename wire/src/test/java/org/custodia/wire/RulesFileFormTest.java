package org.custodia.wire;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.nio.charset.StandardCharsets;
import java.time.DayOfWeek;
import java.time.Duration;
import java.time.LocalTime;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.Set;
import org.custodia.core.alarm.AlarmException;
import org.custodia.core.alarm.Hours;
import org.custodia.core.alarm.Rule;
import org.custodia.core.door.DoorCommand;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.Priority;
import org.custodia.core.site.DeviceId;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SystemId;
import org.junit.jupiter.api.Test;

/** Rules as a file: there and back, and all that can be wrong with one. */
class RulesFileFormTest {
    private final RulesFileForm form = new RulesFileForm();

    private static List<Rule> everything() {
        List<Rule> all = new ArrayList<>(Rule.shipped());
        Rule.Where somewhere = new Rule.Where(
                Set.of(new DoorId("tidewater/vault"), new DoorId("tidewater/gate")),
                Set.of(new Rule.Zone(new SiteId("harbour"), "Stair")),
                Set.of(new SiteId("yard")),
                Set.of(new SystemId("larkspur")),
                Set.of(new DeviceId("tidewater/panic-1")));
        Hours nights = new Hours(
                List.of(
                        new Hours.Span(
                                Set.of(DayOfWeek.MONDAY, DayOfWeek.SUNDAY), LocalTime.of(22, 0), LocalTime.of(6, 30)),
                        new Hours.Span(Set.of(DayOfWeek.SATURDAY), LocalTime.MIDNIGHT, LocalTime.MIDNIGHT)),
                Hours.Holidays.ALL_DAY,
                Optional.of(new Hours.Within("tidewater/office", true)));
        Rule.Then then = new Rule.Then(
                false,
                true,
                List.of(
                        new Rule.Order(Rule.At.START, Optional.empty(), new DoorCommand.LockNow()),
                        new Rule.Order(
                                Rule.At.END,
                                Optional.of(new DoorId("tidewater/gate")),
                                new DoorCommand.BackToTimetable()),
                        new Rule.Order(Rule.At.START, Optional.empty(), new DoorCommand.ShowText("Please \"wait\""))),
                List.of(new Rule.Tell(Rule.At.START, "duty"), new Rule.Tell(Rule.At.END, "phones-2")));
        all.add(new Rule(
                "own-1",
                0,
                "Rack door, \"at night\"",
                false,
                new Rule.Unfollowed(Set.of(Kinds.GRANTED), Set.of(Kinds.OPENED), Duration.ofSeconds(15)),
                somewhere,
                new Rule.Who(Set.of(new PersonId("tidewater/ana")), Set.of("contractor"), false),
                nights,
                Priority.LOW,
                then));
        all.add(new Rule(
                "own-2",
                0,
                "A kind of the site's own",
                true,
                new Rule.Once(Set.of(Kinds.of("shot.heard")), Set.of(), Set.of()),
                Rule.Where.ANYWHERE,
                new Rule.Who(Set.of(), Set.of(), true),
                Hours.ALWAYS,
                Priority.URGENT,
                Rule.Then.QUIET));
        return all;
    }

    @Test
    void what_is_written_is_read_again_as_it_was() {
        byte[] file = form.write(everything());
        assertThat(form.read(file)).isEqualTo(everything());
        assertThat(form.write(form.read(file))).isEqualTo(file);
        assertThat(form.read(form.write(List.of()))).isEmpty();
    }

    @Test
    void what_is_no_file_of_rules_is_refused_in_a_sentence_that_says_why() {
        Rule unfollowed = everything().stream()
                .filter(r -> r.id().equals("own-1"))
                .findFirst()
                .orElseThrow();
        String good = new String(form.write(List.of(unfollowed)), StandardCharsets.UTF_8);
        Map<String, String> odd = Map.ofEntries(
                Map.entry("", "custodia-rules"),
                Map.entry("[]", "custodia-rules"),
                Map.entry("{", "no JSON"),
                Map.entry("{\"custodia-rules\": 1, \"rules\": 5}", "no list"),
                Map.entry("{\"custodia-rules\": 1, \"rule\": []}", "nobody knows"),
                Map.entry("{\"custodia-rules\": 1, \"rules\": [7]}", "is none"),
                Map.entry(good.replace("\"unfollowed\"", "\"sometimes\""), "sometimes"),
                Map.entry(good.replace("\"low\"", "\"none\""), "urgent, caution or low"),
                Map.entry(good.replace("\"low\"", "\"severe\""), "severe"),
                Map.entry(good.replace(": 15", ": 15.5"), "no whole number"),
                Map.entry(good.replace(": 15", ": 999999"), "at most 1 h"),
                Map.entry(good.replace("\"sound\" : true", "\"sound\" : \"yes\""), "true or false"),
                Map.entry(good.replace("\"lock\"", "\"explode\""), "explode"),
                Map.entry(good.replace("06:30", "26:30"), "26:30"),
                Map.entry(good.replace("\"then\"", "\"than\""), "than"),
                Map.entry(good.replace("own-1", "Own 1"), "small letters"),
                Map.entry(good.replace("\"door.opened\"", "\"access.granted\""), "something else"));
        odd.forEach((text, why) -> assertThatThrownBy(() -> form.read(text.getBytes(StandardCharsets.UTF_8)))
                .as(text)
                .isInstanceOf(AlarmException.class)
                .hasMessageContaining(why));
        assertThatThrownBy(() -> form.read(good.replace("\"custodia-rules\" : 1", "\"custodia-rules\" : 2")
                        .getBytes(StandardCharsets.UTF_8)))
                .hasMessageContaining("rule.file-version");
        assertThatThrownBy(() -> form.read(new byte[] {(byte) 0xff, 0x30})).isInstanceOf(AlarmException.class);
        assertThatThrownBy(() -> form.read(new byte[Sheet.LARGEST + 1])).isInstanceOf(AlarmException.class);
        List<Rule> twice = List.of(Rule.shipped().get(0), Rule.shipped().get(0));
        assertThatThrownBy(() -> form.read(form.write(twice))).hasMessageContaining("twice");
    }

    /** Whatever is broken about it: it is read, or refused as what it is. */
    @Test
    void a_file_that_was_damaged_never_throws_anything_else() {
        byte[] good = form.write(everything());
        Random random = new Random(7);
        for (int i = 0; i < 2_000; i++) {
            byte[] broken = good.clone();
            for (int n = 0; n <= random.nextInt(4); n++) {
                broken[random.nextInt(broken.length)] = (byte) (32 + random.nextInt(95));
            }
            try {
                form.read(broken);
            } catch (AlarmException e) {
                assertThat(e.saying().code()).startsWith("rule.file-");
            }
        }
    }
}
