package org.custodia.app;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.util.HashSet;
import java.util.Locale;
import java.util.Set;
import java.util.TreeSet;
import java.util.regex.Pattern;
import java.util.stream.Stream;
import javafx.scene.Node;
import javafx.scene.Parent;
import javafx.scene.control.ButtonBase;
import javafx.scene.control.Labeled;
import javafx.scene.control.MenuButton;
import javafx.scene.control.MenuItem;
import javafx.scene.control.TextInputControl;
import javafx.scene.input.KeyCode;
import javafx.scene.text.Text;
import org.custodia.core.site.Door;
import org.custodia.desktop.text.Texts;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;

/** The whole window in other languages than the one it is written in. */
class ConsoleLanguageTest extends ConsoleFixture {
    /** Letters of a word that somebody reads; in the language for tests those that are left are accented. */
    private static final Pattern WORD = Pattern.compile("[a-z]{3,}");

    @AfterEach
    void english() {
        Texts.choose(Texts.ENGLISH);
    }

    private void reopen(String language) throws IOException {
        console.close();
        open(language);
    }

    private static void collect(Node node, Set<String> texts) {
        if (!node.isVisible()) {
            return;
        }
        if (node instanceof Labeled l && l.getText() != null) {
            texts.add(l.getText());
        }
        if (node instanceof TextInputControl t && t.getPromptText() != null) {
            texts.add(t.getPromptText());
        }
        if (node instanceof MenuButton m) {
            m.getItems().stream().map(MenuItem::getText).filter(t -> t != null).forEach(texts::add);
        }
        if (node instanceof Parent parent) {
            parent.getChildrenUnmodifiable().forEach(n -> collect(n, texts));
        }
    }

    private Set<String> texts() {
        return fx(() -> {
            Set<String> texts = new TreeSet<>();
            collect(window.scene().getRoot(), texts);
            return texts;
        });
    }

    /** What is called as it is called, in whatever language. */
    private Set<String> names() {
        Set<String> names = new HashSet<>(Set.of("custodia", "sternwick", "museum", "ctrl", "live"));
        Stream.of(
                        rig.hub.sites().get().doors().stream().map(Door::name),
                        rig.site.timeline().people().all().stream()
                                .map(p -> p.name() + " " + p.company() + " " + p.kind()),
                        rig.site.timeline().place().buildings().stream().map(b -> b.title() + " " + b.outdoors()),
                        rig.site.timeline().place().doors().stream().map(d -> d.inside() + " " + d.outside()),
                        rig.site.timeline().systems().stream().map(s -> s.name()),
                        Stream.of(
                                Rig.OPERATOR.name(),
                                "Home Space Enter Esc Plus Minus outside inside overview Mon Tue Tuesday Monday Nov November"),
                        Texts.LANGUAGES.stream().map(l -> l.getDisplayLanguage(l)))
                .flatMap(s -> s)
                .flatMap(s -> Stream.of(s.toLowerCase(Locale.ROOT).split("[^\\p{L}]+")))
                .forEach(names::add);
        return names;
    }

    private void nothingIsLeft(String where) {
        Set<String> names = names();
        Set<String> left = new TreeSet<>();
        for (String text : texts()) {
            WORD.matcher(text.toLowerCase(Locale.ROOT))
                    .results()
                    .map(r -> r.group())
                    .filter(word -> names.stream().noneMatch(n -> n.contains(word)))
                    .forEach(word -> left.add(word + " in \"" + text + "\""));
        }
        assertThat(left).as(where).isEmpty();
    }

    @Test
    void nothing_that_is_read_was_left_in_the_code() throws IOException {
        reopen("en-XA");
        present("staff-lobby", "20153");
        Rig.await().until(() -> !cards("Staff lobby").isEmpty());
        Rig.await()
                .until(() -> fx(() -> window.shell()
                        .view(org.custodia.desktop.watch.WatchView.class)
                        .doorstepComplete()));
        nothingIsLeft("Watch");
        robot.type(KeyCode.F1);
        nothingIsLeft("keys");
        robot.type(KeyCode.ESCAPE);
        robot.press(KeyCode.CONTROL).type(KeyCode.K).release(KeyCode.CONTROL);
        nothingIsLeft("finder");
        robot.type(KeyCode.ESCAPE);
        fx(() -> {
            window.shell().desk().lookBack(rig.clock.instant().minusSeconds(86_400));
            return null;
        });
        nothingIsLeft("looking back");
    }

    /** Buttons whose words end in dots for want of room. */
    private Set<String> cutOff() {
        return fx(() -> {
            Set<String> cut = new TreeSet<>();
            for (Node node : all(".button, .toggle-button, .menu-button")) {
                boolean shown = node instanceof ButtonBase b && b.isVisible() && b.getText() != null;
                if (shown && node.lookup(".text") instanceof Text text) {
                    String whole = ((ButtonBase) node).getText();
                    if (!text.getText().replaceAll("\\s", "").equals(whole.replaceAll("\\s", ""))) {
                        cut.add(whole);
                    }
                }
            }
            return cut;
        });
    }

    @Test
    void the_window_speaks_german_once_that_was_chosen() throws IOException {
        robot.type(KeyCode.F1);
        MenuButton choice = fx(() -> all(".key-sheet .menu-button").stream()
                .map(MenuButton.class::cast)
                .findFirst()
                .orElseThrow());
        fx(() -> {
            choice.getItems().get(1).fire();
            return null;
        });
        assertThat(choice.getText()).isEqualTo("Deutsch");
        Rig.await().until(() -> java.nio.file.Files.readString(directory.resolve("console/settings.json"))
                .contains("\"language\":\"de\""));
        reopen("de");
        Rig.await().until(() -> shows(".headline", "Verriegelt"));
        Set<String> texts = texts();
        assertThat(texts).contains("Im Blick", "Streifen", "Türen wählen…", "Eingänge", "Tasten");
        assertThat(cutOff()).isEmpty();
        assertThat(texts).anyMatch(t -> t.contains("Verbindungen stehen"));
        present("vault-ante", "20388");
        Rig.await().until(() -> shows(".doorstep .label", "Abgewiesen"));
    }
}
