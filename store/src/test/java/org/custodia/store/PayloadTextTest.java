package org.custodia.store;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Instant;
import java.util.Map;
import net.jqwik.api.Arbitraries;
import net.jqwik.api.Arbitrary;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.Provide;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.Translation;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.ReaderId;
import org.custodia.core.site.SystemId;
import org.junit.jupiter.api.Test;

/** Messages come back letter by letter, and what the row holds is not kept twice. */
class PayloadTextTest {
    private static final char THEN = '\u001e';
    private static final char AS_IT_CAME = '\u001f';
    private static final Instant TIME = Instant.parse("2026-11-24T14:20:00.120Z");

    private static Event.Builder event(long sequence) {
        return Event.of(new EventKey(new SystemId("tidewater"), 1, sequence), Kinds.GRANTED, TIME)
                .door(new DoorId("tidewater/vault"))
                .controller(new ControllerId("tidewater/c1"))
                .reader(new ReaderId("r9"))
                .person(new PersonId("tidewater/p1"))
                .credential("20388")
                .cause("key-1");
    }

    private static String kept(Event.Builder event) {
        return PayloadText.of(event.build()).orElseThrow();
    }

    private static Event back(Event event) {
        Event.Builder rest = event.toBuilder().raw("").details(Map.of());
        PayloadText.restore(PayloadText.of(event).orElse(""), rest);
        return rest.build();
    }

    @Test
    void what_the_row_holds_is_a_mark() {
        String raw =
                "{\"seq\":907,\"time\":\"2026-11-24T14:20:00.120Z\",\n\t\"door\":\"vault\",\"controller\":\"c1\",\r"
                        + "\"reader\":\"r9\",\"person\":\"p1\",\"credential\":\"20388\",\"cause\":\"key-1\",\"more\":9}";
        assertThat(kept(event(907).raw(raw)))
                .isEqualTo(
                        THEN
                                + "{\"seq\":\u0001,\"time\":\"\u0002\",\n\t\"door\":\"\u0003\",\"controller\":\"\u0004\",\r"
                                + "\"reader\":\"\u0005\",\"person\":\"\u0006\",\"credential\":\"\u0007\",\"cause\":\"\u0008\",\"more\":9}");
        assertThat(back(event(907).raw(raw).build()).raw()).isEqualTo(raw);
    }

    @Test
    void numbers_that_begin_with_any_digit_are_found() {
        for (long sequence : new long[] {1, 9, 10, 90, 1_000_000}) {
            assertThat(kept(event(sequence).raw("{\"seq\":" + sequence + "}"))).isEqualTo(THEN + "{\"seq\":\u0001}");
        }
        assertThat(kept(event(7).credential("0").raw("{\"n\":0}"))).isEqualTo(THEN + "{\"n\":\u0007}");
        // Not a part of a longer number, and not what only looks like one.
        assertThat(kept(event(7).raw("{\"a\":77,\"b\":\"x7\",\"c\":-7x}")))
                .isEqualTo(THEN + "{\"a\":77,\"b\":\"x7\",\"c\":-7x}");
    }

    /** Where two fields of the row are the same, the one of that name is meant. */
    @Test
    void of_two_that_are_the_same_the_one_of_that_name_is_meant() {
        Event.Builder same = event(20388).raw("{\"credential\":\"20388\",\"seq\":20388,\"other\":20388}");
        assertThat(kept(same)).isEqualTo(THEN + "{\"credential\":\"\u0007\",\"seq\":\u0001,\"other\":\u0001}");
    }

    @Test
    void a_message_with_signs_that_look_like_marks_is_kept_as_it_came() {
        for (char c : new char[] {0, 1, 8, 9, 10, 11, 13, 14, 0x1e, 0x1f, 0x20}) {
            String raw = "{\"seq\":5,\"x\":\"" + c + "\"}";
            boolean plain = c == 9 || c == 10 || c == 13 || c == 0x20;
            assertThat(kept(event(5).raw(raw)))
                    .as("%d", (int) c)
                    .isEqualTo(plain ? THEN + "{\"seq\":\u0001,\"x\":\"" + c + "\"}" : "" + THEN + AS_IT_CAME + raw);
            assertThat(back(event(5).raw(raw).build()).raw()).isEqualTo(raw);
        }
    }

    @Test
    void details_come_before_the_message_and_what_was_sent_for_our_terms_stands_elsewhere() {
        assertThat(PayloadText.of(event(5).build())).isEmpty();
        assertThat(kept(event(5).detail("mode", "locked").detail("by", "hand")))
                .isEqualTo("{\"by\":\"hand\",\"mode\":\"locked\"}" + THEN);
        assertThat(PayloadText.of(event(5).detail(Translation.SENT_KIND, "x").build()))
                .isEmpty();
        assertThat(PayloadText.of(event(5).detail(Translation.SENT_REASON, "x").build()))
                .isEmpty();
        assertThat(kept(event(5).detail(Translation.SENT_REASON, "x").detail("by", "hand")))
                .isEqualTo("{\"by\":\"hand\"}" + THEN);
        Event.Builder damaged = event(5);
        PayloadText.restore("{\"by\":" + THEN, damaged);
        assertThat(damaged.build().detail("unreadable-details")).contains("{\"by\":");
        Event.Builder older = event(5);
        PayloadText.restore("{\"by\":\"hand\"}", older);
        assertThat(older.build().detail("by")).contains("hand");
        assertThat(older.build().raw()).isEmpty();
    }

    @Provide
    Arbitrary<String> messages() {
        return Arbitraries.strings()
                .withChars(
                        '{', '}', '"', ':', ',', '\\', '7', '0', 'a', ' ', '\n', (char) 1, (char) 8, (char) 0x1e, (char)
                                0x1f)
                .ofMaxLength(24);
    }

    @Property
    void every_message_comes_back(@ForAll("messages") String raw) {
        Event event = event(7).credential("0").cause("a").raw(raw).build();
        assertThat(back(event)).isEqualTo(event);
    }
}
