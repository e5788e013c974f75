package org.custodia.store;

import java.util.Optional;

/** What lies in the tables on a server: as in a file. */
class PostgresRowsTest extends NarrowRowsTest {
    private final Optional<ServerAddress> server = Optional.of(TestServer.fresh());

    @Override
    Optional<ServerAddress> server() {
        return server;
    }
}
