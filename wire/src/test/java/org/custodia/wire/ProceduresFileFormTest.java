package org.custodia.wire;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.custodia.core.alarm.AlarmException;
import org.custodia.core.alarm.Procedure;
import org.custodia.core.alarm.Rule;
import org.custodia.core.event.Priority;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;
import org.junit.jupiter.api.Test;

/** Procedures as a file: there and back, and what is none. */
class ProceduresFileFormTest {
    private final ProceduresFileForm form = new ProceduresFileForm();

    @Test
    void what_is_written_is_read_again_as_it_was() {
        List<Procedure> all = new ArrayList<>(Procedure.shipped());
        all.add(new Procedure(
                "own-1",
                0,
                "Vault",
                new Procedure.Of(
                        Set.of(Priority.URGENT, Priority.LOW),
                        Set.of("forced"),
                        Rule.Where.at(Set.of(new DoorId("tidewater/vault"))),
                        Set.of(new PersonId("tidewater/ana"))),
                List.of(new Procedure.Step("Look.", true), new Procedure.Step("Say \"stop\".", false, true))));
        assertThat(form.read(form.write(all))).isEqualTo(all);
    }

    @Test
    void what_is_none_is_refused_in_a_sentence_that_says_why() {
        String good = new String(form.write(Procedure.shipped()), StandardCharsets.UTF_8);
        Map.of(
                        "{}",
                        "custodia-procedures",
                        good.replace(": 1", ": 3"),
                        "rule.file-version",
                        good.replace("\"steps\"", "\"stops\""),
                        "nobody knows",
                        good.replaceFirst("\"required\" : true", "\"required\" : 1"),
                        "true or false",
                        "{\"custodia-procedures\": 1, \"procedures\": [{\"id\":\"a\",\"name\":\"A\",\"steps\":[]}]}",
                        "1 to")
                .forEach((text, why) -> assertThatThrownBy(() -> form.read(text.getBytes(StandardCharsets.UTF_8)))
                        .as(text)
                        .isInstanceOf(AlarmException.class)
                        .hasMessageContaining(why));
    }
}
