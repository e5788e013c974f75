package org.custodia.store;

import java.util.Optional;

/** The intake of a log on a server: as in a file. */
class PostgresIntakeTest extends BatchIntakeTest {
    private final Optional<ServerAddress> server = Optional.of(TestServer.fresh());

    @Override
    Optional<ServerAddress> server() {
        return server;
    }
}
