package org.custodia.store;

import org.custodia.core.event.EventLogException;
import org.custodia.core.event.Marks;
import org.jooq.Field;
import org.jooq.Record;
import org.jooq.Table;
import org.jooq.exception.DataAccessException;
import org.jooq.impl.DSL;

/** How far those have come who go through the log, beside the log. */
public final class SqlMarks implements Marks {
    private static final Table<Record> MARK = DSL.table("log_mark");
    private static final Field<String> WHO = StoredText.column("who");
    private static final Field<Long> POSITION = DSL.field("position", Long.class);

    private final Database database;

    public SqlMarks(Database database) {
        this.database = database;
    }

    @Override
    public long reached(String who) {
        try {
            return database.reader()
                    .select(POSITION)
                    .from(MARK)
                    .where(WHO.eq(who))
                    .fetchOptional(POSITION)
                    .orElse(0L);
        } catch (DataAccessException e) {
            throw new EventLogException(database.words().notRead(e), e);
        }
    }

    @Override
    public void reach(String who, long position) {
        database.write(dsl -> dsl.insertInto(MARK)
                .columns(WHO, POSITION)
                .values(who, position)
                .onConflict(WHO)
                .doUpdate()
                .set(POSITION, position)
                .execute());
    }
}
