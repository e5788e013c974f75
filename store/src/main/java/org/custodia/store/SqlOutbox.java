package org.custodia.store;

import java.time.Instant;
import java.util.Collection;
import java.util.HashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import java.util.function.Function;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventLogException;
import org.custodia.core.message.Occasion;
import org.custodia.core.message.Outbox;
import org.custodia.core.saying.Saying;
import org.jooq.Condition;
import org.jooq.DSLContext;
import org.jooq.Field;
import org.jooq.OrderField;
import org.jooq.Record;
import org.jooq.Table;
import org.jooq.exception.DataAccessException;
import org.jooq.impl.DSL;

/** The messages that are under way, beside the log. Safe for use by several threads. */
public final class SqlOutbox implements Outbox {
    private static final Table<Record> OUTBOX = DSL.table("outbox");
    private static final Field<Long> NUMBER = DSL.field("number", Long.class);
    private static final Field<String> ID = DSL.field("id", String.class);
    private static final Field<String> ALARM = StoredText.column("alarm");
    private static final Field<Long> RAISED = DSL.field("raised", Long.class);
    private static final Field<String> RECEIVER = DSL.field("receiver", String.class);
    private static final Field<String> OCCASION = DSL.field("occasion", String.class);
    private static final Field<Long> MADE = DSL.field("made", Long.class);
    private static final Field<String> STATE = DSL.field("state", String.class);
    private static final Field<Integer> ATTEMPTS = DSL.field("attempts", Integer.class);
    private static final Field<Integer> MAYBE = DSL.field("maybe", Integer.class);
    private static final Field<Long> NEXT = DSL.field(DSL.name("next"), Long.class);
    private static final Field<String> SAID = StoredText.column("said");
    /** One address a line. */
    private static final Field<String> REMAINING = StoredText.column("remaining");

    private static final Field<Long> CHANGED = DSL.field("changed", Long.class);
    private static final List<Field<?>> ALL = List.of(
            NUMBER, ID, ALARM, RAISED, RECEIVER, OCCASION, MADE, STATE, ATTEMPTS, MAYBE, NEXT, SAID, REMAINING,
            CHANGED);

    private static final Pattern WORD = Pattern.compile("([a-z]+)(?: ([0-9]{1,9}))?");

    private final Database database;
    private final BatchIntake intake;

    /**
     * @param intake commits what came of messages together with the events recording it
     */
    public SqlOutbox(Database database, BatchIntake intake) {
        this.database = database;
        this.intake = intake;
    }

    /** As {@link Outbox#due}. */
    private static Condition due(Instant now) {
        return STATE.eq(word(State.WAITING)).and(NEXT.le(micros(now)).or(NEXT.gt(micros(now.plus(LONGEST_AHEAD)))));
    }

    /** Of people, not of systems. */
    private static Condition people() {
        return RECEIVER.notLike(SYSTEM + "%");
    }

    /** An occasion, and from the second call of an alarm on which of them. */
    private static String word(Slip slip) {
        return slip.occasion().word() + (slip.call() == 1 ? "" : " " + slip.call());
    }

    private static String word(State state) {
        return state.name();
    }

    private static long micros(Instant at) {
        return EventRows.micros(at);
    }

    @Override
    public void put(Collection<Slip> slips, Instant now) {
        database.write(dsl -> {
            for (Slip slip : slips) {
                dsl.insertInto(OUTBOX)
                        .columns(ID, ALARM, RAISED, RECEIVER, OCCASION, MADE, STATE, ATTEMPTS, MAYBE, NEXT, CHANGED)
                        .values(
                                UUID.randomUUID().toString(),
                                slip.alarm().text(),
                                micros(slip.raised()),
                                slip.receiver(),
                                word(slip),
                                micros(now),
                                word(State.WAITING),
                                0,
                                0,
                                micros(now),
                                micros(now))
                        .onConflict(ALARM, RECEIVER, OCCASION)
                        .doNothing()
                        .execute();
            }
        });
    }

    @Override
    public Set<String> receiversDue(Instant now) {
        return ask(dsl -> new LinkedHashSet<>(
                dsl.selectDistinct(RECEIVER).from(OUTBOX).where(due(now)).fetch(RECEIVER)));
    }

    @Override
    public List<Entry> due(String receiver, Instant now, int most) {
        return entries(due(now).and(RECEIVER.eq(receiver)), NUMBER.asc(), most);
    }

    private List<Entry> entries(Condition which, OrderField<Long> order, int most) {
        return ask(dsl -> dsl.select(ALL).from(OUTBOX).where(which).orderBy(order).limit(most).fetch().stream()
                .flatMap(r -> entry(r).stream())
                .toList());
    }

    /** What stands there; nothing where another version has written what this one does not know. */
    private static Optional<Entry> entry(Record r) {
        Optional<EventKey> alarm = EventKey.parse(r.get(ALARM));
        Matcher word = WORD.matcher(r.get(OCCASION));
        Optional<Occasion> occasion = word.matches() ? Occasion.of(word.group(1)) : Optional.empty();
        if (alarm.isEmpty() || occasion.isEmpty()) {
            return Optional.empty();
        }
        return Optional.of(new Entry(
                r.get(NUMBER),
                r.get(ID),
                new Slip(
                        alarm.get(),
                        EventRows.instant(r.get(RAISED)),
                        r.get(RECEIVER),
                        occasion.get(),
                        word.group(2) == null ? 1 : Integer.parseInt(word.group(2))),
                EventRows.instant(r.get(MADE)),
                State.valueOf(r.get(STATE)),
                r.get(ATTEMPTS),
                r.get(MAYBE) != 0,
                EventRows.instant(r.get(NEXT)),
                Optional.ofNullable(r.get(SAID)).flatMap(Saying::parse),
                Optional.ofNullable(r.get(REMAINING))
                        .map(t -> t.lines().toList())
                        .orElse(List.of()),
                EventRows.instant(r.get(CHANGED))));
    }

    @Override
    public void begin(Entry entry, Instant now) {
        database.write(dsl -> dsl.update(OUTBOX)
                .set(ATTEMPTS, entry.attempts() + 1)
                .set(MAYBE, 1)
                .set(CHANGED, micros(now))
                .where(NUMBER.eq(entry.number()))
                .execute());
    }

    @Override
    public void end(Entry entry, Result result, Instant now, List<Event.Builder> facts) {
        Database.Work work = dsl -> dsl.update(OUTBOX)
                .set(STATE, word(result.state()))
                .set(MAYBE, result.maybe() ? 1 : 0)
                .set(NEXT, micros(result.next()))
                .set(SAID, result.said().map(Saying::text).orElse(null))
                .set(REMAINING, result.remaining().isEmpty() ? null : String.join("\n", result.remaining()))
                .set(CHANGED, micros(now))
                .where(NUMBER.eq(entry.number()))
                .execute();
        if (facts.isEmpty()) {
            database.write(work);
        } else {
            intake.commit(work, facts);
        }
    }

    @Override
    public void remove(Entry entry) {
        database.write(
                dsl -> dsl.deleteFrom(OUTBOX).where(NUMBER.eq(entry.number())).execute());
    }

    @Override
    public void hurry(String receiver, Instant now) {
        database.write(dsl -> dsl.update(OUTBOX)
                .set(NEXT, micros(now))
                .where(STATE.eq(word(State.WAITING)))
                .and(RECEIVER.eq(receiver))
                .and(NEXT.gt(micros(now)))
                .execute());
    }

    @Override
    public List<Entry> all(int most) {
        List<Entry> all =
                new java.util.ArrayList<>(entries(people().and(STATE.eq(word(State.WAITING))), NUMBER.asc(), most));
        if (all.size() < most) {
            all.addAll(entries(people().and(STATE.ne(word(State.WAITING))), NUMBER.desc(), most - all.size()));
        }
        return all;
    }

    @Override
    public List<Entry> of(EventKey alarm) {
        return entries(ALARM.eq(alarm.text()), NUMBER.asc(), 1_000);
    }

    @Override
    public Optional<Entry> entry(long number) {
        return entries(NUMBER.eq(number), NUMBER.asc(), 1).stream().findFirst();
    }

    @Override
    public Map<String, Fares> fares() {
        Field<Integer> waiting = DSL.count(DSL.when(STATE.eq(word(State.WAITING)), 1));
        Field<Long> oldest = DSL.min(DSL.when(STATE.eq(word(State.WAITING)), MADE));
        Field<Long> sent = DSL.max(DSL.when(STATE.eq(word(State.SENT)), CHANGED));
        return ask(dsl -> {
            Map<String, Fares> all = new HashMap<>();
            dsl.select(RECEIVER, waiting, oldest, sent)
                    .from(OUTBOX)
                    .where(people())
                    .groupBy(RECEIVER)
                    .forEach(r -> all.put(
                            r.value1(),
                            new Fares(
                                    r.value2(),
                                    Optional.ofNullable(r.value3()).map(EventRows::instant),
                                    Optional.ofNullable(r.value4()).map(EventRows::instant))));
            return all;
        });
    }

    @Override
    public void forget(Instant before) {
        database.write(dsl -> dsl.deleteFrom(OUTBOX)
                .where(STATE.ne(word(State.WAITING)))
                .and(CHANGED.lt(micros(before)))
                .execute());
    }

    private <T> T ask(Function<DSLContext, T> question) {
        try {
            return question.apply(database.reader());
        } catch (DataAccessException e) {
            throw new EventLogException(database.words().notRead(e), e);
        }
    }
}
