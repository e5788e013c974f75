package org.custodia.store;

import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.sql.Types;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.custodia.core.door.DoorCheckpoint;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventIntake.Batch;
import org.custodia.core.event.EventIntake.Unread;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.Ledger;
import org.custodia.core.event.NumberRanges;
import org.custodia.core.event.Provenance;
import org.custodia.core.event.TimeOrder;
import org.custodia.core.event.Translation;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.SystemId;
import org.jooq.DSLContext;

/**
 * What is written in one transaction: which events are new, what their times are, which say something else than was stored
 * under their key, and which gaps they close. What it remembers from one transaction to the next is made again from the
 * database after one that failed. Used on the writing connection, in its turn.
 */
final class IntakeTransaction {
    /** Characters of a message that are kept; a message within the limits of the protocol is never cut. */
    private static final int LONGEST_RAW = 300 * 1024;
    /** Stored events whose times are looked at again after a start. */
    private static final int LOOK_BACK = 3_000;
    /** Epochs that are kept in memory; few systems ever begin a second one. */
    private static final int REMEMBERED = 200;
    /** Keys that lie closer together than this are looked up in one go. */
    private static final long TOGETHER = 20_000;

    private final Connection connection;
    private final Dialect dialect;
    private final DSLContext dsl;
    private final SqlEventLog log;
    private final LedgerRows ledgers;
    private final EventWriter writer;
    private final Payloads payloads;
    private final Map<SystemId, Instant> newest = new HashMap<>();
    private final Map<String, TimeOrder> orders = new HashMap<>();
    private final TranslationRows translations;
    private long position = -1;
    private long ownSequence = -1;

    private final List<Event> fresh = new ArrayList<>();

    IntakeTransaction(Connection connection, Dialect dialect, SqlEventLog log, Payloads payloads) {
        this.connection = connection;
        this.dialect = dialect;
        this.dsl = dialect.on(connection);
        this.log = log;
        this.ledgers = new LedgerRows(connection);
        this.writer = new EventWriter(connection, dialect, payloads);
        this.payloads = payloads;
        this.translations = new TranslationRows(connection, dialect);
    }

    /** Whether it writes on this connection. */
    boolean on(Connection other) {
        return connection == other;
    }

    LedgerRows ledgers() {
        return ledgers;
    }

    void begin() throws SQLException {
        if (position < 0) {
            position = log.newestPosition();
            ownSequence = log.newestOwnNumber();
        }
        if (orders.size() > REMEMBERED) {
            orders.clear();
        }
        ledgers.trim();
    }

    /** Ends the work before the commit: what was written, in the order of its positions. */
    List<Event> finish() throws SQLException {
        writer.flush();
        SqlDoorCheckpoints.throwAway(
                connection,
                dialect,
                fresh.stream()
                        .flatMap(e -> DoorCheckpoint.Touched.by(e).stream())
                        .toList());
        ledgers.save();
        List<Event> written = List.copyOf(fresh);
        fresh.clear();
        return written;
    }

    /** After a rollback nothing in memory holds any more. */
    void forget() {
        position = -1;
        newest.clear();
        orders.clear();
        ledgers.forget();
        translations.forget();
        fresh.clear();
        writer.forget();
    }

    /** An epoch of a system as it is counted now. */
    private static final class Counted {
        private final int times;
        private final long logsEpoch;
        private final Ledger ledger;
        private final TimeOrder order;
        /** Numbers that were not held before. */
        private final List<Long> filled = new ArrayList<>();

        Counted(int times, long logsEpoch, Ledger ledger, TimeOrder order) {
            this.times = times;
            this.logsEpoch = logsEpoch;
            this.ledger = ledger;
            this.order = order;
        }
    }

    private Counted counted(SystemId system, long epoch, Map<Long, Counted> known) throws SQLException {
        Counted here = known.get(epoch);
        if (here == null) {
            int times = ledgers.timesAgain(system, epoch);
            long logsEpoch = EventKey.again(epoch, times);
            here = new Counted(times, logsEpoch, ledgers.of(system, logsEpoch), order(system, logsEpoch));
            known.put(epoch, here);
        }
        return here;
    }

    void deliver(SystemId system, Batch batch) throws SQLException {
        Map<Long, Counted> epochs = new HashMap<>();
        Map<EventKey, Event> stored = stored(
                system,
                batch.events().stream()
                        .filter(e -> e.key().system().equals(system))
                        .toList(),
                epochs);
        Map<EventKey, Event> inThis = new HashMap<>();
        for (Event sent : batch.events()) {
            if (!sent.key().system().equals(system)) {
                // An event is its own system's, whatever it says.
                keep(Unread.of(system, sent.received(), sent.raw(), Saying.of("unread.other-system")));
                continue;
            }
            Event event = translations.translate(sent);
            take(event, batch.backlog(), counted(system, event.key().epoch(), epochs), stored, inThis);
        }
        for (Unread unread : batch.unread()) {
            boolean own = unread.system().equals(system)
                    && unread.key().filter(k -> !k.system().equals(system)).isEmpty();
            if (!own) {
                keep(Unread.of(system, unread.received(), unread.raw(), unread.why()));
                continue;
            }
            keep(unread);
            if (unread.key().isPresent()) {
                EventKey key = unread.key().get();
                counted(system, key.epoch(), epochs).filled.add(key.sequence());
            }
        }
        Instant at = batch.events().isEmpty()
                ? batch.unread().isEmpty()
                        ? Instant.EPOCH
                        : batch.unread().get(0).received()
                : batch.events().get(0).received();
        for (Map.Entry<Long, Counted> epoch : epochs.entrySet()) {
            Counted counted = epoch.getValue();
            if (counted.ledger.missing().isEmpty()) {
                continue;
            }
            for (NumberRanges.Range gap : counted.ledger.closed(counted.filled)) {
                own(aboutNumbers(Kinds.GAP_CLOSED, at, system, epoch.getKey(), gap.first(), gap.last()));
            }
        }
    }

    private void take(
            Event event, boolean backlog, Counted counted, Map<EventKey, Event> stored, Map<EventKey, Event> inThis)
            throws SQLException {
        SystemId system = event.key().system();
        if (!Provenance.mayWrite(system, Kinds.of(Translation.sentKind(event)))) {
            keep(new Unread(
                    system,
                    Optional.of(event.key()),
                    event.received(),
                    event.raw(),
                    Saying.of("unread.own-kind", event.kind().id())));
            return;
        }
        long epoch = event.key().epoch();
        long sequence = event.key().sequence();
        int times = counted.times;
        EventKey key = times == 0 ? event.key() : new EventKey(system, counted.logsEpoch, sequence);
        boolean newNumber = counted.ledger.hold(sequence);
        if (newNumber) {
            counted.filled.add(sequence);
        }
        if (!newNumber || times > 0) {
            Optional<Event> before = before(key, stored, inThis);
            for (int t = times - 1; t >= 0 && before.isEmpty(); t--) {
                // What a restored system still has of the time before is the same event.
                before = before(new EventKey(system, EventKey.again(epoch, t), sequence), stored, inThis)
                        .filter(e -> e.saysTheSameAs(event));
            }
            if (before.isPresent()) {
                if (!before.get().saysTheSameAs(event)) {
                    conflict(key, event);
                }
                return;
            }
            if (!newNumber && times > 0 && sequence <= base(system, epoch, times)) {
                conflict(key, event);
                return;
            }
        }
        Event placed = counted.order.place(
                times == 0 ? event : event.toBuilder().key(key).build(), backlog);
        Instant last = newest(system);
        boolean late = !backlog && last != null && placed.time().isBefore(last);
        Event marked = late ? placed.toBuilder().late(true).build() : placed;
        if (last == null || placed.time().isAfter(last)) {
            newest.put(system, placed.time());
        }
        inThis.put(key, add(marked));
    }

    private long base(SystemId system, long epoch, int times) throws SQLException {
        String sql = "SELECT base FROM counts_again WHERE system = ? AND epoch = ? AND times = ?";
        try (PreparedStatement select = connection.prepareStatement(sql)) {
            select.setString(1, system.value());
            select.setLong(2, epoch);
            select.setInt(3, times);
            try (var row = select.executeQuery()) {
                return row.next() ? row.getLong(1) : 0;
            }
        }
    }

    private static Optional<Event> before(EventKey key, Map<EventKey, Event> stored, Map<EventKey, Event> inThis) {
        Event here = inThis.get(key);
        return Optional.ofNullable(here != null ? here : stored.get(key));
    }

    /** The events that are stored under the keys of a batch. */
    private Map<EventKey, Event> stored(SystemId system, List<Event> events, Map<Long, Counted> epochs)
            throws SQLException {
        Map<Long, List<Long>> held = new HashMap<>();
        for (Event event : events) {
            long epoch = event.key().epoch();
            long sequence = event.key().sequence();
            Counted counted = counted(system, epoch, epochs);
            if (counted.ledger.held().contains(sequence)) {
                held.computeIfAbsent(counted.logsEpoch, e -> new ArrayList<>()).add(sequence);
            }
            for (int t = 0; t < counted.times; t++) {
                long logs = EventKey.again(epoch, t);
                if (ledgers.of(system, logs).held().contains(sequence)) {
                    held.computeIfAbsent(logs, e -> new ArrayList<>()).add(sequence);
                }
            }
        }
        Map<EventKey, Event> result = new HashMap<>();
        for (Map.Entry<Long, List<Long>> epoch : held.entrySet()) {
            List<Long> numbers = epoch.getValue().stream().sorted().distinct().toList();
            int from = 0;
            while (from < numbers.size()) {
                int to = from;
                while (to + 1 < numbers.size() && numbers.get(to + 1) - numbers.get(from) < TOGETHER) {
                    to++;
                }
                EventRows.list(
                                dsl.select(EventRows.ALL)
                                        .from(EventRows.whole())
                                        .where(
                                                EventRows.ofOrigin(system, epoch.getKey()),
                                                EventRows.SEQUENCE.between(numbers.get(from), numbers.get(to))),
                                payloads)
                        .forEach(e -> result.put(e.key(), e));
                from = to + 1;
            }
        }
        return result;
    }

    /** How events of an epoch are put in order; what was stored last is taken in first. */
    private TimeOrder order(SystemId system, long epoch) {
        return orders.computeIfAbsent(system.value() + " " + epoch, k -> {
            TimeOrder order = new TimeOrder();
            EventRows.list(
                            dsl.select(EventRows.ALL)
                                    .from(EventRows.whole())
                                    .where(EventRows.ofOrigin(system, epoch))
                                    .orderBy(EventRows.SEQUENCE.desc())
                                    .limit(LOOK_BACK),
                            payloads)
                    .forEach(order::remember);
            return order;
        });
    }

    private Instant newest(SystemId system) throws SQLException {
        Instant known = newest.get(system);
        if (known == null) {
            known = writer.newest(system.value()).orElse(null);
            if (known != null) {
                newest.put(system, known);
            }
        }
        return known;
    }

    /** Keeps what could not be understood; its number counts as held. */
    void keep(Unread unread) throws SQLException {
        if (unread.key().isPresent()) {
            EventKey key = unread.key().get();
            ledgers.of(key.system(), ledgers.logsEpoch(key.system(), key.epoch()))
                    .hold(key.sequence());
        }
        String raw = unread.raw().length() > LONGEST_RAW ? unread.raw().substring(0, LONGEST_RAW) : unread.raw();
        String sql =
                "INSERT INTO unread (system, epoch, sequence, received, raw, why, content) VALUES (?, ?, ?, ?, ?, ?, ?)"
                        + " ON CONFLICT (system, content) DO UPDATE SET times = unread.times + 1";
        try (PreparedStatement statement = connection.prepareStatement(sql)) {
            statement.setString(1, unread.system().value());
            if (unread.key().isPresent()) {
                statement.setLong(2, unread.key().get().epoch());
                statement.setLong(3, unread.key().get().sequence());
            } else {
                statement.setNull(2, Types.BIGINT);
                statement.setNull(3, Types.BIGINT);
            }
            statement.setLong(4, EventRows.micros(unread.received()));
            statement.setString(5, dialect.stored(raw));
            statement.setString(6, dialect.stored(unread.why().text()));
            statement.setBytes(7, EventWriter.sha256(unread.raw()));
            statement.executeUpdate();
        }
    }

    private void conflict(EventKey key, Event other) throws SQLException {
        String sql =
                "INSERT INTO conflict (system, epoch, sequence, content) VALUES (?, ?, ?, ?) ON CONFLICT DO NOTHING";
        try (PreparedStatement statement = connection.prepareStatement(sql)) {
            statement.setString(1, key.system().value());
            statement.setLong(2, key.epoch());
            statement.setLong(3, key.sequence());
            statement.setBytes(4, EventWriter.sha256(content(other)));
            if (statement.executeUpdate() == 0) {
                return;
            }
        }
        Event.Builder conflict = Event.of(key, Kinds.CONFLICT, other.received())
                .detail("system", key.system().value())
                .detail("about", key.text())
                .detail("other-kind", other.kind().id())
                .detail("other-time", other.deviceTime().toString())
                .raw(other.raw());
        other.door().ifPresent(d -> conflict.detail("other-door", d.value()));
        own(conflict);
    }

    /** Everything that was sent, without the order and the spaces it was sent with. */
    private static String content(Event e) {
        Instant time = e.detail(Event.UNREAL).isPresent() ? Instant.EPOCH : e.deviceTime();
        return String.join(
                "\n",
                time.toString(),
                e.kind().id(),
                e.door().toString(),
                e.controller().toString(),
                e.reader().toString(),
                e.side().toString(),
                e.person().toString(),
                e.credential().toString(),
                e.reason().toString(),
                e.code().toString(),
                e.cause().toString(),
                new java.util.TreeMap<>(e.sentDetails()).toString());
    }

    /** Puts numbers down as missing; each new stretch is an event. */
    List<NumberRanges.Range> missing(SystemId system, long epoch, NumberRanges.Range numbers, String reason, Instant at)
            throws SQLException {
        Ledger ledger = ledgers.of(system, ledgers.logsEpoch(system, epoch));
        List<NumberRanges.Range> missing = ledger.miss(numbers.first(), numbers.last());
        for (NumberRanges.Range gap : missing) {
            own(aboutNumbers(Kinds.GAP, at, system, epoch, gap.first(), gap.last())
                    .reason(reason));
        }
        return missing;
    }

    void countsAgain(SystemId system, long epoch, long base, Instant at) throws SQLException {
        long logsEpoch = ledgers.logsEpoch(system, epoch);
        long before = ledgers.of(system, logsEpoch).coverage(epoch, logsEpoch).highest();
        if (before <= base) {
            return;
        }
        ledgers.countAgain(system, epoch, base);
        own(aboutNumbers(Kinds.COUNTS_AGAIN, at, system, epoch, base, before));
    }

    private static Event.Builder aboutNumbers(
            EventKind kind, Instant at, SystemId system, long epoch, long from, long to) {
        return Event.of(new EventKey(SystemId.CUSTODIA, 1, 0), kind, at)
                .detail("system", system.value())
                .detail("epoch", Long.toString(epoch))
                .detail("from", Long.toString(from))
                .detail("to", Long.toString(to));
    }

    /** Stores what is Custodia's own under the next key of its own. */
    Event own(Event.Builder builder) throws SQLException {
        ownSequence++;
        return add(builder.key(new EventKey(SystemId.CUSTODIA, 1, ownSequence)).build());
    }

    /** Changes registers within this transaction. */
    void edit(Database.Work edit) {
        edit.run(dsl);
    }

    TranslationRows translations() {
        return translations;
    }

    /** Changes what is meant by what a system sends. */
    Translation translate(SystemId system, long basedOn, List<Translation.Rule> rules, String operator, Instant at)
            throws SQLException {
        Translation translation = translations.change(system, basedOn, rules, operator, at);
        own(Event.of(new EventKey(SystemId.CUSTODIA, 1, 0), Kinds.TRANSLATED, at)
                .operator(operator)
                .detail("system", system.value())
                .detail("version", Long.toString(translation.version())));
        return translation;
    }

    private Event add(Event event) throws SQLException {
        position++;
        writer.add(event, position);
        Event stored = event.toBuilder().position(position).build();
        fresh.add(stored);
        return stored;
    }
}
