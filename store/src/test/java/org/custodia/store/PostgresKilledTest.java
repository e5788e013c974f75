package org.custodia.store;

import java.util.Optional;

/** Killed while it writes to a log on a server. */
class PostgresKilledTest extends KilledDuringIntakeTest {
    private final Optional<ServerAddress> server = Optional.of(TestServer.fresh());

    @Override
    Optional<ServerAddress> server() {
        return server;
    }

    @Override
    int rounds() {
        return 2;
    }
}
