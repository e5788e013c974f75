package org.custodia.core.access;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Instant;
import java.util.Optional;
import org.custodia.core.moment.Moment;
import org.custodia.core.site.PersonId;
import org.junit.jupiter.api.Test;

class PeopleAndMomentsTest {
    private static String shortName(String name) {
        return new Person(new PersonId("p"), name, "", "", Optional.empty(), false, Optional.empty()).shortName();
    }

    @Test
    void a_name_is_shortened_where_it_can_be() {
        assertThat(shortName("Juniper Thistlewood")).isEqualTo("J. Thistlewood");
        assertThat(shortName("Ana Maria Solheim")).isEqualTo("A. Solheim");
        assertThat(shortName("Tove")).isEqualTo("Tove");
        assertThat(shortName(" Tove")).isEqualTo(" Tove");
        assertThat(shortName("J B")).isEqualTo("J. B");
    }

    @Test
    void kinds_of_credentials_are_open() {
        assertThat(Credential.Kind.of("CARD")).isEqualTo(Credential.Kind.CARD);
        assertThat(Credential.Kind.of("ring").id()).isEqualTo("ring");
        assertThat(Verdict.of("unsure")).contains(Verdict.UNSURE);
    }

    @Test
    void a_moment_is_now_or_an_instant() {
        Instant now = Instant.parse("2026-11-24T14:00:00Z");
        assertThat(Moment.LIVE.isLive()).isTrue();
        assertThat(Moment.LIVE.at(now)).isEqualTo(now);
        Moment past = new Moment.At(now.minusSeconds(5));
        assertThat(past.isLive()).isFalse();
        assertThat(past.at(now)).isEqualTo(now.minusSeconds(5));
    }
}
