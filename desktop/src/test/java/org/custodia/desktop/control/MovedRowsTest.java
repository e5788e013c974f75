package org.custodia.desktop.control;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.Map;
import org.junit.jupiter.api.Test;

class MovedRowsTest {
    private static final long REST = MovedRows.REST.toNanos();

    private long now = 7;
    private final MovedRows<String> rows = new MovedRows<>(() -> now);

    @Test
    void a_row_that_moved_takes_no_press_for_a_moment_and_the_others_do() {
        rows.places(Map.of("gate", 0.0, "lobby", 100.0, "vault", 200.0));
        assertThat(rows.justMoved("lobby"))
                .as("what is shown first has not moved")
                .isFalse();
        rows.places(Map.of("lobby", 0.0, "gate", 100.0, "vault", 200.0));
        assertThat(rows.justMoved("lobby")).isTrue();
        assertThat(rows.justMoved("gate")).isTrue();
        assertThat(rows.justMoved("vault")).isFalse();
        now += REST - 1;
        assertThat(rows.justMoved("gate")).isTrue();
        now++;
        assertThat(rows.justMoved("gate")).isFalse();
    }

    @Test
    void a_row_that_is_new_stands_where_another_was_and_one_that_moves_on_rests_from_then() {
        rows.places(Map.of("gate", 0.0));
        rows.places(Map.of("stair", 0.0, "gate", 100.0));
        assertThat(rows.justMoved("stair")).isTrue();
        now += REST / 2;
        rows.places(Map.of("stair", 0.0, "gate", 200.0));
        now += REST / 2;
        assertThat(rows.justMoved("stair")).isFalse();
        assertThat(rows.justMoved("gate")).isTrue();
    }

    @Test
    void to_be_told_the_same_places_again_is_no_move() {
        rows.places(Map.of("gate", 0.0));
        rows.places(Map.of("gate", 50.0));
        now += REST;
        rows.places(Map.of("gate", 50.0));
        assertThat(rows.justMoved("gate")).isFalse();
        rows.places(Map.of());
        rows.places(Map.of("gate", 50.0));
        assertThat(rows.justMoved("gate"))
                .as("it comes into a list that was empty")
                .isFalse();
    }
}
