package org.custodia.store;

import java.sql.SQLException;
import java.util.function.UnaryOperator;
import javax.sql.DataSource;
import org.flywaydb.core.Flyway;
import org.flywaydb.core.api.FlywayException;
import org.flywaydb.core.api.configuration.FluentConfiguration;

/** Brings the tables of a log into the form of today. */
final class LogSchema {
    private final Dialect dialect;
    private final UnaryOperator<FluentConfiguration> connection;
    private final StoreWords words;

    LogSchema(Dialect dialect, DataSource source, StoreWords words) {
        this(dialect, flyway -> flyway.dataSource(source), words);
    }

    /**
     * @param connection adds to a configuration how to connect
     */
    LogSchema(Dialect dialect, UnaryOperator<FluentConfiguration> connection, StoreWords words) {
        this.dialect = dialect;
        this.connection = connection;
        this.words = words;
    }

    /**
     * @param target the form to bring the tables into, or "latest"
     * @throws DataDirectoryException if they come from a newer Custodia or cannot be changed
     */
    void migrate(String target) {
        Flyway flyway = flyway(target);
        try {
            var applied = flyway.info().applied();
            int newest = newest(flyway);
            for (var migration : applied) {
                if (migration.getVersion() != null
                        && Integer.parseInt(migration.getVersion().toString()) > newest) {
                    throw new DataDirectoryException(
                            words.subject() + " was written by a newer Custodia (its version "
                                    + migration.getVersion() + ", this program knows " + newest
                                    + "). Start that newer program, or choose another directory with --data.",
                            null);
                }
            }
            flyway.migrate();
        } catch (FlywayException e) {
            throw new DataDirectoryException(
                    words.subject() + " could not be made ready" + why(e) + ". " + words.whereNotReady(), e);
        }
    }

    private static int newest(Flyway flyway) {
        int newest = 0;
        for (var migration : flyway.info().all()) {
            if (migration.getScript() != null && migration.getState().isResolved()) {
                newest =
                        Math.max(newest, Integer.parseInt(migration.getVersion().toString()));
            }
        }
        return newest;
    }

    private Flyway flyway(String target) {
        return connection
                .apply(Flyway.configure(LogSchema.class.getClassLoader()))
                .locations(dialect.tables())
                .ignoreMigrationPatterns("")
                .target(target)
                .load();
    }

    private String why(Throwable e) {
        for (Throwable cause = e; cause != null; cause = cause.getCause()) {
            if (cause instanceof SQLException sql) {
                return ": " + words.inWords(sql);
            }
        }
        return "";
    }
}
