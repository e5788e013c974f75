package org.custodia.store;

import java.sql.Connection;
import org.jooq.Condition;
import org.jooq.DSLContext;
import org.jooq.Field;
import org.jooq.Record1;
import org.jooq.SQLDialect;
import org.jooq.Select;
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
