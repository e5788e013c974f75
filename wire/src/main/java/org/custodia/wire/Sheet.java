package org.custodia.wire;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.nio.ByteBuffer;
import java.nio.charset.CharacterCodingException;
import java.nio.charset.StandardCharsets;
import java.time.DateTimeException;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collection;
import java.util.EnumSet;
import java.util.HashSet;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;
import java.util.stream.Collectors;
import org.custodia.core.alarm.AlarmException;
import org.custodia.core.saying.Saying;

/** What files of rules and procedures are written and read with. What cannot be throws, and says where. */
final class Sheet {
    private static final int MOST_VALUES = 10_000;

    /** Bytes; more is no such file. */
    static final int LARGEST = 4 * 1024 * 1024;

    /** The version of the form that is written, and the only one that is read. */
    static final int VERSION = 1;

    private Sheet() {}

    /**
     * A file of several of a sort.
     *
     * @param mark says what it is a file of, with the version of its form
     */
    static byte[] write(String mark, String list, List<ObjectNode> some) {
        ObjectNode file = Wire.mapper().createObjectNode().put(mark, VERSION);
        ArrayNode all = file.putArray(list);
        some.forEach(all::add);
        try {
            return Wire.mapper().writerWithDefaultPrettyPrinter().writeValueAsBytes(file);
        } catch (JsonProcessingException e) {
            throw new IllegalStateException("a tree can be written", e);
        }
    }

    /**
     * What such a file has.
     *
     * @throws AlarmException if it is none, or of a version that is not known here
     */
    static <T> List<T> read(byte[] file, String mark, String list, Function<JsonNode, T> one, Function<T, String> id) {
        if (file.length > LARGEST) {
            throw odd("it is far too large to be one");
        }
        try {
            String text = StandardCharsets.UTF_8
                    .newDecoder()
                    .decode(ByteBuffer.wrap(file))
                    .toString();
            JsonNode all = Wire.mapper().readTree(text);
            if (!all.path(mark).isInt()) {
                throw odd("it does not say that it is one, by \"" + mark + "\"");
            }
            if (all.path(mark).asInt() != VERSION) {
                throw new AlarmException(
                        Saying.of("rule.file-version", all.path(mark).asInt(), VERSION));
            }
            only(all, "the file", mark, list);
            List<T> read = new ArrayList<>();
            Set<String> ids = new HashSet<>();
            for (JsonNode node : list(all, list)) {
                T value = one.apply(node);
                need(ids.add(id.apply(value)), "\"" + id.apply(value) + "\" is there twice");
                read.add(value);
            }
            return read;
        } catch (CharacterCodingException e) {
            throw odd("it is not a text in UTF-8");
        } catch (JsonProcessingException e) {
            throw odd("it is no JSON at line "
                    + Optional.ofNullable(e.getLocation())
                            .map(l -> String.valueOf(l.getLineNr()))
                            .orElse("1"));
        } catch (IllegalArgumentException | DateTimeException e) {
            throw odd(e.getMessage());
        }
    }

    private static AlarmException odd(String why) {
        return new AlarmException(Saying.of("rule.file-odd", why));
    }

    static String word(Enum<?> value) {
        return value.name().toLowerCase(Locale.ROOT).replace('_', '-');
    }

    static void need(boolean fine, String otherwise) {
        if (!fine) {
            throw new IllegalArgumentException(otherwise);
        }
    }

    static <T> void texts(ObjectNode o, String name, Collection<T> some, Function<T, String> word) {
        if (!some.isEmpty()) {
            ArrayNode all = o.putArray(name);
            some.stream().map(word).sorted().forEach(all::add);
        }
    }

    /** A key that nobody knows is most likely a slip of the pen, and what was meant would be missing in silence. */
    static void only(JsonNode o, String where, String... names) {
        need(o.isMissingNode() || o.isObject(), where + " has something that is no object where there should be one");
        List<String> known = Arrays.asList(names);
        o.fieldNames()
                .forEachRemaining(n -> need(known.contains(n), where + " has a key \"" + n + "\" that nobody knows"));
    }

    static String text(JsonNode o, String name) {
        String text = o.path(name).textValue();
        need(text != null && !text.isBlank(), "there is no \"" + name + "\"");
        return text;
    }

    static boolean flag(JsonNode o, String name, boolean otherwise) {
        need(!o.has(name) || o.path(name).isBoolean(), "\"" + name + "\" is true or false");
        return o.path(name).asBoolean(otherwise);
    }

    static int number(JsonNode o, String name) {
        need(o.path(name).canConvertToInt() && o.path(name).isIntegralNumber(), "\"" + name + "\" is no whole number");
        return o.path(name).intValue();
    }

    static Iterable<JsonNode> list(JsonNode o, String name) {
        JsonNode list = o.path(name);
        need(list.isMissingNode() || list.isArray(), "\"" + name + "\" is no list");
        need(list.size() <= MOST_VALUES, "\"" + name + "\" has more than " + MOST_VALUES + " values");
        return list;
    }

    static <T> Set<T> set(JsonNode o, String name, Function<String, T> read) {
        Set<T> all = new LinkedHashSet<>();
        for (JsonNode one : list(o, name)) {
            need(one.isTextual(), "\"" + name + "\" has something that is no text");
            all.add(read.apply(one.textValue()));
        }
        return all;
    }

    static <E extends Enum<E>> E choice(Class<E> type, String word) {
        return EnumSet.allOf(type).stream()
                .filter(e -> word(e).equals(word))
                .findFirst()
                .orElseThrow(() -> new IllegalArgumentException("\"" + word + "\" is none of "
                        + EnumSet.allOf(type).stream().map(Sheet::word).collect(Collectors.joining(", "))));
    }
}
