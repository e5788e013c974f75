package org.custodia.desktop.text;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Set;
import java.util.TreeSet;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.custodia.desktop.shell.Shell;
import org.custodia.desktop.watch.WatchView;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

class TextsTest {
    private static final Path RESOURCES = Path.of("src/main/resources/org/custodia/desktop");
    private static final Path SOURCES = Path.of("src/main/java/org/custodia/desktop");
    private static final ZoneId ZONE = ZoneId.of("Europe/London");
    private static final Instant AT = Instant.parse("2026-11-24T14:20:00Z");

    @AfterEach
    void english() {
        Texts.choose(Texts.ENGLISH);
    }

    /** The packages that have texts. */
    static List<String> packages() throws IOException {
        try (Stream<Path> all = Files.list(RESOURCES)) {
            return all.filter(p -> Files.exists(p.resolve("texts.properties")))
                    .map(p -> p.getFileName().toString())
                    .sorted()
                    .toList();
        }
    }

    private static Texts texts(String of) {
        return Texts.ofPackage("org.custodia.desktop." + of, TextsTest.class.getClassLoader());
    }

    private static String sources(String of) throws IOException {
        try (Stream<Path> files = Files.list(SOURCES.resolve(of))) {
            StringBuilder all = new StringBuilder();
            for (Path file : files.filter(f -> f.toString().endsWith(".java")).toList()) {
                all.append(Files.readString(file));
            }
            return all.toString();
        }
    }

    @ParameterizedTest
    @MethodSource("packages")
    void every_language_has_every_text_with_the_same_arguments(String of) {
        Texts texts = texts(of);
        Set<String> keys = texts.keys(Locale.ENGLISH);
        assertThat(keys).isNotEmpty();
        for (Locale language : Texts.LANGUAGES) {
            assertThat(texts.keys(language)).as("%s", language).isEqualTo(keys);
            for (String key : keys) {
                assertThat(texts.arguments(key, language))
                        .as("%s %s", key, language)
                        .isEqualTo(texts.arguments(key, Locale.ENGLISH));
            }
        }
    }

    @ParameterizedTest
    @MethodSource("packages")
    void every_text_that_is_asked_for_is_there_and_none_is_there_in_vain(String of) throws IOException {
        if (of.equals("saying")) {
            // What is said there is asked for everywhere; SayingWordsTest looks for it.
            return;
        }
        String code = sources(of);
        Set<String> keys = texts(of).keys(Locale.ENGLISH);
        Set<String> asked = new TreeSet<>();
        Matcher say =
                Pattern.compile("TEXTS\\s*\\.say\\(\\s*\"([^\"]+)\"\\s*[,)]").matcher(code);
        while (say.find()) {
            asked.add(say.group(1));
        }
        assertThat(keys).containsAll(asked);
        List<String> vain = new ArrayList<>();
        for (String key : keys) {
            // Put together in the code from what somebody sent or what a state is called.
            boolean made = Stream.of(
                            "strips-",
                            "kind.",
                            "reason.",
                            "command.",
                            "stage.",
                            "verdict.",
                            "step.",
                            "confidence.",
                            "page.",
                            "instead.",
                            "pair-seen.",
                            "show.",
                            "many.",
                            "one.",
                            "part.",
                            "news.",
                            "news-long.",
                            "sort.",
                            "side.",
                            "unit.",
                            "tried.",
                            "view.",
                            "lock-",
                            "outcome.",
                            "priority.",
                            "security.",
                            "name.",
                            "clause.",
                            "for-",
                            "period.",
                            "short-",
                            "person.",
                            "holidays.",
                            "per.",
                            "at.",
                            "next-",
                            "device.",
                            "except-",
                            "extent.",
                            "lag.")
                    .anyMatch(key::startsWith);
            if (!made && !code.contains('"' + key + '"')) {
                vain.add(key);
            }
        }
        assertThat(vain).isEmpty();
    }

    /** What stands in the code as it is read would stay so in every language. */
    @Test
    void no_sentence_stands_in_the_code_of_the_window() throws IOException {
        Pattern sentence = Pattern.compile("\"[A-Z][a-z]+ [a-z][^\"]*\"");
        Set<String> left = new TreeSet<>();
        List<Path> everywhere;
        try (Stream<Path> all = Files.walk(SOURCES)) {
            everywhere = all.filter(f -> f.toString().endsWith(".java")).toList();
        }
        for (Path file : everywhere) {
            for (String line : Files.readAllLines(file)) {
                Matcher m = sentence.matcher(line);
                boolean comment = line.strip().startsWith("*") || line.strip().startsWith("/");
                if (m.find()
                        && !comment
                        && !line.contains("Exception(")
                        && !line.contains("new Work(")
                        && !line.contains("LOG.")) {
                    left.add(line.strip());
                }
            }
        }
        assertThat(left).isEmpty();
    }

    @Test
    void plurals_numbers_and_dates_follow_the_language() {
        Texts texts = Texts.of(Shell.class);
        assertThat(texts.say("links-up", 1)).isEqualTo("1 link up");
        assertThat(texts.say("links-up", 4)).isEqualTo("4 links up");
        assertThat(texts.say("reading-history", 12_000, 250_000)).isEqualTo("reading history, 12,000 of 250,000");
        assertThat(Texts.day(AT, ZONE)).isEqualTo("Tue 24 Nov");
        Texts.choose(Locale.forLanguageTag("de-AT"));
        assertThat(texts.say("links-up", 1)).isEqualTo("1 Verbindung steht");
        assertThat(texts.say("links-up", 4)).isEqualTo("4 Verbindungen stehen");
        assertThat(texts.say("reading-history", 12_000, 250_000)).isEqualTo("liest Vorgeschichte, 12.000 von 250.000");
        assertThat(texts.say("clocks-apart", 1.25)).contains("1,2");
        assertThat(Texts.day(AT, ZONE)).startsWith("Di").contains("24. Nov");
        assertThat(Texts.longDay(LocalDate.of(2026, 11, 24))).isEqualTo("Dienstag, 24. November");
    }

    @Test
    void a_language_that_is_not_there_means_english_whatever_the_machine_speaks() {
        Locale machine = Locale.getDefault();
        try {
            Locale.setDefault(Locale.GERMANY);
            Texts.choose(Locale.FRENCH);
            assertThat(Texts.of(Shell.class).say("close")).isEqualTo("Close");
            assertThat(Texts.language()).isEqualTo(Locale.ENGLISH);
        } finally {
            Locale.setDefault(machine);
        }
    }

    @Test
    void the_language_for_tests_disguises_every_text_and_leaves_arguments_readable() {
        Texts.choose(Texts.PSEUDO);
        String said = Texts.of(Shell.class).say("close");
        assertThat(said).startsWith("[").endsWith("]").doesNotContain("Close").hasSizeGreaterThan("Close".length());
        assertThat(Texts.of(Shell.class).say("links-up", 4)).contains("4");
    }

    @Test
    void a_text_that_is_not_there_is_its_key() {
        assertThat(Texts.of(Shell.class).say("no-such-text", 1)).isEqualTo("no-such-text");
    }

    /** Two threads, two languages one after the other: nobody gets half of one. */
    @Test
    void texts_may_be_asked_for_by_several_threads() throws Exception {
        Texts texts = Texts.of(WatchView.class);
        Set<String> said = java.util.stream.IntStream.range(0, 4_000)
                .parallel()
                .mapToObj(i -> texts.say("doors", i % 3))
                .collect(Collectors.toSet());
        assertThat(said).containsExactlyInAnyOrder("0 doors", "1 door", "2 doors");
    }
}
