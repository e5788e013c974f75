package org.custodia.store;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.util.Optional;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;

class ServerAddressTest {
    @ParameterizedTest
    @CsvSource({
        "jdbc:postgresql://server:5433/custodia?user=custodia, the database custodia on server:5433",
        "jdbc:postgresql://server/custodia, the database custodia on server:5432",
        "'jdbc:postgresql://a:5432,b:5432/log', 'the database log on a,b'",
        "jdbc:postgresql:log, the database log on localhost:5432"
    })
    void it_says_where_the_log_is(String url, String words) {
        ServerAddress address = ServerAddress.of(url, Optional.of("hush-hush"));
        assertThat(address).hasToString(words);
        assertThat(address.url()).isEqualTo(url);
        assertThat(address.password()).contains("hush-hush");
    }

    @ParameterizedTest
    @ValueSource(
            strings = {
                "jdbc:postgresql://h/c?user=u&password=hush-hush",
                "jdbc:postgresql://h/c?PassWord=hush-hush",
                "jdbc:postgresql://u:hush-hush@h/c"
            })
    void a_password_in_it_is_refused_and_not_repeated(String url) {
        assertThatThrownBy(() -> ServerAddress.of(url, Optional.empty()))
                .isInstanceOf(IllegalArgumentException.class)
                .hasMessageContaining("must not hold the password")
                .hasMessageContaining(ServerAddress.PASSWORD)
                .hasMessageNotContaining("hush-hush");
    }

    @ParameterizedTest
    @ValueSource(strings = {"", "oracle", "jdbc:sqlite:x", "http://h/c"})
    void other_databases_are_refused(String url) {
        assertThatThrownBy(() -> ServerAddress.of(url, Optional.empty()))
                .isInstanceOf(IllegalArgumentException.class)
                .hasMessageContaining("on PostgreSQL servers only")
                .hasMessageContaining("jdbc:postgresql://host:5432/custodia");
    }

    @ParameterizedTest
    @ValueSource(strings = {"jdbc:postgresql://h:0x9/c", "jdbc:postgresql://h:99999/c", "jdbc:postgresql://h/%zz"})
    void what_cannot_be_understood_is_said(String url) {
        assertThatThrownBy(() -> ServerAddress.of(url, Optional.empty()))
                .isInstanceOf(IllegalArgumentException.class)
                .hasMessageContaining("cannot be understood");
    }

    @Test
    void an_at_sign_further_on_is_no_password() {
        assertThat(ServerAddress.of("jdbc:postgresql://h/c?user=u@example", Optional.empty())
                        .password())
                .isEmpty();
    }
}
