package org.custodia.store;

import java.util.Optional;

/** Registers on a server: as in a file. */
class PostgresRegistersTest extends RegistersTest {
    private final Optional<ServerAddress> server = Optional.of(TestServer.fresh());

    @Override
    Optional<ServerAddress> server() {
        return server;
    }
}
