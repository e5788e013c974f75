package org.custodia.store;

import java.util.Optional;

/** The log on a server. */
class PostgresLogTest extends SqlLogTest {
    @Override
    Optional<ServerAddress> server() {
        return Optional.of(TestServer.fresh());
    }

    @Override
    int questions() {
        // It takes longer to think about each.
        return 80;
    }
}
