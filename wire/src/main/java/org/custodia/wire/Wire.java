package org.custodia.wire;

import com.fasterxml.jackson.annotation.JsonInclude;
import com.fasterxml.jackson.core.JsonFactory;
import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.core.StreamReadConstraints;
import com.fasterxml.jackson.databind.DeserializationFeature;
import com.fasterxml.jackson.databind.MapperFeature;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.SerializationFeature;
import com.fasterxml.jackson.databind.cfg.CoercionAction;
import com.fasterxml.jackson.databind.cfg.CoercionInputShape;
import com.fasterxml.jackson.databind.json.JsonMapper;
import com.fasterxml.jackson.databind.type.LogicalType;
import com.fasterxml.jackson.datatype.jdk8.Jdk8Module;
import com.fasterxml.jackson.datatype.jsr310.JavaTimeModule;

/** JSON as it crosses a link: bounded, strict about types, tolerant of names it does not know. */
public final class Wire {
    /** The protocol version this code speaks. */
    public static final int VERSION = 1;
    /** The longest single event, in characters; longer ones are not read. */
    public static final int LONGEST_EVENT = 64 * 1024;
    /** The longest other answer, in bytes. */
    public static final int LONGEST_ANSWER = 32 * 1024 * 1024;

    private static final ObjectMapper MAPPER = JsonMapper.builder(JsonFactory.builder()
                    .streamReadConstraints(StreamReadConstraints.builder()
                            .maxNestingDepth(20)
                            .maxStringLength(LONGEST_EVENT)
                            .maxNumberLength(40)
                            .build())
                    .build())
            .addModule(new JavaTimeModule())
            .addModule(new Jdk8Module())
            .disable(SerializationFeature.WRITE_DATES_AS_TIMESTAMPS)
            .disable(SerializationFeature.WRITE_DURATIONS_AS_TIMESTAMPS)
            .disable(DeserializationFeature.FAIL_ON_UNKNOWN_PROPERTIES)
            .enable(DeserializationFeature.FAIL_ON_NULL_FOR_PRIMITIVES)
            .enable(DeserializationFeature.FAIL_ON_TRAILING_TOKENS)
            .disable(DeserializationFeature.ACCEPT_FLOAT_AS_INT)
            .disable(MapperFeature.ALLOW_COERCION_OF_SCALARS)
            .withCoercionConfig(LogicalType.Textual, c -> c.setCoercion(CoercionInputShape.Integer, CoercionAction.Fail)
                    .setCoercion(CoercionInputShape.Float, CoercionAction.Fail)
                    .setCoercion(CoercionInputShape.Boolean, CoercionAction.Fail))
            .defaultPropertyInclusion(
                    JsonInclude.Value.construct(JsonInclude.Include.NON_EMPTY, JsonInclude.Include.ALWAYS))
            .build();

    private Wire() {}

    /** The mapper, for reading and writing streams. */
    public static ObjectMapper mapper() {
        return MAPPER;
    }

    public static String write(Object message) {
        try {
            return MAPPER.writeValueAsString(message);
        } catch (JsonProcessingException e) {
            throw new IllegalStateException("a message of our own could not be written", e);
        }
    }

    /**
     * Reads one message.
     *
     * @throws WireException if it is not that; the message says where it went wrong, without the content
     */
    public static <T> T read(String json, Class<T> type) {
        if (json.length() > LONGEST_ANSWER) {
            throw new WireException("longer than " + LONGEST_ANSWER + " characters");
        }
        try {
            T value = MAPPER.readValue(json, type);
            if (value == null) {
                throw new WireException("it is empty");
            }
            return value;
        } catch (JsonProcessingException e) {
            throw new WireException(e.getOriginalMessage()
                    + (e.getLocation() == null
                            ? ""
                            : " at character " + e.getLocation().getColumnNr()));
        }
    }
}
