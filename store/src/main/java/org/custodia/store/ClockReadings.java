package org.custodia.store;

import java.time.Duration;
import org.custodia.core.footage.ClockBook;
import org.custodia.core.site.SystemId;
import org.jooq.Field;
import org.jooq.Record;
import org.jooq.Table;
import org.jooq.impl.DSL;

/** Clock measurements, kept so that footage of past days is corrected by what was measured then. */
public final class ClockReadings {
    private static final Table<Record> READING = DSL.table("clock_reading");
    private static final Field<String> SYSTEM = DSL.field("system", String.class);
    private static final Field<Long> AT = DSL.field("at", Long.class);
    private static final Field<Long> AHEAD = DSL.field("ahead", Long.class);
    private static final Field<Long> UNCERTAINTY = DSL.field("uncertainty", Long.class);
    private static final Field<Long> ROUND_TRIP = DSL.field("round_trip", Long.class);

    private final Database database;

    public ClockReadings(Database database) {
        this.database = database;
    }

    /** A book with all that was kept. */
    public ClockBook load() {
        ClockBook book = new ClockBook();
        database.reader()
                .select(SYSTEM, AT, AHEAD, UNCERTAINTY)
                .from(READING)
                .forEach(r -> book.restore(new ClockBook.Estimate(
                        new SystemId(r.value1()),
                        EventRows.instant(r.value2()),
                        Duration.ofNanos(r.value3() * 1000),
                        Duration.ofNanos(r.value4() * 1000))));
        return book;
    }

    /** Keeps an estimate in place of the one of the same instant. */
    public void keep(ClockBook.Estimate estimate) {
        long uncertainty = estimate.uncertainty().toNanos() / 1000;
        database.write(dsl -> dsl.insertInto(READING)
                .columns(SYSTEM, AT, AHEAD, ROUND_TRIP, UNCERTAINTY)
                .values(
                        estimate.system().value(),
                        EventRows.micros(estimate.at()),
                        estimate.ahead().toNanos() / 1000,
                        2 * uncertainty,
                        uncertainty)
                .onConflict(SYSTEM, AT)
                .doUpdate()
                .set(AHEAD, estimate.ahead().toNanos() / 1000)
                .set(UNCERTAINTY, uncertainty)
                .execute());
    }
}
