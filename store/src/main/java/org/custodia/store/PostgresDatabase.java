package org.custodia.store;

import java.net.InetAddress;
import java.net.UnknownHostException;
import java.nio.charset.StandardCharsets;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.sql.Timestamp;
import java.time.Duration;
import java.time.Instant;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import java.util.concurrent.Executor;
import java.util.function.UnaryOperator;
import org.custodia.core.saying.Saying;
import org.flywaydb.core.api.configuration.FluentConfiguration;
import org.postgresql.PGProperty;
import org.postgresql.ds.PGSimpleDataSource;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * A log on a PostgreSQL server. One program writes at a time: its connection holds a lock of the server for as long as it
 * lasts, so that whoever has lost the connection can write no more either. A connection that was lost is made again when it
 * is wanted next, with the same lock.
 */
final class PostgresDatabase extends Database {
    private static final Logger LOG = LoggerFactory.getLogger(PostgresDatabase.class);
    private static final int READERS = 6;
    /** The first half of the lock's name; the other is the schema. */
    private static final int LOCK = 0x43757374;

    private static final int LEAST_VERSION = 13;
    private static final int CONNECT_SECONDS = 10;
    /** Tables are made, or brought into a new form, in no more than this. */
    private static final int PREPARE_SECONDS = 3_600;
    /** Whoever else holds a table is not waited for longer than this, in milliseconds. */
    private static final String LOCK_TIMEOUT = "-c lock_timeout=60000";

    /** What a connection that prepares the tables is set to, beside the address. */
    private static final List<PGProperty> PREPARING = List.of(
            PGProperty.APPLICATION_NAME,
            PGProperty.CONNECT_TIMEOUT,
            PGProperty.LOGIN_TIMEOUT,
            PGProperty.SOCKET_TIMEOUT,
            PGProperty.TCP_KEEP_ALIVE,
            PGProperty.OPTIONS);

    /** How long the server may take for one statement of the writer, which writes a few thousand rows at most. */
    private static final int WRITE_SECONDS = 60;

    private static final int READ_SECONDS = 300;
    /**
     * Questions look for few rows among very many: going to them one by one is what they are made for, and what they need
     * lies in memory mostly. Plans are not worth compiling for that.
     */
    private static final String READS =
            "-c default_transaction_read_only=on -c random_page_cost=1.1 -c jit=off -c max_parallel_workers_per_gather=0";

    private static final Duration NOT_AT_ONCE = Duration.ofSeconds(1);
    /** How long what is left of a lost connection of our own may take to go. */
    private static final Duration TO_GO = Duration.ofSeconds(10);

    private static final Duration ENDING = Duration.ofSeconds(1);
    /** Both sides notice within half a minute that the other is gone. */
    private static final String KEEP_ALIVE =
            "-c tcp_keepalives_idle=10 -c tcp_keepalives_interval=5 -c tcp_keepalives_count=3";

    private final ServerAddress address;
    private final StoreWords words;
    private final String id;
    private final String signature;
    private Connection writer;
    private long notBefore = System.nanoTime();
    private Exception whyNot;

    private PostgresDatabase(ServerAddress address, Connection writer, String signature) throws SQLException {
        super(
                Dialect.POSTGRESQL,
                new PostgresWords(address.toString()),
                source(address, signature + " reads", READ_SECONDS, READS),
                READERS,
                Payloads.dictionaries(writer));
        this.address = address;
        this.words = words();
        this.id = LogIdentity.idOf(writer);
        this.signature = signature;
        this.writer = writer;
    }

    static PostgresDatabase open(DataDirectory directory, ServerAddress address) {
        LogIdentity identity = LogIdentity.ofServer(directory.path(), address.toString());
        StoreWords words = new PostgresWords(address.toString());
        String signature = signature();
        try {
            Connection writer = connect(address, signature);
            try {
                sound(writer, words);
                if (identity.id().isPresent() && !isThere(writer)) {
                    throw new DataDirectoryException(
                            "There is no log in " + address
                                    + ", while one there belongs to the data directory " + directory.path()
                                    + ". Look whether the address is right; to begin with an empty log, choose another directory with --data.",
                            null);
                }
                claim(writer, signature, words);
                new LogSchema(
                                Dialect.POSTGRESQL,
                                preparing(
                                        address,
                                        source(address, signature + " prepares", PREPARE_SECONDS, LOCK_TIMEOUT)),
                                words)
                        .migrate("latest");
                Payloads.addCommonDictionary(writer);
                identity.check(writer);
                return new PostgresDatabase(address, writer, signature);
            } catch (SQLException | RuntimeException e) {
                close(writer);
                throw e;
            }
        } catch (SQLException e) {
            throw new DataDirectoryException(
                    words.subject() + " could not be opened: " + words.inWords(e)
                            + ". Look at the address in --database, at the user and the password, and whether the server runs.",
                    e);
        } catch (LogGoneException e) {
            throw new DataDirectoryException(e.saying(), e);
        }
    }

    /** What a connection calls itself on the server: who it is for people, and which running program. */
    private static String signature() {
        String host;
        try {
            host = InetAddress.getLocalHost().getHostName();
        } catch (UnknownHostException e) {
            host = "a machine without a name";
        }
        String name = UUID.randomUUID().toString().substring(0, 8) + " process "
                + ProcessHandle.current().pid() + " on " + host;
        // The server keeps 63 bytes, and Latin letters only; some are left for what the connection does.
        byte[] bytes = name.getBytes(StandardCharsets.US_ASCII);
        return "Custodia " + new String(bytes, 0, Math.min(bytes.length, 44), StandardCharsets.US_ASCII);
    }

    static PGSimpleDataSource source(ServerAddress address, String name, int seconds, String options) {
        PGSimpleDataSource source = new PGSimpleDataSource();
        source.setUrl(address.url());
        address.password().ifPresent(source::setPassword);
        source.setApplicationName(name);
        source.setConnectTimeout(CONNECT_SECONDS);
        source.setLoginTimeout(CONNECT_SECONDS);
        source.setSocketTimeout(seconds);
        source.setTcpKeepAlive(true);
        source.setReWriteBatchedInserts(true);
        String given = source.getOptions() == null ? "" : source.getOptions() + " ";
        // What a question looks for differs so much that its plan is made for what is asked.
        source.setOptions(
                given + KEEP_ALIVE + " -c plan_cache_mode=force_custom_plan -c synchronous_commit=on " + options);
        return source;
    }

    /**
     * How Flyway connects. It looks for passwords in the URL that a connection names, by a pattern that needs seconds for the
     * long one of a data source; so it is given the short address and the rest as properties.
     */
    static UnaryOperator<FluentConfiguration> preparing(ServerAddress address, PGSimpleDataSource source) {
        boolean optionsInUrl = address.url().contains(PGProperty.OPTIONS.getName() + "=");
        if (optionsInUrl) {
            // Those of the URL would be used instead of the ones here.
            return flyway -> flyway.dataSource(source);
        }
        Map<String, String> properties = new HashMap<>();
        for (PGProperty property : PREPARING) {
            properties.put(property.getName(), source.getProperty(property));
        }
        return flyway -> flyway.dataSource(
                        address.url(), source.getUser(), address.password().orElse(null))
                .jdbcProperties(properties);
    }

    private static Connection connect(ServerAddress address, String signature) throws SQLException {
        return source(address, signature, WRITE_SECONDS, "").getConnection();
    }

    /** Whether the server is one that a log can be kept on. */
    private static void sound(Connection connection, StoreWords words) throws SQLException {
        int version = connection.getMetaData().getDatabaseMajorVersion();
        if (version < LEAST_VERSION) {
            throw new DataDirectoryException(
                    words.subject() + " is on a PostgreSQL server of version " + version + "; Custodia needs "
                            + LEAST_VERSION + " or later.",
                    null);
        }
        try (Statement s = connection.createStatement();
                ResultSet row = s.executeQuery(
                        "SELECT current_setting('server_encoding'), current_schema(), pg_is_in_recovery()")) {
            row.next();
            if (!"UTF8".equals(row.getString(1))) {
                throw new DataDirectoryException(
                        words.subject() + " would be in a database with the encoding " + row.getString(1)
                                + ". Make the database with the encoding UTF8.",
                        null);
            }
            if (row.getString(2) == null) {
                throw new DataDirectoryException(
                        words.subject()
                                + " has no schema to be in. Make one for Custodia's user, or name an existing one in the address with currentSchema.",
                        null);
            }
            if (row.getBoolean(3)) {
                throw new DataDirectoryException(
                        words.subject() + " is on a standby server, which cannot be written. Name the primary server.",
                        null);
            }
        }
    }

    private static boolean isThere(Connection connection) throws SQLException {
        try (Statement s = connection.createStatement();
                ResultSet row = s.executeQuery("SELECT to_regclass('identity') IS NOT NULL")) {
            return row.next() && row.getBoolean(1);
        }
    }

    /**
     * Takes the lock of whoever writes.
     *
     * @throws LogGoneException if another program has it; the message says which
     */
    private static void claim(Connection connection, String signature, StoreWords words) throws SQLException {
        long began = System.nanoTime();
        while (!tryLock(connection)) {
            Optional<Holder> holder = holder(connection);
            boolean ours = holder.filter(h -> h.name().equals(signature)).isPresent();
            // One that is just ending may need a moment to be gone.
            if (holder.isPresent() && !ours && System.nanoTime() - began > ENDING.toNanos()) {
                throw new LogGoneException(holder.get().writes(words.where()));
            }
            if (System.nanoTime() - began > TO_GO.toNanos()) {
                throw new SQLException("the lock is not given back", "55P03");
            }
            if (ours) {
                end(connection, holder.get().pid());
            }
            rest(connection);
        }
    }

    private static boolean tryLock(Connection connection) throws SQLException {
        try (PreparedStatement s = connection.prepareStatement(
                "SELECT pg_try_advisory_lock(?, current_schema()::regnamespace::oid::int)")) {
            s.setInt(1, LOCK);
            try (ResultSet row = s.executeQuery()) {
                return row.next() && row.getBoolean(1);
            }
        }
    }

    /** Who has the lock. */
    private record Holder(int pid, String name, Optional<Instant> since) {
        /**
         * Says that it writes the log.
         *
         * @param log where that lies
         */
        Saying writes(String log) {
            // "Custodia", which run of it, and then where it runs.
            String[] parts = name.split(" ", 3);
            if (parts.length < 3) {
                return Saying.of("store.another-writes", log);
            }
            return since.map(t -> Saying.of("store.another-writes-since", log, parts[2], t))
                    .orElseGet(() -> Saying.of("store.another-writes-at", log, parts[2]));
        }
    }

    private static Optional<Holder> holder(Connection connection) throws SQLException {
        String sql = "SELECT a.pid, a.application_name, a.backend_start"
                + " FROM pg_locks l JOIN pg_stat_activity a ON a.pid = l.pid"
                + " WHERE l.locktype = 'advisory' AND l.granted AND l.objsubid = 2 AND l.classid = ?::oid"
                + " AND l.objid = current_schema()::regnamespace::oid"
                + " AND l.database = (SELECT d.oid FROM pg_database d WHERE d.datname = current_database())";
        try (PreparedStatement s = connection.prepareStatement(sql)) {
            s.setLong(1, LOCK);
            try (ResultSet row = s.executeQuery()) {
                return row.next()
                        ? Optional.of(new Holder(
                                row.getInt(1),
                                String.valueOf(row.getString(2)),
                                Optional.ofNullable(row.getTimestamp(3)).map(Timestamp::toInstant)))
                        : Optional.empty();
            }
        }
    }

    /** Ends what is left on the server of a connection that we have lost. */
    private static void end(Connection connection, int pid) throws SQLException {
        try (PreparedStatement s = connection.prepareStatement("SELECT pg_terminate_backend(?)")) {
            s.setInt(1, pid);
            s.execute();
        }
    }

    private static void rest(Connection connection) throws SQLException {
        try (Statement s = connection.createStatement()) {
            s.execute("SELECT pg_sleep(0.1)");
        }
    }

    @Override
    Connection writer() throws SQLException {
        if (writer != null && !writer.isClosed()) {
            return writer;
        }
        // Whoever waits for the lock meanwhile shall not have to wait for the server, one after the other.
        if (System.nanoTime() - notBefore < 0) {
            if (whyNot instanceof LogGoneException gone) {
                throw gone;
            }
            throw (SQLException) whyNot;
        }
        Connection again = null;
        try {
            again = connect(address, signature);
            if (!isThere(again) || !LogIdentity.idOf(again).equals(id)) {
                throw new LogGoneException(Saying.of("store.server-gone", words.where()));
            }
            claim(again, signature, words);
            writer = again;
            LOG.warn("The server of {} is reached again.", address);
            return writer;
        } catch (SQLException | LogGoneException e) {
            close(again);
            whyNot = e;
            notBefore = System.nanoTime() + NOT_AT_ONCE.toNanos();
            throw e;
        }
    }

    @Override
    void failed(SQLException e) {
        if (PostgresWords.connectionIsGone(e)) {
            close(writer);
        }
    }

    @Override
    boolean mayGoUnnoticed() {
        return true;
    }

    @Override
    void stillThere() {
        // Whatever is written is written where the lock is held.
    }

    @Override
    void tryWriting() {
        try (Statement s = writer().createStatement();
                ResultSet row = s.executeQuery(
                        "SELECT pg_is_in_recovery() OR current_setting('transaction_read_only')::bool")) {
            if (row.next() && row.getBoolean(1)) {
                throw new SQLException("read-only", "25006");
            }
        } catch (SQLException e) {
            failed(e);
            throw new DataDirectoryException(words.notStored(e), e);
        }
    }

    /** Ends a connection, without waiting for a server that may not answer. */
    private static void close(Connection connection) {
        try {
            if (connection != null) {
                Executor here = Runnable::run;
                connection.abort(here);
            }
        } catch (SQLException e) {
            LOG.debug("A connection did not close well", e);
        }
    }

    @Override
    void closeWriter() throws SQLException {
        if (writer != null) {
            writer.close();
        }
    }
}
