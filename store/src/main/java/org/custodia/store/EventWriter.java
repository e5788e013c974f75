package org.custodia.store;

import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Types;
import java.time.Duration;
import java.time.Instant;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import org.custodia.core.event.Event;
import org.custodia.core.event.Translation;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.ReaderId;
import org.custodia.core.site.Side;

/**
 * Writes events as rows: gives numbers to what repeats, keeps messages apart, and counts by hour and day, all in the caller's
 * transaction. Used on the writing connection, in its turn.
 */
final class EventWriter {
    static final long HOUR = Duration.ofHours(1).toNanos() / 1000;
    static final long DAY = Duration.ofDays(1).toNanos() / 1000;
    private static final int REMEMBERED = 30_000;
    /** Texts that are remembered with their number, since many events share them; longer ones are shared by none. */
    private static final int SHARED = 4_096;

    private static final int LONGEST_SHARED = 1_000;

    private static final String INSERT =
            "INSERT INTO event (position, origin, sequence, time, received, ahead, device, late, occasion, bearer, operator,"
                    + " cause, payload) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)";

    private final Connection connection;
    private final Payloads payloads;
    private final Numbered origins;
    private final Numbered occasions;
    private final Numbered bearers;
    private final Numbered words;
    private final Map<String, Long> shared = new java.util.LinkedHashMap<>(16, 0.75f, true) {
        private static final long serialVersionUID = 1L;

        @Override
        protected boolean removeEldestEntry(Map.Entry<String, Long> eldest) {
            return size() > SHARED;
        }
    };
    private long lastPayload = -1;
    private long dictionary = -1;

    /** What the rows of this transaction add up to. */
    private final Map<Long, Long> newest = new HashMap<>();

    private final Map<Long, Long> ofOccasions = new TreeMap<>();
    private final Map<Count, Long> hours = new HashMap<>();
    private final Map<Count, Long> days = new HashMap<>();
    private final Map<Long, Long> totals = new HashMap<>();
    private PreparedStatement insert;
    private PreparedStatement insertPayload;
    private int waiting;

    private record Count(long span, long occasion) {}

    EventWriter(Connection connection, Dialect dialect, Payloads payloads) {
        this.connection = connection;
        this.payloads = payloads;
        this.origins =
                new Numbered(connection, dialect, "origin", "content", List.of("content", "system", "epoch"), 1_000);
        this.occasions = new Numbered(
                connection,
                dialect,
                "occasion",
                "content",
                List.of(
                        "content",
                        "system",
                        "sent_kind",
                        "sent_reason",
                        "code",
                        "kind",
                        "reason",
                        "door",
                        "controller",
                        "reader",
                        "side"),
                REMEMBERED);
        this.bearers = new Numbered(
                connection, dialect, "bearer", "content", List.of("content", "person", "credential"), REMEMBERED);
        this.words = new Numbered(connection, dialect, "word", "text", List.of("text"), 1_000);
    }

    /** Adds a row; it is written by {@link #flush} at the latest. */
    void add(Event e, long position) throws SQLException {
        if (insert == null) {
            insert = connection.prepareStatement(INSERT);
        }
        long time = EventRows.micros(e.time());
        long ahead = e.offset().toNanos() / 1000;
        long origin = origin(e);
        long occasion = occasion(e);
        insert.setLong(1, position);
        insert.setLong(2, origin);
        insert.setLong(3, e.key().sequence());
        insert.setLong(4, time);
        insert.setLong(5, EventRows.micros(e.received()) - time);
        insert.setLong(6, ahead);
        insert.setLong(7, EventRows.micros(e.deviceTime()) - time - ahead);
        insert.setInt(8, e.late() ? 1 : 0);
        insert.setLong(9, occasion);
        number(10, bearer(e));
        number(11, word(e.operator()));
        number(12, word(e.cause()));
        number(13, payload(e));
        insert.addBatch();
        waiting++;
        newest.merge(origin, time, Math::max);
        ofOccasions.merge(occasion, 1L, Long::sum);
        totals.merge(Math.floorDiv(time, HOUR), 1L, Long::sum);
        hours.merge(new Count(Math.floorDiv(time, HOUR), occasion), 1L, Long::sum);
        days.merge(new Count(Math.floorDiv(time, DAY), occasion), 1L, Long::sum);
    }

    private void number(int place, Optional<Long> value) throws SQLException {
        if (value.isPresent()) {
            insert.setLong(place, value.get());
        } else {
            insert.setNull(place, Types.BIGINT);
        }
    }

    private long origin(Event e) throws SQLException {
        String system = e.key().system().value();
        long epoch = e.key().epoch();
        String content = EventRows.origin(e.key());
        return origins.of(content, content, system, epoch);
    }

    private long occasion(Event e) throws SQLException {
        String system = e.key().system().value();
        String kind = e.kind().id();
        String reason = e.reason().orElse(null);
        String code = e.code().orElse(null);
        String door = e.door().map(DoorId::value).orElse(null);
        String controller = e.controller().map(ControllerId::value).orElse(null);
        String reader = e.reader().map(ReaderId::value).orElse(null);
        String side = e.side().map(Side::name).orElse(null);
        String sentKind = Translation.sentKind(e);
        String sentReason = Translation.sentReason(e).orElse(null);
        String content = Numbered.content(system, sentKind, sentReason, code, door, controller, reader, side);
        return occasions.of(
                content, content, system, sentKind, sentReason, code, kind, reason, door, controller, reader, side);
    }

    private Optional<Long> bearer(Event e) throws SQLException {
        if (e.person().isEmpty() && e.credential().isEmpty()) {
            return Optional.empty();
        }
        String person = e.person().map(PersonId::value).orElse(null);
        String credential = e.credential().orElse(null);
        String content = Numbered.content(person, credential);
        return Optional.of(bearers.of(content, content, person, credential));
    }

    private Optional<Long> word(Optional<String> text) throws SQLException {
        return text.isEmpty() ? Optional.empty() : Optional.of(words.of(text.get(), text.get()));
    }

    private Optional<Long> payload(Event e) throws SQLException {
        Optional<String> text = PayloadText.of(e);
        if (text.isEmpty()) {
            return Optional.empty();
        }
        Long known = shared.get(text.get());
        if (known != null) {
            return Optional.of(known);
        }
        if (lastPayload < 0) {
            lastPayload = highest("payload");
            dictionary = highest("payload_dictionary");
        }
        long id = lastPayload + 1;
        if (insertPayload == null) {
            insertPayload = connection.prepareStatement(
                    "INSERT INTO payload (id, hash, dictionary, content) VALUES (?, ?, ?, ?)");
        }
        insertPayload.setLong(1, id);
        insertPayload.setBytes(2, sha256(text.get()));
        insertPayload.setLong(3, dictionary);
        insertPayload.setBytes(4, payloads.compress(text.get(), dictionary));
        insertPayload.addBatch();
        lastPayload = id;
        if (text.get().length() <= LONGEST_SHARED) {
            shared.put(text.get(), id);
        }
        return Optional.of(id);
    }

    private long highest(String table) throws SQLException {
        try (PreparedStatement s = connection.prepareStatement("SELECT MAX(id) FROM " + table);
                ResultSet row = s.executeQuery()) {
            return row.next() ? row.getLong(1) : 0;
        }
    }

    static byte[] sha256(String text) {
        try {
            return MessageDigest.getInstance("SHA-256").digest(text.getBytes(StandardCharsets.UTF_8));
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException("every Java has SHA-256", e);
        }
    }

    /** Writes what is not written yet, and what it adds up to. */
    void flush() throws SQLException {
        for (Numbered rows : List.of(origins, occasions, bearers, words)) {
            rows.flush();
        }
        if (insertPayload != null) {
            insertPayload.executeBatch();
        }
        if (waiting > 0) {
            insert.executeBatch();
            waiting = 0;
        }
        release();
        pairs("UPDATE origin SET newest = ? WHERE id = ? AND (newest IS NULL OR newest < ?)", newest, true);
        pairs("UPDATE occasion SET events = events + ? WHERE id = ?", ofOccasions, false);
        pairs(
                "INSERT INTO hour_total (events, hour) VALUES (?, ?) ON CONFLICT (hour)"
                        + " DO UPDATE SET events = hour_total.events + excluded.events",
                totals,
                false);
        counts("hour_count", "hour", hours);
        counts("day_count", "day", days);
    }

    private void pairs(String sql, Map<Long, Long> values, boolean again) throws SQLException {
        if (values.isEmpty()) {
            return;
        }
        try (PreparedStatement update = connection.prepareStatement(sql)) {
            for (Map.Entry<Long, Long> value : values.entrySet()) {
                update.setLong(1, value.getValue());
                update.setLong(2, value.getKey());
                if (again) {
                    update.setLong(3, value.getValue());
                }
                update.addBatch();
            }
            update.executeBatch();
        }
        values.clear();
    }

    private void counts(String table, String span, Map<Count, Long> counts) throws SQLException {
        if (counts.isEmpty()) {
            return;
        }
        String sql = "INSERT INTO " + table + " (" + span + ", occasion, events) VALUES (?, ?, ?) ON CONFLICT (" + span
                + ", occasion) DO UPDATE SET events = " + table + ".events + excluded.events";
        try (PreparedStatement add = connection.prepareStatement(sql)) {
            for (Map.Entry<Count, Long> count : counts.entrySet()) {
                add.setLong(1, count.getKey().span());
                add.setLong(2, count.getKey().occasion());
                add.setLong(3, count.getValue());
                add.addBatch();
            }
            add.executeBatch();
        }
        counts.clear();
    }

    /** The time of the newest event of a system; nothing while there is none. */
    Optional<Instant> newest(String system) throws SQLException {
        long result = Long.MIN_VALUE;
        try (PreparedStatement s = connection.prepareStatement("SELECT MAX(newest) FROM origin WHERE system = ?")) {
            s.setString(1, system);
            try (ResultSet row = s.executeQuery()) {
                if (row.next() && row.getObject(1) != null) {
                    result = row.getLong(1);
                }
            }
        }
        return result == Long.MIN_VALUE ? Optional.empty() : Optional.of(EventRows.instant(result));
    }

    /** No statement outlives its transaction: what is left open keeps the log from being copied. */
    private void release() {
        origins.release();
        occasions.release();
        bearers.release();
        words.release();
        close(insert);
        close(insertPayload);
        insert = null;
        insertPayload = null;
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

    /** After a rollback nothing in memory holds any more. */
    void forget() {
        release();
        origins.forget();
        occasions.forget();
        bearers.forget();
        words.forget();
        shared.clear();
        lastPayload = -1;
        newest.clear();
        ofOccasions.clear();
        hours.clear();
        days.clear();
        totals.clear();
        waiting = 0;
    }
}
