package org.custodia.desktop.control;

import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Set;
import java.util.function.Consumer;
import java.util.function.Function;
import javafx.scene.control.Label;
import javafx.scene.control.TextField;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import org.custodia.core.access.Person;
import org.custodia.core.site.PersonId;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.text.Texts;

/** Some people, ticked among those that are found by a name, a company or a badge. */
public final class PeopleChoice extends VBox {
    private static final Texts TEXTS = Texts.of(PeopleChoice.class);
    private static final int MOST_FOUND = 20;
    private static final int SHORTEST = 2;

    private final Desk desk;
    private final Function<PersonId, String> name;
    private final Consumer<Set<PersonId>> told;
    private final VBox people = new VBox(6);
    private Set<PersonId> chosen;

    /**
     * @param told who is chosen, each time that changes
     */
    public PeopleChoice(Desk desk, Set<PersonId> now, Function<PersonId, String> name, Consumer<Set<PersonId>> told) {
        super(6);
        this.desk = desk;
        this.name = name;
        this.told = told;
        this.chosen = new LinkedHashSet<>(now);
        TextField search = new TextField();
        search.setPromptText(TEXTS.say("search-people"));
        search.setAccessibleText(TEXTS.say("search-people"));
        search.textProperty().addListener((o, a, b) -> find(b.strip()));
        getChildren().setAll(search, people);
        fill(List.of());
    }

    private void find(String words) {
        if (words.length() < SHORTEST) {
            fill(List.of());
            return;
        }
        desk.work()
                .latest(
                        people,
                        () -> desk.services().workplace().people().search(words, MOST_FOUND),
                        found -> fill(found.stream().map(Person::id).toList()),
                        this::failed);
    }

    private void failed(String why) {
        Label label = new Label(why);
        label.getStyleClass().add("muted");
        label.setWrapText(true);
        label.setMinHeight(Region.USE_PREF_SIZE);
        people.getChildren().setAll(label);
    }

    /** Chooses others; nobody is told. */
    public void choose(Set<PersonId> others) {
        chosen = new LinkedHashSet<>(others);
        fill(List.of());
    }

    private void fill(List<PersonId> found) {
        List<PersonId> all = new ArrayList<>(chosen);
        found.stream().filter(p -> !all.contains(p)).forEach(all::add);
        people.getChildren().clear();
        if (!all.isEmpty()) {
            people.getChildren().add(new CheckList<>(TEXTS.say("people"), all, chosen, name, some -> {
                chosen = new LinkedHashSet<>(some);
                told.accept(some);
            }));
        }
    }
}
