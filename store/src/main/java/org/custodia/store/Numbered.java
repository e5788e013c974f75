package org.custodia.store;

import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;

/**
 * A table that gives numbers to what repeats. The numbers used last are remembered; after a rollback they are forgotten. Used
 * on the writing connection, in its turn.
 */
final class Numbered {
    private static final char NEXT = '\u001f';
    private static final char ESCAPE = '\u001b';

    private final Connection connection;
    private final Dialect dialect;
    private final String select;
    private final String insert;
    private final String newest;
    private final int columns;
    private final Map<String, Long> known;
    /** Rows that wait to be written by {@link #flush}, by their content. */
    private final Map<String, Long> waiting = new HashMap<>();

    private PreparedStatement selecting;
    private PreparedStatement inserting;
    private long last = -1;

    /**
     * @param content the column that is different in each row
     * @param columns all columns that are filled, in the order in which their values are handed in
     * @param remembered rows that are remembered
     */
    Numbered(
            Connection connection,
            Dialect dialect,
            String table,
            String content,
            List<String> columns,
            int remembered) {
        this.connection = connection;
        this.dialect = dialect;
        this.columns = columns.size();
        this.select = "SELECT id FROM " + table + " WHERE " + content + " = ?";
        this.insert = "INSERT INTO " + table + " (id, " + String.join(", ", columns) + ") VALUES (?"
                + ", ?".repeat(columns.size()) + ")";
        this.newest = "SELECT MAX(id) FROM " + table;
        this.known = new LinkedHashMap<>(16, 0.75f, true) {
            private static final long serialVersionUID = 1L;

            @Override
            protected boolean removeEldestEntry(Map.Entry<String, Long> eldest) {
                return size() > remembered;
            }
        };
    }

    /** One text for several, no two the same; absent is not the same as empty. */
    static String content(String... parts) {
        StringBuilder text = new StringBuilder(160);
        for (String part : parts) {
            if (part != null) {
                text.append('+');
                if (part.indexOf(NEXT) < 0 && part.indexOf(ESCAPE) < 0) {
                    text.append(part).append(NEXT);
                    continue;
                }
                for (int i = 0; i < part.length(); i++) {
                    char c = part.charAt(i);
                    if (c == NEXT || c == ESCAPE) {
                        text.append(ESCAPE).append((char) (c + '@'));
                    } else {
                        text.append(c);
                    }
                }
            }
            text.append(NEXT);
        }
        return text.toString();
    }

    /**
     * The number of a row, which is made if there is none; one that is made is written by {@link #flush} at the latest.
     *
     * @param values of the columns, null where there is none
     */
    long of(String content, Object... values) throws SQLException {
        Long number = known.get(content);
        if (number == null) {
            // More may be new in one transaction than is remembered.
            number = waiting.containsKey(content) ? waiting.get(content) : stored(content);
            if (number == null) {
                number = add(values);
                waiting.put(content, number);
            }
            known.put(content, number);
        }
        return number;
    }

    private Long stored(String content) throws SQLException {
        if (selecting == null) {
            selecting = connection.prepareStatement(select);
        }
        selecting.setString(1, dialect.stored(content));
        try (ResultSet row = selecting.executeQuery()) {
            return row.next() ? row.getLong(1) : null;
        }
    }

    private long add(Object... values) throws SQLException {
        if (values.length != columns) {
            throw new IllegalArgumentException("this table has " + columns + " columns, not " + values.length);
        }
        if (last < 0) {
            try (PreparedStatement max = connection.prepareStatement(newest);
                    ResultSet row = max.executeQuery()) {
                last = row.next() ? row.getLong(1) : 0;
            }
        }
        if (inserting == null) {
            inserting = connection.prepareStatement(insert);
        }
        inserting.setLong(1, last + 1);
        for (int i = 0; i < values.length; i++) {
            inserting.setObject(i + 2, values[i] instanceof String text ? dialect.stored(text) : values[i]);
        }
        inserting.addBatch();
        last++;
        return last;
    }

    /** Writes the rows that wait, together. */
    void flush() throws SQLException {
        if (!waiting.isEmpty()) {
            inserting.executeBatch();
            waiting.clear();
        }
    }

    /** Ends the statements that are kept for the work of one transaction. */
    void release() {
        close(selecting);
        close(inserting);
        selecting = null;
        inserting = null;
    }

    /** After a rollback: what is in memory is not what is stored. */
    void forget() {
        known.clear();
        waiting.clear();
        last = -1;
        release();
    }

    private static void close(PreparedStatement statement) {
        try {
            if (statement != null) {
                statement.close();
            }
        } catch (SQLException e) {
            // It went with the transaction.
        }
    }
}
