package org.custodia.store;

import io.zonky.test.db.postgres.embedded.EmbeddedPostgres;
import java.io.IOException;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.Optional;
import java.util.concurrent.atomic.AtomicInteger;

/** A PostgreSQL server that is started once for all tests and ends with them; each test has a schema of its own. */
final class TestServer {
    private static final AtomicInteger SCHEMAS = new AtomicInteger();
    private static EmbeddedPostgres server;

    private TestServer() {}

    private static synchronized EmbeddedPostgres server() {
        if (server == null) {
            try {
                server = EmbeddedPostgres.builder()
                        // What is written here need not outlive a power cut.
                        .setServerConfig("fsync", "off")
                        .setServerConfig("max_connections", "80")
                        .setServerConfig("timezone", "Asia/Kathmandu")
                        .start();
                Runtime.getRuntime().addShutdownHook(new Thread(TestServer::stop, "test server ends"));
            } catch (IOException e) {
                throw new IllegalStateException("the test server could not be started", e);
            }
        }
        return server;
    }

    private static void stop() {
        try {
            server.close();
        } catch (IOException e) {
            // It is a child of this process.
        }
    }

    /** The address of an empty schema. */
    static ServerAddress fresh() {
        return at("log_" + SCHEMAS.incrementAndGet());
    }

    private static ServerAddress at(String schema) {
        execute("CREATE SCHEMA " + schema);
        return at(port(), "postgres", "&currentSchema=" + schema);
    }

    /** The address of a database by way of some port. */
    static ServerAddress at(int port, String database, String more) {
        return as("postgres", port, database, more);
    }

    static ServerAddress as(String user, int port, String database, String more) {
        return ServerAddress.of(
                "jdbc:postgresql://localhost:" + port + "/" + database + "?user=" + user + more, Optional.empty());
    }

    static int port() {
        return server().getPort();
    }

    /** Does something as the server's administrator. */
    static void execute(String sql) {
        try (Connection connection = admin();
                Statement s = connection.createStatement()) {
            s.execute(sql);
        } catch (SQLException e) {
            throw new IllegalStateException(e);
        }
    }

    static Connection admin() throws SQLException {
        return server().getPostgresDatabase().getConnection();
    }
}
