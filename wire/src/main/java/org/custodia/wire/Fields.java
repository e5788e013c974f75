package org.custodia.wire;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.time.DateTimeException;
import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;

/**
 * A JSON object as it came over a link, read field by field, so that one that is not what it should be costs itself and
 * nothing else. A field that is absent or null is not there; one of another type than is asked for is not there either and
 * is counted among the odd ones. A number or a truth value where a text is asked for is taken as it is written.
 */
public final class Fields {
    private static final int REPLACEMENT = 0xFFFD;

    private final ObjectNode node;
    private final Set<String> odd = new LinkedHashSet<>();

    private Fields(ObjectNode node) {
        this.node = node;
    }

    /**
     * Reads one object.
     *
     * @throws WireException if it is none; the message says why, without the content
     */
    public static Fields of(String json) {
        JsonNode read;
        try {
            read = Wire.mapper().readTree(json);
        } catch (JsonProcessingException e) {
            throw Wire.wrong(e);
        }
        if (!(read instanceof ObjectNode object)) {
            throw new WireException("it is not a JSON object");
        }
        return new Fields(object);
    }

    private Optional<JsonNode> there(String name) {
        JsonNode value = node.get(name);
        return value == null || value.isNull() || value.isMissingNode() ? Optional.empty() : Optional.of(value);
    }

    private <T> Optional<T> oddity(String name) {
        odd.add(name);
        return Optional.empty();
    }

    /** A text. */
    public Optional<String> text(String name) {
        return there(name).flatMap(v -> v.isValueNode() ? Optional.of(plain(v.asText())) : oddity(name));
    }

    /** A text without halves of characters, which nothing can store; each becomes the replacement character. */
    private static String plain(String text) {
        for (int i = 0; i < text.length(); i++) {
            if (Character.isSurrogate(text.charAt(i))) {
                return replaced(text);
            }
        }
        return text;
    }

    private static String replaced(String text) {
        StringBuilder plain = new StringBuilder(text.length());
        text.codePoints()
                .map(c -> c >= Character.MIN_SURROGATE && c <= Character.MAX_SURROGATE ? REPLACEMENT : c)
                .forEach(plain::appendCodePoint);
        return plain.toString();
    }

    /** Whether a field is there, whatever it says. */
    public boolean has(String name) {
        return there(name).isPresent();
    }

    /** Whether names with values go by that name. */
    public boolean hasMap(String name) {
        return there(name).filter(JsonNode::isObject).isPresent();
    }

    /** A text that is not empty. */
    public Optional<String> word(String name) {
        return text(name).filter(t -> !t.isEmpty());
    }

    /** A whole number. */
    public Optional<Long> number(String name) {
        return there(name)
                .flatMap(v -> v.isIntegralNumber() && v.canConvertToLong() ? Optional.of(v.asLong()) : oddity(name));
    }

    /** True or false. */
    public Optional<Boolean> flag(String name) {
        return there(name).flatMap(v -> v.isBoolean() ? Optional.of(v.asBoolean()) : oddity(name));
    }

    /** An ISO-8601 instant. */
    public Optional<Instant> instant(String name) {
        return there(name).flatMap(v -> {
            try {
                return v.isTextual() ? Optional.of(Instant.parse(v.asText())) : oddity(name);
            } catch (DateTimeException | ArithmeticException e) {
                return oddity(name);
            }
        });
    }

    /** The objects of a list, each by itself; what is no object is counted as odd. */
    public List<Fields> list(String name) {
        List<Fields> result = new ArrayList<>();
        there(name).ifPresent(list -> {
            if (!list.isArray()) {
                odd.add(name);
            }
            for (JsonNode one : list) {
                if (one instanceof ObjectNode object) {
                    result.add(new Fields(object));
                } else {
                    odd.add(name);
                }
            }
        });
        return result;
    }

    /** The texts of a list. */
    public List<String> texts(String name) {
        List<String> result = new ArrayList<>();
        there(name).ifPresent(list -> {
            if (!list.isArray()) {
                odd.add(name);
            }
            for (JsonNode one : list) {
                if (one.isValueNode() && !one.isNull()) {
                    result.add(plain(one.asText()));
                } else {
                    odd.add(name);
                }
            }
        });
        return result;
    }

    /** Names with what is said under each: a text as it is, anything else as JSON writes it. */
    public Map<String, String> map(String name) {
        Map<String, String> result = new TreeMap<>();
        there(name).ifPresent(map -> {
            if (!map.isObject()) {
                odd.add(name);
            }
            map.properties()
                    .forEach(e -> result.put(
                            plain(e.getKey()),
                            plain(
                                    e.getValue().isTextual()
                                            ? e.getValue().asText()
                                            : e.getValue().toString())));
        });
        return result;
    }

    /** Whether a list goes by that name. */
    public boolean hasList(String name) {
        return there(name).filter(JsonNode::isArray).isPresent();
    }

    /** The names of all fields. */
    public List<String> names() {
        List<String> names = new ArrayList<>();
        node.fieldNames().forEachRemaining(names::add);
        return names;
    }

    /** The fields that were not of the type they were asked for as. */
    public List<String> odd() {
        return List.copyOf(odd);
    }

    /** Counts a field as odd for what it says. */
    public void markOdd(String name) {
        odd.add(name);
    }

    /** The object as JSON. */
    public String json() {
        return node.toString();
    }
}
