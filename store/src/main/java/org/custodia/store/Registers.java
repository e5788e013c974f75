package org.custodia.store;

import com.fasterxml.jackson.core.JsonGenerator;
import com.fasterxml.jackson.core.JsonParser;
import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.DeserializationContext;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.SerializationFeature;
import com.fasterxml.jackson.databind.SerializerProvider;
import com.fasterxml.jackson.databind.deser.std.StdDeserializer;
import com.fasterxml.jackson.databind.json.JsonMapper;
import com.fasterxml.jackson.databind.module.SimpleModule;
import com.fasterxml.jackson.databind.ser.std.StdSerializer;
import com.fasterxml.jackson.datatype.jdk8.Jdk8Module;
import com.fasterxml.jackson.datatype.jsr310.JavaTimeModule;
import java.io.IOException;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import org.custodia.core.access.Credential;
import org.jooq.Condition;
import org.jooq.Field;
import org.jooq.Record;
import org.jooq.Table;
import org.jooq.impl.DSL;

/** Versioned records: every change ends one version and begins the next; nothing is overwritten. */
public final class Registers {
    private static final Table<Record> REGISTER = DSL.table("register");
    private static final Field<String> KIND = DSL.field("kind", String.class);
    private static final Field<String> ID = StoredText.column("id");
    private static final Field<Long> VERSION = DSL.field("version", Long.class);
    private static final Field<Long> FROM = DSL.field("valid_from", Long.class);
    private static final Field<Long> TO = DSL.field("valid_to", Long.class);
    private static final Field<String> PAYLOAD = DSL.field("payload", String.class);

    private static final ObjectMapper JSON = JsonMapper.builder()
            .addModule(new JavaTimeModule())
            .addModule(new Jdk8Module())
            .addModule(words())
            .disable(SerializationFeature.WRITE_DATES_AS_TIMESTAMPS)
            .enable(SerializationFeature.ORDER_MAP_ENTRIES_BY_KEYS)
            .build();

    /** Open kinds are stored as words, in capitals as long as there were only three of them. */
    private static SimpleModule words() {
        SimpleModule module = new SimpleModule();
        module.addSerializer(Credential.Kind.class, new StdSerializer<>(Credential.Kind.class) {
            private static final long serialVersionUID = 1L;

            @Override
            public void serialize(Credential.Kind kind, JsonGenerator out, SerializerProvider provider)
                    throws IOException {
                out.writeString(kind.id().toUpperCase(Locale.ROOT));
            }
        });
        module.addDeserializer(Credential.Kind.class, new StdDeserializer<>(Credential.Kind.class) {
            private static final long serialVersionUID = 1L;

            @Override
            public Credential.Kind deserialize(JsonParser in, DeserializationContext context) throws IOException {
                return Credential.Kind.of(in.getValueAsString(""));
            }
        });
        return module;
    }

    private final Database database;

    public Registers(Database database) {
        this.database = database;
    }

    /**
     * One version of a record.
     *
     * @param to when it stopped being so; nothing while it is
     */
    public record Version<T>(String id, long version, Instant from, Optional<Instant> to, T value) {}

    /**
     * Makes a register agree with what its source says now: new and changed records get a version, missing ones end.
     *
     * @param prefix only records whose id begins so belong to that source
     * @return how many records changed
     */
    public <T> int replace(String kind, String prefix, Map<String, T> values, Instant at) {
        Map<String, String> wanted = new HashMap<>();
        values.forEach((id, value) -> wanted.put(id, write(value)));
        int[] changes = {0};
        database.write(dsl -> {
            long now = EventRows.micros(at);
            Map<String, Record> current = new HashMap<>();
            dsl.select(ID, VERSION, PAYLOAD)
                    .from(REGISTER)
                    .where(KIND.eq(kind), TO.isNull(), begins(prefix))
                    .forEach(r -> current.put(r.get(ID), r));
            current.forEach((id, record) -> {
                if (!record.get(PAYLOAD).equals(wanted.get(id))) {
                    dsl.update(REGISTER)
                            .set(TO, now)
                            .where(KIND.eq(kind), ID.eq(id), VERSION.eq(record.get(VERSION)))
                            .execute();
                    changes[0]++;
                }
            });
            wanted.forEach((id, payload) -> {
                Record before = current.get(id);
                if (before == null || !before.get(PAYLOAD).equals(payload)) {
                    Long last = dsl.select(DSL.max(VERSION))
                            .from(REGISTER)
                            .where(KIND.eq(kind), ID.eq(id))
                            .fetchOne(DSL.max(VERSION));
                    dsl.insertInto(REGISTER)
                            .columns(KIND, ID, VERSION, FROM, PAYLOAD)
                            .values(kind, id, last == null ? 1 : last + 1, now, payload)
                            .execute();
                    changes[0] += before == null ? 1 : 0;
                }
            });
        });
        return changes[0];
    }

    /** Whether an id begins so, letter by letter: what is like it but for capitals belongs to somebody else. */
    private static Condition begins(String prefix) {
        if (prefix.isEmpty()) {
            return DSL.noCondition();
        }
        char last = prefix.charAt(prefix.length() - 1);
        return ID.ge(prefix).and(ID.lt(prefix.substring(0, prefix.length() - 1) + (char) (last + 1)));
    }

    /** The records that hold now. */
    public <T> List<T> current(String kind, Class<T> type) {
        List<T> result = new ArrayList<>();
        database.reader()
                .select(PAYLOAD)
                .from(REGISTER)
                .where(KIND.eq(kind), TO.isNull())
                .orderBy(ID)
                .forEach(r -> result.add(read(r.value1(), type)));
        return result;
    }

    /** All versions, oldest first within an id. */
    public <T> List<Version<T>> versions(String kind, Class<T> type) {
        List<Version<T>> result = new ArrayList<>();
        database.reader()
                .select(ID, VERSION, FROM, TO, PAYLOAD)
                .from(REGISTER)
                .where(KIND.eq(kind))
                .orderBy(ID, VERSION)
                .forEach(r -> result.add(new Version<>(
                        r.value1(),
                        r.value2(),
                        EventRows.instant(r.value3()),
                        Optional.ofNullable(r.value4()).map(EventRows::instant),
                        read(r.value5(), type))));
        return result;
    }

    private static String write(Object value) {
        try {
            return JSON.writeValueAsString(value);
        } catch (JsonProcessingException e) {
            throw new IllegalStateException("a record could not be written", e);
        }
    }

    private static <T> T read(String payload, Class<T> type) {
        try {
            return JSON.readValue(payload, type);
        } catch (JsonProcessingException e) {
            throw new DataDirectoryException(
                    "A record in the log's file is damaged. Restore the data directory from a backup.", e);
        }
    }
}
