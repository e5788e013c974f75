package org.custodia.store;

import java.sql.Connection;
import java.util.Optional;
import org.jooq.Condition;
import org.jooq.DSLContext;
import org.jooq.Field;
import org.jooq.Record1;
import org.jooq.SQLDialect;
import org.jooq.Select;
import org.jooq.Table;
import org.jooq.impl.DSL;

/** What differs between the databases that a log can lie in, as far as statements go. */
enum Dialect {
    SQLITE(SQLDialect.SQLITE, "sqlite"),
    POSTGRESQL(SQLDialect.POSTGRES, "postgresql");

    private static final char ESCAPE = '\u001b';

    private final SQLDialect words;
    private final String tables;

    Dialect(SQLDialect words, String tables) {
        this.words = words;
        this.tables = tables;
    }

    static Dialect of(SQLDialect dialect) {
        return dialect.family() == SQLDialect.POSTGRES ? POSTGRESQL : SQLITE;
    }

    /** Where the forms of the tables stand, one after the other. */
    String tables() {
        return "classpath:org/custodia/store/schema/" + tables;
    }

    SQLDialect words() {
        return words;
    }

    DSLContext on(Connection connection) {
        return DSL.using(connection, words);
    }

    /**
     * A column in a condition for which no index is to be chosen. SQLite chooses by rules, and would go along an index of
     * everything that ever happened rather than along the few rows that another condition leaves; PostgreSQL knows how many
     * there are.
     */
    <T> Field<T> unindexed(Field<T> column) {
        return this == SQLITE ? DSL.field("+" + column.getName(), column.getType()) : column;
    }

    /**
     * A column that is one of what a question finds, which is found first. PostgreSQL would otherwise think it cheaper to go
     * through the whole table for it.
     */
    Condition found(Field<Long> column, Select<Record1<Long>> question) {
        return this == SQLITE ? column.in(question) : DSL.condition("{0} = any(array({1}))", column, question);
    }

    /** That a row of events is of the occasion that {@link #ofEach} looks at. */
    static final Condition OF_EACH = DSL.condition("e.occasion = n.id");

    /**
     * The occasions of a lead, where the database is better asked for each by itself. PostgreSQL does not know how little lies
     * in a span of each, and would go through all that happened in the span.
     */
    Optional<Select<Record1<Long>>> each(FilterSql.Lead lead) {
        return this == SQLITE ? Optional.empty() : lead.occasions();
    }

    /** What a question finds for each occasion, named {@code n}, by itself. */
    Select<Record1<Long>> ofEach(Select<Record1<Long>> occasions, Select<Record1<Long>> question) {
        return DSL.select(DSL.field("f.position", Long.class))
                .from(DSL.table("({0}) n(id) CROSS JOIN LATERAL ({1}) f(position)", occasions, question));
    }

    /**
     * The rows of what happened at doors, each since its own time. PostgreSQL does not know how little that is, and would go
     * through everything; it is made to look door by door, and to look up the rest for what it found.
     *
     * @param scopes doors, named {@code d}
     */
    Table<?> atDoors(Table<?> scopes) {
        return this == SQLITE
                ? scopes.crossJoin(EventRows.OCCASION).crossJoin(EventRows.EVENT)
                : EventRows.EVENT.leftJoin(EventRows.OCCASION).on("o.id = e.occasion");
    }

    /**
     * Which of the rows of {@link #atDoors} are wanted.
     *
     * @param since the time of each door
     * @param to up to here, in microseconds
     */
    Condition atDoorsSince(Table<?> scopes, Field<Long> since, long to) {
        if (this == SQLITE) {
            return DSL.and(
                    DSL.condition("o.door = d.door"),
                    DSL.condition("e.occasion = o.id"),
                    EventRows.TIME.ge(since),
                    EventRows.TIME.le(to));
        }
        var each = DSL.select(EventRows.OCCASION_ID.as("occasion"), since.as("since"))
                .from(scopes.join(EventRows.OCCASION).on("o.door = d.door"))
                .offset(DSL.inline(0));
        return DSL.condition(
                "e.position = any(array(SELECT f.position FROM ({0}) n CROSS JOIN LATERAL (SELECT x.position FROM event x"
                        + " WHERE x.occasion = n.occasion AND x.time >= n.since AND x.time <= {1} OFFSET 0) f))",
                each, DSL.inline(to));
    }

    /** A text that came from outside, as it can be stored: PostgreSQL takes every character but one. */
    String stored(String text) {
        if (this == SQLITE || text == null || text.indexOf(0) < 0 && text.indexOf(ESCAPE) < 0) {
            return text;
        }
        StringBuilder result = new StringBuilder(text.length() + 8);
        for (int i = 0; i < text.length(); i++) {
            char c = text.charAt(i);
            if (c == 0 || c == ESCAPE) {
                result.append(ESCAPE).append((char) (c + '@'));
            } else {
                result.append(c);
            }
        }
        return result.toString();
    }

    /** The text that was stored. */
    String read(String stored) {
        if (this == SQLITE || stored == null || stored.indexOf(ESCAPE) < 0) {
            return stored;
        }
        StringBuilder result = new StringBuilder(stored.length());
        for (int i = 0; i < stored.length(); i++) {
            char c = stored.charAt(i);
            if (c == ESCAPE && i + 1 < stored.length()) {
                i++;
                c = (char) (stored.charAt(i) - '@');
            }
            result.append(c);
        }
        return result.toString();
    }
}
