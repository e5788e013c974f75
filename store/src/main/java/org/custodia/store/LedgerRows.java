package org.custodia.store;

import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.util.HashMap;
import java.util.LinkedHashSet;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.Ledger;
import org.custodia.core.event.NumberRanges;
import org.custodia.core.site.SystemId;

/**
 * The ledgers of all systems, read from the database when first asked for and saved with what they tell of. Used on the
 * writing connection, in its turn.
 */
final class LedgerRows {
    private static final String HELD = "held";
    private static final String MISSING = "missing";
    private static final int REMEMBERED = 200;

    private final Connection connection;
    private final Map<Name, Ledger> ledgers = new HashMap<>();
    private final Map<Name, Integer> again = new HashMap<>();
    private final Set<Name> touched = new LinkedHashSet<>();

    /** An epoch of a system; as the log has it. */
    private record Name(SystemId system, long epoch) {}

    LedgerRows(Connection connection) {
        this.connection = connection;
    }

    /** The ledger under the log's own epoch; whoever changes it calls {@link #save} in the same transaction. */
    Ledger of(SystemId system, long epoch) throws SQLException {
        Name name = new Name(system, epoch);
        touched.add(name);
        Ledger ledger = ledgers.get(name);
        if (ledger == null) {
            ledger = load(name);
            ledgers.put(name, ledger);
        }
        return ledger;
    }

    private Ledger load(Name name) throws SQLException {
        Ledger ledger = new Ledger();
        String sql = "SELECT state, first, last FROM number_range WHERE system = ? AND epoch = ?";
        try (PreparedStatement select = connection.prepareStatement(sql)) {
            select.setString(1, name.system().value());
            select.setLong(2, name.epoch());
            try (ResultSet rows = select.executeQuery()) {
                while (rows.next()) {
                    (rows.getString(1).equals(HELD) ? ledger.held() : ledger.missing())
                            .add(rows.getLong(2), rows.getLong(3));
                }
            }
        }
        ledger.held().takeChanges();
        ledger.missing().takeChanges();
        return ledger;
    }

    /** How often a system has begun to count again within an epoch. */
    int timesAgain(SystemId system, long epoch) throws SQLException {
        Name name = new Name(system, epoch);
        Integer known = again.get(name);
        if (known == null) {
            String sql = "SELECT MAX(times) FROM counts_again WHERE system = ? AND epoch = ?";
            try (PreparedStatement select = connection.prepareStatement(sql)) {
                select.setString(1, system.value());
                select.setLong(2, epoch);
                try (ResultSet row = select.executeQuery()) {
                    known = row.next() ? row.getInt(1) : 0;
                }
            }
            again.put(name, known);
        }
        return known;
    }

    /** The epoch under which the log keeps what a system sends in an epoch of its own. */
    long logsEpoch(SystemId system, long epoch) throws SQLException {
        return EventKey.again(epoch, timesAgain(system, epoch));
    }

    /** Begins to count again: everything up to the base is as it was. */
    void countAgain(SystemId system, long epoch, long base) throws SQLException {
        int times = Math.min(timesAgain(system, epoch) + 1, EventKey.MOST_AGAIN);
        String sql = "INSERT INTO counts_again (system, epoch, times, base) VALUES (?, ?, ?, ?) ON CONFLICT DO NOTHING";
        try (PreparedStatement insert = connection.prepareStatement(sql)) {
            insert.setString(1, system.value());
            insert.setLong(2, epoch);
            insert.setInt(3, times);
            insert.setLong(4, base);
            insert.executeUpdate();
        }
        again.put(new Name(system, epoch), times);
        if (base > 0) {
            of(system, EventKey.again(epoch, times)).held().add(1, base);
        }
    }

    /** The highest epoch, as the system numbers it, of which anything is held. */
    Optional<Long> newestEpoch(SystemId system) throws SQLException {
        String sql = "SELECT MAX(epoch & ?) FROM number_range WHERE system = ?";
        try (PreparedStatement select = connection.prepareStatement(sql)) {
            select.setLong(1, EventKey.HIGHEST_EPOCH);
            select.setString(2, system.value());
            try (ResultSet row = select.executeQuery()) {
                long epoch = row.next() ? row.getLong(1) : 0;
                return row.wasNull() ? Optional.empty() : Optional.of(epoch);
            }
        }
    }

    /** Writes what has changed. */
    void save() throws SQLException {
        for (Name name : touched) {
            Ledger ledger = ledgers.get(name);
            save(name, HELD, ledger.held());
            save(name, MISSING, ledger.missing());
        }
        touched.clear();
    }

    private void save(Name name, String state, NumberRanges ranges) throws SQLException {
        Map<Long, Long> changes = ranges.takeChanges();
        if (changes.isEmpty()) {
            return;
        }
        String write = "INSERT INTO number_range (system, epoch, state, first, last) VALUES (?, ?, ?, ?, ?)"
                + " ON CONFLICT (system, epoch, state, first) DO UPDATE SET last = excluded.last";
        String erase = "DELETE FROM number_range WHERE system = ? AND epoch = ? AND state = ? AND first = ?";
        try (PreparedStatement insert = connection.prepareStatement(write);
                PreparedStatement delete = connection.prepareStatement(erase)) {
            for (Map.Entry<Long, Long> change : changes.entrySet()) {
                PreparedStatement statement = change.getValue() == null ? delete : insert;
                statement.setString(1, name.system().value());
                statement.setLong(2, name.epoch());
                statement.setString(3, state);
                statement.setLong(4, change.getKey());
                if (change.getValue() != null) {
                    statement.setLong(5, change.getValue());
                }
                statement.executeUpdate();
            }
        }
    }

    /** Keeps memory bounded where a system begins one epoch after another; between transactions only. */
    void trim() {
        if (touched.isEmpty() && ledgers.size() > REMEMBERED) {
            ledgers.clear();
            again.clear();
        }
    }

    /** Forgets what is in memory: after a rollback it is not what is stored. */
    void forget() {
        ledgers.clear();
        again.clear();
        touched.clear();
    }
}
