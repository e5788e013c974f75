package org.custodia.core.event;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.time.Instant;
import java.util.Collections;
import java.util.List;
import java.util.Set;
import java.util.concurrent.CancellationException;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.stream.IntStream;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.ReaderId;
import org.custodia.core.site.Side;
import org.custodia.core.site.SystemId;
import org.junit.jupiter.api.Test;

class EventQueryTest {
    private static final Instant AT = Instant.parse("2026-11-24T14:20:00Z");
    private static final Event FULL = Event.of(new EventKey(new SystemId("tidewater"), 1, 5), Kinds.REFUSED, AT)
            .door(new DoorId("tidewater/gate"))
            .controller(new ControllerId("tidewater/c1"))
            .reader(new ReaderId("gate.in"))
            .side(Side.ENTRY)
            .person(new PersonId("tidewater/p1"))
            .credential("20001")
            .operator("ana")
            .reason("wrong PIN")
            .code("T7")
            .cause("custodia:1:4")
            .late(true)
            .build();
    private static final Event BARE = Event.of(
                    new EventKey(new SystemId("larkspur"), 1, 6), Kinds.OPENED, AT.plusSeconds(1))
            .build();

    @Test
    void every_field_is_found_by_its_value_and_read_from_its_text() {
        assertThat(EventField.ALL).extracting(EventField::name).doesNotHaveDuplicates();
        EventField.ALL.forEach(EventQueryTest::found);
        assertThat(EventField.SYSTEM).hasToString("system");
    }

    private static <T> void found(EventField<T> field) {
        T value = field.of(FULL).orElseThrow();
        assertThat(field.value(field.text(value))).isEqualTo(value);
        assertThat(Filter.is(field, value).test(FULL)).isTrue();
        assertThat(Filter.is(field, value).test(BARE)).isFalse();
        assertThat(Filter.isOneOf(field, Set.<T>of()).test(FULL)).isFalse();
        assertThat(Filter.known(field).test(FULL)).isTrue();
        assertThat(Filter.known(field).test(BARE)).isEqualTo(field == EventField.SYSTEM || field == EventField.KIND);
    }

    @Test
    void expressions_mean_what_they_say() {
        Filter refused = Filter.is(EventField.KIND, Kinds.REFUSED);
        Filter opened = Filter.is(EventField.KIND, Kinds.OPENED);
        assertThat(Filter.or(refused, opened).test(FULL)).isTrue();
        assertThat(Filter.or().test(FULL)).isFalse();
        assertThat(refused.and(opened).test(FULL)).isFalse();
        assertThat(refused.and(Filter.late()).test(FULL)).isTrue();
        assertThat(Filter.late().test(BARE)).isFalse();
        assertThat(Filter.not(refused).test(FULL)).isFalse();
        assertThat(Filter.everything().test(BARE)).isTrue();
        assertThat(Filter.everything().and(refused)).isEqualTo(refused);
        assertThat(refused.and(Filter.everything())).isEqualTo(refused);
        assertThat(Filter.not(Filter.or(refused.and(Filter.late()), Filter.known(EventField.DOOR)))
                        .size())
                .isEqualTo(7);
    }

    @Test
    void a_question_narrows_by_time_and_place() {
        assertThat(EventQuery.all().test(FULL)).isTrue();
        assertThat(EventQuery.all().since(AT).test(FULL)).isTrue();
        assertThat(EventQuery.all().since(AT.plusNanos(1000)).test(FULL)).isFalse();
        assertThat(EventQuery.all().until(AT).test(FULL)).isFalse();
        assertThat(EventQuery.all().until(AT.plusNanos(1000)).test(FULL)).isTrue();
        assertThat(EventQuery.all().before(FULL).test(FULL)).isFalse();
        assertThat(EventQuery.all().after(FULL).test(FULL)).isFalse();
        assertThat(EventQuery.all().before(BARE).test(FULL)).isTrue();
        assertThat(EventQuery.all().after(FULL).test(BARE)).isTrue();
        Event sameTime = FULL.toBuilder()
                .key(new EventKey(new SystemId("tidewater"), 1, 6))
                .build();
        assertThat(EventQuery.all().after(FULL).test(sameTime)).isTrue();
        assertThat(EventQuery.all().before(sameTime).test(FULL)).isTrue();
        assertThat(EventQuery.all()
                        .kinds()
                        .doors(Set.of())
                        .controllers(Set.of())
                        .test(BARE))
                .isTrue();
        assertThat(EventQuery.all()
                        .kinds(Kinds.REFUSED)
                        .system(new SystemId("larkspur"))
                        .test(FULL))
                .isFalse();
        assertThat(EventQuery.all().person(new PersonId("tidewater/p1")).test(FULL))
                .isTrue();
        assertThat(EventQuery.all().newest(3)).isEqualTo(EventQuery.all().newest(3));
        assertThat(EventQuery.all().newest(3).newestFirst()).isTrue();
        assertThat(EventQuery.all().newest(3).oldest(4).newestFirst()).isFalse();
        assertThat(EventQuery.all().oldest(4).limit()).isEqualTo(4);
    }

    @Test
    void what_is_too_large_is_refused() {
        assertThatThrownBy(() -> EventQuery.all().newest(0)).isInstanceOf(IllegalArgumentException.class);
        assertThatThrownBy(() -> EventQuery.all().newest(100_001)).isInstanceOf(IllegalArgumentException.class);
        assertThat(EventQuery.all().newest(100_000).limit()).isEqualTo(100_000);
        List<String> many = IntStream.range(0, EventQuery.LARGEST_FILTER)
                .mapToObj(Integer::toString)
                .toList();
        assertThatThrownBy(() -> EventQuery.all().where(Filter.isOneOf(EventField.CODE, many)))
                .isInstanceOf(IllegalArgumentException.class);
        assertThat(EventQuery.all().where(Filter.isOneOf(EventField.CODE, many.subList(1, many.size()))))
                .isNotNull();
        assertThatThrownBy(() -> EventQuery.all()
                        .where(new Filter.Or(Collections.nCopies(EventQuery.LARGEST_FILTER, Filter.late()))))
                .isInstanceOf(IllegalArgumentException.class);
    }

    @Test
    void a_question_that_is_taken_back_ends_its_work() {
        AtomicInteger ended = new AtomicInteger();
        Cancellation cancellation = new Cancellation();
        cancellation.onCancel(ended::incrementAndGet);
        cancellation.check();
        assertThat(cancellation.cancelled()).isFalse();
        cancellation.cancel();
        assertThat(ended).hasValue(1);
        assertThat(cancellation.cancelled()).isTrue();
        assertThatThrownBy(cancellation::check).isInstanceOf(CancellationException.class);
        assertThatThrownBy(() -> cancellation.onCancel(ended::incrementAndGet))
                .isInstanceOf(CancellationException.class);
        cancellation.onCancel(null);
        cancellation.cancel();
        assertThat(ended).hasValue(1);
    }
}
