package org.custodia.wire;

import com.fasterxml.jackson.annotation.JsonInclude;
import com.fasterxml.jackson.core.JsonFactory;
import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.core.StreamReadConstraints;
import com.fasterxml.jackson.core.exc.StreamConstraintsException;
import com.fasterxml.jackson.databind.DeserializationFeature;
import com.fasterxml.jackson.databind.JsonMappingException;
import com.fasterxml.jackson.databind.MapperFeature;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.SerializationFeature;
import com.fasterxml.jackson.databind.cfg.CoercionAction;
import com.fasterxml.jackson.databind.cfg.CoercionInputShape;
import com.fasterxml.jackson.databind.cfg.JsonNodeFeature;
import com.fasterxml.jackson.databind.exc.MismatchedInputException;
import com.fasterxml.jackson.databind.json.JsonMapper;
import com.fasterxml.jackson.databind.type.LogicalType;
import com.fasterxml.jackson.datatype.jdk8.Jdk8Module;
import com.fasterxml.jackson.datatype.jsr310.JavaTimeModule;

/** JSON as it crosses a link: bounded, strict about types, tolerant of names it does not know. */
public final class Wire {
    /** The protocol version this code speaks. */
    public static final int VERSION = 1;
    /** The longest single event, live or from the backlog, in bytes of UTF-8. */
    public static final int LONGEST_EVENT = 256 * 1024;
    /** The longest other answer, in bytes. */
    public static final int LONGEST_ANSWER = 8 * 1024 * 1024;
    /** How deep objects and lists may lie in each other. */
    public static final int DEEPEST = 20;

    private static final ObjectMapper MAPPER = JsonMapper.builder(JsonFactory.builder()
                    .streamReadConstraints(StreamReadConstraints.builder()
                            .maxNestingDepth(DEEPEST)
                            .maxStringLength(LONGEST_EVENT)
                            .maxNumberLength(400)
                            .build())
                    .build())
            .addModule(new JavaTimeModule())
            .addModule(new Jdk8Module())
            .disable(SerializationFeature.WRITE_DATES_AS_TIMESTAMPS)
            .disable(SerializationFeature.WRITE_DURATIONS_AS_TIMESTAMPS)
            .disable(DeserializationFeature.FAIL_ON_UNKNOWN_PROPERTIES)
            .enable(DeserializationFeature.FAIL_ON_NULL_FOR_PRIMITIVES)
            .enable(DeserializationFeature.FAIL_ON_TRAILING_TOKENS)
            // Numbers are kept as they were written.
            .enable(DeserializationFeature.USE_BIG_DECIMAL_FOR_FLOATS)
            .disable(JsonNodeFeature.STRIP_TRAILING_BIGDECIMAL_ZEROES)
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
            throw wrong(e);
        }
    }

    /** Says in our own words where a message is not what it should be; never with the parser's, nor with the content. */
    static WireException wrong(JsonProcessingException e) {
        if (e instanceof JsonMappingException mapping && !mapping.getPath().isEmpty()) {
            StringBuilder where = new StringBuilder();
            for (JsonMappingException.Reference step : mapping.getPath()) {
                if (step.getFieldName() != null) {
                    where.append(where.isEmpty() ? "" : ".").append(step.getFieldName());
                } else {
                    where.append('[').append(step.getIndex()).append(']');
                }
            }
            return new WireException("its field \"" + where + "\" is missing or not what it should be");
        }
        if (e instanceof StreamConstraintsException) {
            return new WireException("it is longer or deeper than a message may be");
        }
        if (e instanceof MismatchedInputException) {
            return new WireException("it is not a JSON object, or more follows it");
        }
        return new WireException("it is not JSON"
                + (e.getLocation() == null || e.getLocation().getColumnNr() < 1
                        ? ""
                        : " from character " + e.getLocation().getColumnNr() + " on"));
    }
}
