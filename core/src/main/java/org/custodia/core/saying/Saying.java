package org.custodia.core.saying;

import java.time.DateTimeException;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.regex.Pattern;

/**
 * Something that is to be said to a person.
 *
 * @param code what is said; lower case letters, digits, hyphens and full stops
 * @param of what it is said of, in the order of the words' places: texts, whole numbers, instants, lengths of time, and
 *     sayings that are part of it
 */
public record Saying(String code, List<Object> of) {
    /** Words of a system or a person outside, which are shown as they came, as theirs. */
    private static final String QUOTED = "quoted";

    private static final Pattern CODE = Pattern.compile("[a-z0-9.-]{1,100}");
    /** Deeper than anybody speaks. */
    private static final int DEEPEST = 8;

    public Saying {
        of = List.copyOf(of);
        if (!CODE.matcher(code).matches()) {
            throw new IllegalArgumentException("no code: " + code);
        }
        for (Object value : of) {
            boolean known = value instanceof String
                    || value instanceof Long
                    || value instanceof Instant
                    || value instanceof Duration
                    || value instanceof Saying;
            if (!known) {
                throw new IllegalArgumentException("nothing can be said of a " + value.getClass());
            }
        }
    }

    /**
     * @param of as above, and whole numbers of any size
     */
    public static Saying of(String code, Object... of) {
        List<Object> values = new ArrayList<>();
        for (Object value : of) {
            values.add(value instanceof Integer i ? Long.valueOf(i) : value);
        }
        return new Saying(code, values);
    }

    /** Words of a system or a person outside. */
    public static Saying quoted(String words) {
        return of(QUOTED, words);
    }

    /** The words, where these are somebody else's. */
    public Optional<String> quotation() {
        return code.equals(QUOTED) && of.size() == 1 ? Optional.of(of.get(0).toString()) : Optional.empty();
    }

    /** As it stands in the log, to be read by {@link #parse}. */
    public String text() {
        StringBuilder text = new StringBuilder(code);
        for (Object value : of) {
            text.append(' ');
            if (value instanceof Long) {
                text.append('n').append(value);
            } else if (value instanceof Instant) {
                text.append('t').append(value);
            } else if (value instanceof Duration) {
                text.append('d').append(value);
            } else if (value instanceof Saying saying) {
                text.append('(').append(saying.text()).append(')');
            } else {
                text.append('"').append(escaped(value.toString())).append('"');
            }
        }
        return text.toString();
    }

    private static String escaped(String words) {
        return words.replace("\\", "\\\\").replace("\"", "\\\"");
    }

    /** Reads what {@link #text} wrote; nothing where it is something else. */
    public static Optional<Saying> parse(String text) {
        try {
            Reader reader = new Reader(text);
            Saying saying = reader.saying(0);
            return reader.atEnd() ? Optional.of(saying) : Optional.empty();
        } catch (IllegalArgumentException | DateTimeException | ArithmeticException e) {
            return Optional.empty();
        }
    }

    /** For our own logs. */
    @Override
    public String toString() {
        return text();
    }

    /** Goes through a text once. */
    private static final class Reader {
        private final String text;
        private int at;

        Reader(String text) {
            this.text = text;
        }

        boolean atEnd() {
            return at == text.length();
        }

        Saying saying(int depth) {
            if (depth > DEEPEST) {
                throw new IllegalArgumentException("too deep");
            }
            String code = upTo(" )");
            List<Object> values = new ArrayList<>();
            while (!atEnd() && text.charAt(at) == ' ') {
                at++;
                values.add(value(depth));
            }
            return new Saying(code, values);
        }

        private Object value(int depth) {
            char kind = next();
            return switch (kind) {
                case 'n' -> Long.valueOf(upTo(" )"));
                case 't' -> Instant.parse(upTo(" )"));
                case 'd' -> Duration.parse(upTo(" )"));
                case '(' -> {
                    Saying inner = saying(depth + 1);
                    if (next() != ')') {
                        throw new IllegalArgumentException("not closed");
                    }
                    yield inner;
                }
                case '"' -> words();
                default -> throw new IllegalArgumentException("no value");
            };
        }

        private String words() {
            StringBuilder words = new StringBuilder();
            char c;
            while ((c = next()) != '"') {
                words.append(c == '\\' ? next() : c);
            }
            return words.toString();
        }

        private char next() {
            if (atEnd()) {
                throw new IllegalArgumentException("ended");
            }
            return text.charAt(at++);
        }

        private String upTo(String ends) {
            int from = at;
            while (!atEnd() && ends.indexOf(text.charAt(at)) < 0) {
                at++;
            }
            return text.substring(from, at);
        }
    }
}
