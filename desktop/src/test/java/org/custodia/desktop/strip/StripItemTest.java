package org.custodia.desktop.strip;

import static org.assertj.core.api.Assertions.assertThat;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.when;

import java.time.Instant;
import java.util.Map;
import org.custodia.core.access.OnFile;
import org.custodia.core.access.PersonRegister;
import org.custodia.core.door.GrantOutcome;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.Priority;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.SystemId;
import org.custodia.desktop.words.EventWords;
import org.junit.jupiter.api.Test;

class StripItemTest {
    private static final EventKey KEY = new EventKey(new SystemId("tidewater"), 1, 1);

    private static StripItem item(EventKind kind, Map<EventKey, GrantOutcome> outcomes) {
        PersonRegister people = mock(PersonRegister.class);
        when(people.credential(any(), any(), any(), any())).thenReturn(OnFile.notThen());
        Event event = Event.of(KEY, kind, Instant.parse("2026-11-24T14:31:12Z"))
                .credential("20266")
                .build();
        return StripItem.of(event, new EventWords(people, () -> SiteModel.EMPTY), outcomes);
    }

    @Test
    void an_item_has_a_still_unless_it_is_an_exit_button() {
        assertThat(item(Kinds.REFUSED, Map.of()))
                .extracting(StripItem::priority, StripItem::still, StripItem::who)
                .containsExactly(Priority.NOTE, true, "badge 20266");
        assertThat(item(Kinds.EXIT_REQUESTED, Map.of()).still()).isFalse();
    }

    @Test
    void what_became_of_a_grant_is_that_of_this_grant() {
        EventKey another = new EventKey(KEY.system(), 1, 2);
        assertThat(item(Kinds.GRANTED, Map.of(another, GrantOutcome.NOBODY_ENTERED)))
                .extracting(StripItem::outcome, StripItem::result)
                .containsExactly(null, "granted");
        assertThat(item(Kinds.GRANTED, Map.of(KEY, GrantOutcome.NOBODY_ENTERED)))
                .extracting(StripItem::outcome, StripItem::result)
                .containsExactly(GrantOutcome.NOBODY_ENTERED, "nobody entered");
    }
}
