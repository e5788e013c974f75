package org.custodia.desktop.shell;

import static org.assertj.core.api.Assertions.assertThat;

import org.custodia.desktop.desk.MainView;
import org.junit.jupiter.api.Test;

class ShortcutsTest {
    @Test
    void every_key_in_the_table_is_bound_once_and_explained() {
        assertThat(Shortcuts.all()).allSatisfy(s -> {
            assertThat(s.keys()).isNotBlank();
            assertThat(s.words()).isNotBlank();
            assertThat(s.where()).isNotBlank();
        });
        assertThat(Shortcuts.combinations()).doesNotHaveDuplicates();
    }

    @Test
    void every_view_has_a_key_and_what_its_keys_do_is_on_the_sheet() {
        for (MainView.Plug view : Views.ALL) {
            assertThat(Shortcuts.combinations()).contains(view.key());
            assertThat(Shortcuts.all()).containsAll(view.keys().get()).anyMatch(s -> s.words()
                    .equals(view.name().get()));
        }
    }
}
