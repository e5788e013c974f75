package org.custodia.store;

import java.util.Optional;

/** Checkpoints of doors on a server: as in a file. */
class PostgresCheckpointsTest extends DoorCheckpointsTest {
    private final Optional<ServerAddress> server = Optional.of(TestServer.fresh());

    @Override
    Optional<ServerAddress> server() {
        return server;
    }
}
