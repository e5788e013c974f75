package org.custodia.desktop.text;

import com.ibm.icu.text.MessageFormat;
import java.time.Instant;
import java.time.ZoneId;
import java.time.format.DateTimeFormatter;
import java.time.format.DateTimeFormatterBuilder;
import java.util.Enumeration;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.MissingResourceException;
import java.util.Optional;
import java.util.ResourceBundle;
import java.util.Set;
import java.util.TreeSet;
import java.util.concurrent.ConcurrentHashMap;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** The texts of one package, in the language that was chosen. */
public final class Texts {
    /** What the program is written in; also what stands for every language that it does not have. */
    public static final Locale ENGLISH = Locale.ENGLISH;
    /** Languages that can be chosen. */
    public static final List<Locale> LANGUAGES = List.of(ENGLISH, Locale.GERMAN);
    /**
     * A language for tests: English with other letters, a third longer and in brackets, so that one sees what was not taken
     * out of the code and what is cut off.
     */
    public static final Locale PSEUDO = Locale.forLanguageTag("en-XA");

    private static final Logger LOG = LoggerFactory.getLogger(Texts.class);
    private static final ResourceBundle.Control WITHOUT_THE_MACHINES_LANGUAGE =
            ResourceBundle.Control.getNoFallbackControl(ResourceBundle.Control.FORMAT_PROPERTIES);
    private static final Map<String, Texts> ALL = new ConcurrentHashMap<>();
    private static volatile Locale chosen = ENGLISH;

    private final String base;
    private final ClassLoader loader;
    private volatile Made made = new Made(ENGLISH, new ConcurrentHashMap<>());

    /** A text ready for use: with places for arguments, or just so. */
    private record Text(MessageFormat pattern, String plain) {}

    /** What was made ready in one language. */
    private record Made(Locale language, Map<String, Text> texts) {}

    private Texts(String base, ClassLoader loader) {
        this.base = base;
        this.loader = loader;
    }

    /** Chooses the language of everything that is made from now on; one that is not there means English. */
    public static void choose(Locale language) {
        chosen = language.equals(PSEUDO)
                ? PSEUDO
                : LANGUAGES.stream()
                        .filter(l -> l.getLanguage().equals(language.getLanguage()))
                        .findFirst()
                        .orElse(ENGLISH);
    }

    /** The language that was chosen. */
    public static Locale language() {
        return chosen;
    }

    /** The texts of the package that a class is in. */
    public static Texts of(Class<?> user) {
        return ofPackage(user.getPackageName(), user.getClassLoader());
    }

    static Texts ofPackage(String name, ClassLoader loader) {
        return ALL.computeIfAbsent(name + ".texts", b -> new Texts(b, loader));
    }

    /** A day, short, with the day of the week: as in Tue 24 Nov. */
    public static String day(Instant at, ZoneId zone) {
        return date("EEEMMMd").format(at.atZone(zone));
    }

    /** A day without the day of the week: as in 24 Nov. */
    public static String shortDay(Instant at, ZoneId zone) {
        return date("MMMd").format(at.atZone(zone));
    }

    /** A day of any year: as in 24 Nov 2026. */
    public static String date(Instant at, ZoneId zone) {
        boolean german = chosen.getLanguage().equals("de");
        return DateTimeFormatter.ofPattern(german ? "d. MMM yyyy" : "d MMM yyyy", chosen)
                .format(at.atZone(zone));
    }

    /** The day of the week, short: as in Tue. */
    public static String weekday(Instant at, ZoneId zone) {
        return DateTimeFormatter.ofPattern("EEE", chosen).format(at.atZone(zone));
    }

    /** A day in full: as in Tuesday 24 November. */
    public static String longDay(java.time.LocalDate day) {
        boolean german = chosen.getLanguage().equals("de");
        return DateTimeFormatter.ofPattern(german ? "EEEE, d. MMMM" : "EEEE d MMMM", chosen)
                .format(day);
    }

    /** A date in the order and with the marks of the language. */
    private static DateTimeFormatter date(String parts) {
        boolean german = chosen.getLanguage().equals("de");
        String pattern = parts.startsWith("EEE") ? german ? "EEE d. MMM" : "EEE d MMM" : german ? "d. MMM" : "d MMM";
        return new DateTimeFormatterBuilder().appendPattern(pattern).toFormatter(chosen);
    }

    /**
     * A text.
     *
     * @param key as it stands in the bundle; where it does not, the key itself is returned, and logged
     * @param arguments in the order of the pattern's numbers
     */
    public String say(String key, Object... arguments) {
        Locale language = chosen;
        Made ready = made;
        if (!language.equals(ready.language())) {
            ready = new Made(language, new ConcurrentHashMap<>());
            made = ready;
        }
        Text text = ready.texts().computeIfAbsent(key, k -> make(k, language));
        if (text.pattern() == null) {
            return text.plain();
        }
        String said;
        synchronized (text) {
            said = text.pattern().format(arguments);
        }
        return language.equals(PSEUDO) ? disguised(said) : said;
    }

    /** A text; nothing if there is none under that key. */
    public Optional<String> known(String key, Object... arguments) {
        return bundle(ENGLISH).containsKey(key) ? Optional.of(say(key, arguments)) : Optional.empty();
    }

    private Text make(String key, Locale language) {
        String pattern;
        try {
            pattern = bundle(language.equals(PSEUDO) ? ENGLISH : language).getString(key);
        } catch (MissingResourceException e) {
            LOG.error("There is no text {} in {}.", key, base);
            return new Text(null, key);
        }
        MessageFormat format = new MessageFormat(pattern, language);
        return format.getArgumentNames().isEmpty()
                ? new Text(
                        null,
                        language.equals(PSEUDO)
                                ? disguised(format.format(new Object[0]))
                                : format.format(new Object[0]))
                : new Text(format, null);
    }

    private ResourceBundle bundle(Locale language) {
        return ResourceBundle.getBundle(base, language, loader, WITHOUT_THE_MACHINES_LANGUAGE);
    }

    /** All keys that a language has of its own, for the check that none lacks one. */
    Set<String> keys(Locale language) {
        Set<String> keys = new TreeSet<>();
        String file = base.replace('.', '/') + (language.equals(ENGLISH) ? "" : "_" + language.getLanguage());
        Enumeration<String> all = ResourceBundle.getBundle(
                        file.replace('/', '.'), Locale.ROOT, loader, WITHOUT_THE_MACHINES_LANGUAGE)
                .getKeys();
        while (all.hasMoreElements()) {
            keys.add(all.nextElement());
        }
        return keys;
    }

    /** The numbers of the arguments that a text has room for. */
    Set<String> arguments(String key, Locale language) {
        return new TreeSet<>(new MessageFormat(bundle(language).getString(key), language).getArgumentNames());
    }

    private static final String PLAIN = "abcdefghijklmnopqrstuvwxyzACEGIKLNORSTUYZ";
    private static final String STRANGE = "áƀçđéƒǧĥíĵķĺḿñóƥɋŕšťúṽŵẋýžÀÇÉĜÍĶĹÑÓŔŠŤÚÝŽ";

    private static String disguised(String text) {
        StringBuilder strange = new StringBuilder("[");
        for (char c : text.toCharArray()) {
            int i = PLAIN.indexOf(c);
            strange.append(i < 0 ? c : STRANGE.charAt(i));
        }
        return strange.append("~".repeat(text.length() / 3)).append(']').toString();
    }
}
