package org.custodia.store;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Path;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** How far somebody has come is there after the end, too. */
class SqlMarksTest {
    @Test
    void marks_are_kept_apart_and_over_a_restart(@TempDir Path path) {
        try (StoreFixture store = new StoreFixture(path)) {
            SqlMarks marks = new SqlMarks(store.database);
            assertThat(marks.reached("alarms")).isZero();
            marks.reach("alarms", 5);
            marks.reach("alarms", 70);
            marks.reach("others", 3);
        }
        try (StoreFixture store = new StoreFixture(path)) {
            SqlMarks marks = new SqlMarks(store.database);
            assertThat(marks.reached("alarms")).isEqualTo(70);
            assertThat(marks.reached("others")).isEqualTo(3);
        }
    }
}
