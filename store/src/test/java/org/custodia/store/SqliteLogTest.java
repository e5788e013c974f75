package org.custodia.store;

import java.util.Optional;

/** The log in a file. */
class SqliteLogTest extends SqlLogTest {
    @Override
    Optional<ServerAddress> server() {
        return Optional.empty();
    }
}
