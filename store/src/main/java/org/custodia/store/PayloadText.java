package org.custodia.store;

import com.fasterxml.jackson.core.JsonFactory;
import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.core.StreamReadConstraints;
import com.fasterxml.jackson.core.type.TypeReference;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.json.JsonMapper;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import org.custodia.core.event.Event;
import org.custodia.core.event.Translation;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.ReaderId;
import org.custodia.core.site.SystemId;

/**
 * Message and details of an event as one text, in which marks stand for what the event's row holds already: its number, its
 * time, its door and so on. So the messages of most events are the same text, and what is left of the others is short. A
 * message comes back letter by letter as it was.
 */
final class PayloadText {
    /** What was stored is read again, whatever its size: it was bounded when it came. */
    static final ObjectMapper JSON = JsonMapper.builder(JsonFactory.builder()
                    .streamReadConstraints(StreamReadConstraints.builder()
                            .maxNameLength(Integer.MAX_VALUE)
                            .maxStringLength(Integer.MAX_VALUE)
                            .maxNumberLength(Integer.MAX_VALUE)
                            .build())
                    .build())
            .build();

    private static final TypeReference<Map<String, String>> MAP = new TypeReference<>() {};
    /** Between the details and the message. */
    private static final char THEN = '\u001e';
    /** Before a message that is kept as it came. */
    private static final char AS_IT_CAME = '\u001f';

    /** What a row holds of an event, as systems write it; the place in the enumeration is the mark. */
    private enum Held {
        SEQUENCE("seq") {
            @Override
            String of(Event e) {
                return Long.toString(e.key().sequence());
            }
        },
        TIME("time") {
            @Override
            String of(Event e) {
                return e.deviceTime().toString();
            }
        },
        DOOR("door") {
            @Override
            String of(Event e) {
                return own(e, e.door().map(DoorId::value));
            }
        },
        CONTROLLER("controller") {
            @Override
            String of(Event e) {
                return own(e, e.controller().map(ControllerId::value));
            }
        },
        READER("reader") {
            @Override
            String of(Event e) {
                return e.reader().map(ReaderId::value).orElse(null);
            }
        },
        PERSON("person") {
            @Override
            String of(Event e) {
                return own(e, e.person().map(PersonId::value));
            }
        },
        CREDENTIAL("credential") {
            @Override
            String of(Event e) {
                return e.credential().orElse(null);
            }
        },
        CAUSE("cause") {
            @Override
            String of(Event e) {
                return e.cause().orElse(null);
            }
        };

        private final String key;

        Held(String key) {
            this.key = key;
        }

        /** The value as the system writes it; null where there is none. */
        abstract String of(Event e);

        char mark() {
            return (char) (1 + ordinal());
        }

        private static String own(Event e, Optional<String> id) {
            SystemId system = e.key().system();
            int cut = system.value().length() + 1;
            return id.filter(v -> v.length() > cut && v.startsWith(system.value()) && v.charAt(cut - 1) == '/')
                    .map(v -> v.substring(cut))
                    .orElse(null);
        }
    }

    private static final Held[] HELD = Held.values();

    private PayloadText() {}

    /** The text; nothing for an event without message and details. */
    static Optional<String> of(Event event) {
        Map<String, String> details = details(event);
        if (event.raw().isEmpty() && details.isEmpty()) {
            return Optional.empty();
        }
        String[] values = values(event);
        String message = plain(event.raw()) ? shorten(event.raw(), values) : AS_IT_CAME + event.raw();
        if (!expand(message, values).equals(event.raw())) {
            message = AS_IT_CAME + event.raw();
        }
        return Optional.of(details(details) + THEN + message);
    }

    /** The details that are kept here; what was sent in place of our own terms stands elsewhere. */
    private static Map<String, String> details(Event event) {
        if (!event.details().containsKey(Translation.SENT_KIND)
                && !event.details().containsKey(Translation.SENT_REASON)) {
            return event.details();
        }
        Map<String, String> kept = new TreeMap<>(event.details());
        kept.remove(Translation.SENT_KIND);
        kept.remove(Translation.SENT_REASON);
        return kept;
    }

    /** Puts message and details into an event that has all the rest. */
    static void restore(String text, Event.Builder builder) {
        int cut = text.indexOf(THEN);
        Event rest = builder.build();
        builder.details(details(cut < 0 ? text : text.substring(0, cut)));
        builder.raw(cut < 0 ? "" : expand(text.substring(cut + 1), values(rest)));
    }

    /** Whether there is nothing in a message that looks like a mark. */
    private static boolean plain(String raw) {
        for (int i = 0; i < raw.length(); i++) {
            char c = raw.charAt(i);
            if (c < ' ' && c != '\n' && c != '\t' && c != '\r') {
                return false;
            }
        }
        return true;
    }

    private static String[] values(Event event) {
        String[] values = new String[HELD.length];
        for (Held held : HELD) {
            values[held.ordinal()] = held.of(event);
        }
        return values;
    }

    private static String shorten(String raw, String[] values) {
        StringBuilder out = new StringBuilder(raw.length());
        String key = "";
        int i = 0;
        while (i < raw.length()) {
            char c = raw.charAt(i);
            int end = i + 1;
            if (c == '"') {
                end = endOfString(raw, i);
                String inside = end > i + 1 ? raw.substring(i + 1, end - 1) : "";
                if (end < raw.length() && raw.charAt(end) == ':') {
                    key = inside;
                    out.append(raw, i, end);
                } else {
                    replaced(out, raw, i, end, inside, key, values);
                }
            } else if (c >= '0' && c <= '9') {
                while (end < raw.length() && Character.isLetterOrDigit(raw.charAt(end))) {
                    end++;
                }
                replaced(out, raw, i, end, raw.substring(i, end), key, values);
            } else {
                out.append(c);
            }
            i = end;
        }
        return out.toString();
    }

    /** Behind the closing quote; or the end of the text, where there is none. */
    private static int endOfString(String raw, int from) {
        for (int i = from + 1; i < raw.length(); i++) {
            char c = raw.charAt(i);
            if (c == '\\') {
                i++;
            } else if (c == '"') {
                return i + 1;
            }
        }
        return raw.length();
    }

    private static void replaced(
            StringBuilder out, String raw, int from, int to, String inside, String key, String[] values) {
        int held = -1;
        for (int h = 0; h < values.length; h++) {
            if (inside.equals(values[h]) && (held < 0 || HELD[h].key.equals(key))) {
                held = h;
            }
        }
        if (held < 0) {
            out.append(raw, from, to);
            return;
        }
        int at = raw.indexOf(inside, from);
        out.append(raw, from, at).append(HELD[held].mark()).append(raw, at + inside.length(), to);
    }

    private static String expand(String text, String[] values) {
        if (text.isEmpty()) {
            return text;
        }
        if (text.charAt(0) == AS_IT_CAME) {
            return text.substring(1);
        }
        StringBuilder out = new StringBuilder(text.length() + 100);
        int copied = 0;
        for (int i = 0; i < text.length(); i++) {
            char c = text.charAt(i);
            if (c >= 1 && c <= HELD.length) {
                out.append(text, copied, i).append(values[c - 1]);
                copied = i + 1;
            }
        }
        return out.append(text, copied, text.length()).toString();
    }

    private static String details(Map<String, String> details) {
        if (details.isEmpty()) {
            return "";
        }
        try {
            return JSON.writeValueAsString(new TreeMap<>(details));
        } catch (JsonProcessingException e) {
            throw new IllegalStateException("a map of words could not be written", e);
        }
    }

    private static Map<String, String> details(String text) {
        if (text.isEmpty()) {
            return Map.of();
        }
        try {
            return JSON.readValue(text, MAP);
        } catch (JsonProcessingException e) {
            return Map.of("unreadable-details", text);
        }
    }
}
