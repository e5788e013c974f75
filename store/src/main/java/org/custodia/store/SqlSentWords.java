package org.custodia.store;

import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;
import org.custodia.core.event.EventLogException;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.SentWords;
import org.custodia.core.event.Translation;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.SystemId;
import org.jooq.DSLContext;
import org.jooq.Field;
import org.jooq.Record;
import org.jooq.Table;
import org.jooq.exception.DataAccessException;
import org.jooq.impl.DSL;

/** What systems called what they sent, from the occasions of the log, of which there are few however many events. */
public final class SqlSentWords implements SentWords {
    private static final Table<Record> OCCASION = DSL.table("occasion");
    private static final Table<Record> TRANSLATION = DSL.table("translation");
    private static final Table<Record> UNREAD = DSL.table("unread");
    private static final Field<String> SYSTEM = DSL.field("system", String.class);
    private static final Field<String> SENT_KIND = StoredText.column("sent_kind");
    private static final Field<String> SENT_REASON = StoredText.column("sent_reason");
    private static final Field<String> CODE = StoredText.column("code");
    private static final Field<String> KIND = StoredText.column("kind");
    private static final Field<String> REASON = StoredText.column("reason");
    private static final Field<Long> EVENTS = DSL.field("events", Long.class);
    private static final Field<Long> VERSION = DSL.field("version", Long.class);
    private static final Field<String> RULES = DSL.field("rules", String.class);
    private static final Field<Long> MADE = DSL.field("made", Long.class);
    private static final Field<String> OPERATOR = StoredText.column("operator");
    private static final Field<Long> RECEIVED = DSL.field("received", Long.class);
    private static final Field<String> RAW = StoredText.column("raw");
    private static final Field<String> WHY = StoredText.column("why");

    private static final int MOST_REASONS = 12;
    /** Characters of a message that are shown. */
    private static final int SHOWN = 2_000;

    private final Database database;

    public SqlSentWords(Database database) {
        this.database = database;
    }

    /** What is being put together of one kind and code. */
    private static final class Together {
        private long events;
        private String means;
        private final Set<String> reasons = new LinkedHashSet<>();
        private final Set<Optional<String>> because = new HashSet<>();
    }

    private record Key(String kind, Optional<String> code) {}

    @Override
    public List<Sent> sent(SystemId system) {
        Map<Key, Together> all = new LinkedHashMap<>();
        ask(dsl -> {
            Field<Long> sum = DSL.sum(EVENTS).cast(Long.class);
            dsl.select(SENT_KIND, CODE, SENT_REASON, KIND, REASON, sum)
                    .from(OCCASION)
                    .where(SYSTEM.eq(system.value()))
                    .groupBy(SENT_KIND, CODE, SENT_REASON, KIND, REASON)
                    .having(DSL.sum(EVENTS).gt(BigDecimal.ZERO))
                    .orderBy(sum.desc())
                    .limit(MOST)
                    .forEach(r -> {
                        Together one = all.computeIfAbsent(
                                new Key(r.value1(), Optional.ofNullable(r.value2())), k -> new Together());
                        one.events += r.value6();
                        one.means = r.value4();
                        one.because.add(Optional.ofNullable(r.value5()));
                        if (r.value3() != null && one.reasons.size() < MOST_REASONS) {
                            one.reasons.add(r.value3());
                        }
                    });
            return all;
        });
        List<Sent> result = new ArrayList<>();
        all.forEach((key, one) -> result.add(new Sent(
                key.kind(),
                key.code(),
                List.copyOf(one.reasons),
                Kinds.of(one.means),
                one.because.size() == 1 ? one.because.iterator().next() : Optional.empty(),
                one.events)));
        return result;
    }

    @Override
    public List<Made> versions(SystemId system) {
        return ask(dsl -> dsl.select(VERSION, RULES, MADE, OPERATOR)
                .from(TRANSLATION)
                .where(SYSTEM.eq(system.value()))
                .orderBy(VERSION.desc())
                .fetch(r -> new Made(
                        new Translation(system, r.value1(), TranslationRows.read(r.value2())),
                        EventRows.instant(r.value3()),
                        r.value4())));
    }

    @Override
    public NotUnderstood notUnderstood(SystemId system, int most) {
        return ask(dsl -> new NotUnderstood(
                dsl.fetchCount(UNREAD, SYSTEM.eq(system.value())),
                dsl.select(RECEIVED, RAW, WHY)
                        .from(UNREAD)
                        .where(SYSTEM.eq(system.value()))
                        .orderBy(DSL.field("id").desc())
                        .limit(most)
                        .fetch(r -> new Kept(
                                EventRows.instant(r.value1()),
                                r.value2().length() > SHOWN ? r.value2().substring(0, SHOWN) : r.value2(),
                                Saying.parse(r.value3()).orElse(Saying.quoted(r.value3()))))));
    }

    private <T> T ask(Function<DSLContext, T> question) {
        try {
            return question.apply(database.reader());
        } catch (DataAccessException e) {
            throw new EventLogException(database.words().notRead(e), e);
        }
    }
}
