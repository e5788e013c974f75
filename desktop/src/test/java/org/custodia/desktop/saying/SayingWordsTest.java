package org.custodia.desktop.saying;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Instant;
import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import java.util.Set;
import java.util.TreeSet;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Stream;
import org.custodia.core.operator.Actor;
import org.custodia.core.operator.NotPermittedException;
import org.custodia.core.operator.Permission;
import org.custodia.core.saying.Saying;
import org.custodia.core.workplace.Sight;
import org.custodia.desktop.text.Texts;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;

/** What core, links, log and video have to say is said in words, in every language. */
class SayingWordsTest {
    private static final List<String> MODULES = List.of("core", "wire", "link", "store", "video", "desktop", "app");
    private static final Pattern SAID = Pattern.compile(
            "(?:Saying\\.of|LinkException\\.(?:of|nobodyThere|unreadable))\\(\\s*(?:\\w+ ? )?\"([a-z0-9.-]+)\"\\s*[,)]");
    /** What is put together of a beginning and the name of a state. */
    private static final List<String> MADE = List.of("permission.", "sight.", "store.not-stored.", "store.not-read.");

    @AfterEach
    void english() {
        Texts.choose(Texts.ENGLISH);
    }

    private static String sources() throws IOException {
        StringBuilder all = new StringBuilder();
        for (String module : MODULES) {
            try (Stream<Path> files = Files.walk(Path.of("../" + module + "/src/main/java"))) {
                for (Path file :
                        files.filter(f -> f.toString().endsWith(".java")).toList()) {
                    all.append(Files.readString(file)).append('\n');
                }
            }
        }
        return all.toString();
    }

    private static boolean hasWords(String code) {
        return Texts.of(SayingWords.class).known(code, "a", "b", "c", "d").isPresent();
    }

    @Test
    void every_code_that_stands_in_the_code_has_words_and_no_words_are_there_in_vain() throws IOException {
        String code = sources();
        Matcher said = SAID.matcher(code);
        Set<String> wordless = new TreeSet<>();
        int found = 0;
        while (said.find()) {
            found++;
            boolean begins = MADE.contains(said.group(1));
            if (!begins && !hasWordsFor(said.group(1))) {
                wordless.add(said.group(1));
            }
        }
        assertThat(found).isGreaterThan(100);
        assertThat(wordless).isEmpty();
        for (String key : keys()) {
            boolean made = MADE.stream().anyMatch(key::startsWith);
            assertThat(made || code.contains('"' + key + '"')).as(key).isTrue();
        }
    }

    private static boolean hasWordsFor(String code) {
        return keys().contains(code);
    }

    private static Set<String> keys() {
        Set<String> keys = new TreeSet<>();
        try {
            Files.readAllLines(Path.of("src/main/resources/org/custodia/desktop/saying/texts.properties"))
                    .forEach(l -> keys.add(l.substring(0, l.indexOf(" ="))));
        } catch (IOException e) {
            throw new IllegalStateException(e);
        }
        return keys;
    }

    @Test
    void whatever_may_be_permitted_or_seen_has_words() {
        for (Locale language : Texts.LANGUAGES) {
            Texts.choose(language);
            assertThat(Arrays.stream(Permission.values()).map(p -> p.saying().code()))
                    .allMatch(SayingWordsTest::hasWords);
            assertThat(Arrays.stream(Sight.values()).map(s -> s.saying().code()))
                    .allMatch(SayingWordsTest::hasWords);
        }
    }

    @Test
    void what_is_part_of_a_saying_is_said_in_the_same_language() {
        Saying said = Saying.of("command.refused", Saying.quoted("bolt stuck"));
        assertThat(SayingWords.of(said)).isEqualTo("the system refused: “bolt stuck”");
        Texts.choose(Locale.GERMAN);
        assertThat(SayingWords.of(said)).isEqualTo("das System lehnte ab: „bolt stuck“");
        assertThat(SayingWords.of(new NotPermittedException(Saying.of(
                        "permit.not-here",
                        Actor.withAll("iv", "I. Vantongeren", "desk").name(),
                        Permission.ACT_ON_DOORS.saying()))))
                .isEqualTo("I. Vantongeren darf an diesem Standort nicht Türen bedienen.");
    }

    @Test
    void numbers_are_counted_or_named() {
        assertThat(SayingWords.of(Saying.of("link.counts-again", 12_345, 23_456)))
                .contains("event 12345", "reached 23456");
        assertThat(SayingWords.of(Saying.of("alarm.steps-left", 1, "Look.")))
                .startsWith("One step has")
                .endsWith("Look.");
        assertThat(SayingWords.of(Saying.of("alarm.steps-left", 3, "Look.")))
                .startsWith("3 steps have")
                .endsWith("Look.");
        assertThat(SayingWords.of(Saying.of("link.records-left-out", 1, Saying.of("inventory.door-id"))))
                .isEqualTo("1 record of what it has cannot be read and is left out; the first: a door without an id");
    }

    @Test
    void what_is_no_saying_or_none_that_is_known_stays_readable() {
        assertThat(SayingWords.ofText("not sent: the line is cut")).isEqualTo("not sent: the line is cut");
        assertThat(SayingWords.ofText("command.out-of-reach")).startsWith("not sent: the door is out of reach");
        assertThat(SayingWords.of(Saying.of("of.a-later-version", "x", Instant.EPOCH)))
                .isEqualTo("of.a-later-version \"x\" t1970-01-01T00:00:00Z");
        assertThat(SayingWords.of(new IllegalStateException("secret"))).doesNotContain("secret");
    }

    /** A sentence of somebody outside is not taken for a pattern of ours. */
    @Test
    void braces_and_quotes_from_outside_are_only_shown() {
        assertThat(SayingWords.of(Saying.quoted("{0} ''it's'' {1,number}"))).isEqualTo("“{0} ''it's'' {1,number}”");
    }
}
