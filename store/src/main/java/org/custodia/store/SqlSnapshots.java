package org.custodia.store;

import com.fasterxml.jackson.core.JsonFactory;
import com.fasterxml.jackson.core.StreamReadConstraints;
import com.fasterxml.jackson.databind.DeserializationFeature;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.SerializationFeature;
import com.fasterxml.jackson.databind.json.JsonMapper;
import com.fasterxml.jackson.datatype.jdk8.Jdk8Module;
import com.fasterxml.jackson.datatype.jsr310.JavaTimeModule;
import com.github.luben.zstd.Zstd;
import com.github.luben.zstd.ZstdException;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.util.Optional;
import org.custodia.core.event.EventLogException;
import org.custodia.core.event.Snapshots;
import org.jooq.Field;
import org.jooq.Record;
import org.jooq.Record3;
import org.jooq.Table;
import org.jooq.exception.DataAccessException;
import org.jooq.impl.DSL;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Snapshots of folded states, beside the log: records as compressed JSON. One that cannot be read is passed over, since it can
 * be folded again. Safe for use by several threads.
 */
public final class SqlSnapshots implements Snapshots {
    private static final Logger LOG = LoggerFactory.getLogger(SqlSnapshots.class);
    private static final Table<Record> SNAPSHOT = DSL.table("snapshot");
    private static final Field<String> NAME = StoredText.column("name");
    private static final Field<Integer> VERSION = DSL.field("version", Integer.class);
    private static final Field<Long> POSITION = DSL.field("position", Long.class);
    private static final Field<byte[]> STATE = DSL.field("state", byte[].class);

    /** Bytes of a state before it is compressed. */
    private static final long LARGEST = 512L * 1024 * 1024;

    private static final ObjectMapper JSON = JsonMapper.builder(JsonFactory.builder()
                    .streamReadConstraints(StreamReadConstraints.builder()
                            .maxStringLength(Integer.MAX_VALUE)
                            .build())
                    .build())
            .addModule(new Jdk8Module())
            .addModule(new JavaTimeModule())
            .disable(SerializationFeature.WRITE_DATES_AS_TIMESTAMPS, SerializationFeature.WRITE_DURATIONS_AS_TIMESTAMPS)
            .enable(DeserializationFeature.FAIL_ON_NULL_CREATOR_PROPERTIES)
            .build();

    private final Database database;

    public SqlSnapshots(Database database) {
        this.database = database;
    }

    @Override
    public <S> Optional<Snapshot<S>> load(String name, int version, Class<S> form) {
        Record3<Integer, Long, byte[]> row;
        try {
            row = database.reader()
                    .select(VERSION, POSITION, STATE)
                    .from(SNAPSHOT)
                    .where(NAME.eq(name))
                    .fetchOne();
        } catch (DataAccessException e) {
            throw new EventLogException(database.words().notRead(e), e);
        }
        if (row == null || row.value1() != version) {
            return Optional.empty();
        }
        try {
            long size = Zstd.getFrameContentSize(row.value3());
            if (size < 0 || size > LARGEST) {
                throw new IOException("its size is " + size);
            }
            byte[] json = Zstd.decompress(row.value3(), (int) size);
            return Optional.of(new Snapshot<>(row.value2(), JSON.readValue(json, form)));
        } catch (IOException | ZstdException e) {
            LOG.warn("The snapshot of {} cannot be read; the log is read again instead.", name, e);
            return Optional.empty();
        }
    }

    @Override
    public <S> void save(String name, int version, long position, S state) {
        byte[] content;
        try {
            content = Zstd.compress(JSON.writeValueAsBytes(state));
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
        database.write(dsl -> dsl.insertInto(SNAPSHOT)
                .columns(NAME, VERSION, POSITION, STATE)
                .values(name, version, position, content)
                .onConflict(NAME)
                .doUpdate()
                .set(VERSION, version)
                .set(POSITION, position)
                .set(STATE, content)
                .execute());
    }
}
