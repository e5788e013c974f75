package org.custodia.desktop.shell;

import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import javafx.collections.FXCollections;
import javafx.collections.ObservableList;
import javafx.geometry.Pos;
import javafx.scene.control.ContentDisplay;
import javafx.scene.control.Label;
import javafx.scene.control.ListCell;
import javafx.scene.control.ListView;
import javafx.scene.control.TextField;
import javafx.scene.input.KeyCode;
import javafx.scene.input.KeyEvent;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import org.custodia.core.access.Credential;
import org.custodia.core.access.Person;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Kinds;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PersonId;
import org.custodia.core.site.SiteModel;
import org.custodia.core.workplace.Sight;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.desk.MainView;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.PriorityMark;
import org.custodia.desktop.theme.Theme;
import org.custodia.desktop.words.ClockWords;
import org.custodia.desktop.words.EventWords;

/** Finds people, doors, badges, views and times as one types, and shows the latest events of what was found. */
final class Finder extends VBox {
    private static final Texts TEXTS = Texts.of(Finder.class);

    private static final int MOST = 12;
    private static final int EVENTS = 14;
    private static final java.time.format.DateTimeFormatter TIME =
            java.time.format.DateTimeFormatter.ofPattern("EEEE d MMMM, HH:mm:ss", Locale.ENGLISH);

    private final Desk desk;
    private final Theme theme;
    private final Actions actions;
    private final TextField words = new TextField();
    private final ObservableList<Found> found = FXCollections.observableArrayList();
    private final ListView<Found> results = new ListView<>(found);
    private final ObservableList<Event> events = FXCollections.observableArrayList();
    private final ListView<Event> eventList = new ListView<>(events);
    private final Label eventsTitle = new Label();
    private final Label noResult = new Label();
    private final Label noEvent = new Label();
    private int asked;
    /** Whether what is shown was found for other words than those that stand there now. */
    private boolean searching;

    private boolean enterWhenFound;
    private int askedEvents;

    /** What can be done with what was found. */
    interface Actions {
        void play(Event event);

        void show(Door door);

        void view(MainView.Plug view);

        void lookBack(Instant at);

        void close();
    }

    private sealed interface Found {
        record Somebody(Person person, String badges) implements Found {}

        record SomeDoor(Door door, String site) implements Found {}

        record View(MainView.Plug view) implements Found {}

        record Time(Instant at) implements Found {}

        record Outcomes(String words, EventQuery query) implements Found {}
    }

    Finder(Desk desk, Theme theme, Actions actions) {
        this.desk = desk;
        this.theme = theme;
        this.actions = actions;
        getStyleClass().addAll("panel", "finder");
        words.setPromptText(TEXTS.say("finder-prompt"));
        words.setAccessibleText(TEXTS.say("finder"));
        words.textProperty().addListener((o, a, b) -> search());
        words.addEventFilter(KeyEvent.KEY_PRESSED, e -> {
            if (e.getCode() == KeyCode.DOWN || e.getCode() == KeyCode.UP) {
                int next = results.getSelectionModel().getSelectedIndex() + (e.getCode() == KeyCode.DOWN ? 1 : -1);
                if (next >= 0 && next < found.size()) {
                    results.getSelectionModel().select(next);
                    results.scrollTo(next);
                }
                e.consume();
            } else if (e.getCode() == KeyCode.ENTER) {
                enter();
                e.consume();
            }
        });
        noResult.getStyleClass().add("empty");
        results.setPlaceholder(noResult);
        results.setCellFactory(v -> new FoundCell());
        results.setFocusTraversable(false);
        results.getSelectionModel().selectedItemProperty().addListener((o, a, b) -> showEvents(b));
        results.setOnMouseClicked(e -> {
            if (e.getClickCount() == 2) {
                enter();
            }
        });
        noEvent.getStyleClass().add("empty");
        eventList.setPlaceholder(noEvent);
        eventList.setCellFactory(v -> new EventCell());
        eventList.setAccessibleText(TEXTS.say("finder-events"));
        eventList.setOnMouseClicked(e -> playSelected());
        eventList.setOnKeyPressed(e -> {
            if (e.getCode() == KeyCode.ENTER) {
                playSelected();
                e.consume();
            }
        });
        eventList.focusedProperty().addListener((o, a, focused) -> {
            if (focused && eventList.getSelectionModel().isEmpty()) {
                eventList.getSelectionModel().select(0);
            }
        });
        eventsTitle.getStyleClass().add("strong");
        VBox.setVgrow(eventList, Priority.ALWAYS);
        VBox right = new VBox(6, eventsTitle, eventList);
        HBox.setHgrow(right, Priority.ALWAYS);
        results.getStyleClass().add("results");
        HBox both = new HBox(14, results, right);
        VBox.setVgrow(both, Priority.ALWAYS);
        Label hint = new Label(TEXTS.say("finder-hint"));
        hint.getStyleClass().add("secondary");
        getChildren().addAll(words, both, hint);
        search();
    }

    private void search() {
        String text = words.getText().trim();
        int mine = ++asked;
        searching = true;
        enterWhenFound = false;
        desk.work()
                .latest(
                        results,
                        () -> find(text),
                        list -> {
                            if (mine == asked) {
                                found.setAll(list);
                                noResult.setText(
                                        text.isEmpty() ? TEXTS.say("finder-empty") : TEXTS.say("finder-none", text));
                                results.getSelectionModel().selectFirst();
                                if (list.isEmpty()) {
                                    showEvents(null);
                                }
                                found();
                            }
                        },
                        problem -> {
                            noResult.setText(problem);
                            searching = false;
                        });
    }

    private List<Found> find(String text) {
        List<Found> list = new ArrayList<>();
        String low = text.toLowerCase(Locale.ROOT);
        SiteModel sites = desk.services().sites().get();
        OutcomeQuestion.of(text, desk.now(), desk.zone())
                .flatMap(q -> q.query(desk.zone(), EVENTS, this::peopleOf, words -> doorsOf(words, sites)))
                .ifPresent(q -> list.add(new Found.Outcomes(text, q)));
        TimeWords.parse(text, desk.now(), desk.zone()).ifPresent(t -> list.add(new Found.Time(t)));
        if (!low.isEmpty()) {
            Views.ALL.stream()
                    .filter(v -> Stream.concat(Stream.of(v.name().get()), v.words().get().stream())
                            .anyMatch(w -> w.toLowerCase(Locale.ROOT).startsWith(low)))
                    .forEach(v -> list.add(new Found.View(v)));
        }
        sites.doors().stream()
                .filter(d -> matches(d, sites, low))
                .sorted((a, b) -> Boolean.compare(
                        !a.name().toLowerCase(Locale.ROOT).startsWith(low),
                        !b.name().toLowerCase(Locale.ROOT).startsWith(low)))
                .limit(MOST)
                .forEach(d -> list.add(new Found.SomeDoor(
                        d, sites.siteOf(d.id()).map(s -> s.name()).orElse(""))));
        if (!low.isEmpty() && desk.services().workplace().permit().seesSomewhere(Sight.PEOPLE)) {
            desk.services().people().search(text, MOST).forEach(p -> list.add(new Found.Somebody(p, badges(p))));
        }
        return list;
    }

    private Set<PersonId> peopleOf(String words) {
        return desk.services().workplace().permit().seesSomewhere(Sight.PEOPLE)
                ? desk.services().people().search(words, MOST).stream()
                        .map(Person::id)
                        .collect(Collectors.toSet())
                : Set.of();
    }

    private static Set<DoorId> doorsOf(String words, SiteModel sites) {
        return sites.doors().stream()
                .filter(d -> matches(d, sites, words))
                .limit(MOST)
                .map(Door::id)
                .collect(Collectors.toSet());
    }

    private static boolean matches(Door d, SiteModel sites, String low) {
        String all = (d.name() + " " + sites.siteOf(d.id()).map(s -> s.name()).orElse("") + " " + d.inside())
                .toLowerCase(Locale.ROOT);
        return List.of(low.split("\\s+")).stream().allMatch(all::contains);
    }

    private String badges(Person p) {
        List<Credential> all = desk.services().people().credentialsOf(p.id());
        return all.isEmpty()
                ? TEXTS.say("finder-no-badge")
                : TEXTS.say("finder-badge", all.get(0).number());
    }

    /** What is the latest is so only once all of history has been read. */
    private String latest(String words) {
        return desk.readsHistory() ? TEXTS.say("finder-latest-so-far", words) : words;
    }

    private void showEvents(Found of) {
        events.clear();
        eventsTitle.setText("");
        noEvent.setText("");
        int mine = ++askedEvents;
        EventQuery query;
        if (of instanceof Found.Somebody s) {
            query = EventQuery.all().person(s.person().id()).newest(EVENTS);
            eventsTitle.setText(latest(TEXTS.say("finder-latest-of", s.person().name())));
        } else if (of instanceof Found.SomeDoor d) {
            query = EventQuery.all()
                    .doors(Set.of(d.door().id()))
                    .kinds(Kinds.GRANTED, Kinds.REFUSED, Kinds.DURESS, Kinds.FORCED, Kinds.HELD, Kinds.RELEASED)
                    .newest(EVENTS);
            eventsTitle.setText(latest(TEXTS.say("finder-latest-at", d.door().name())));
        } else if (of instanceof Found.Outcomes o) {
            query = o.query();
            eventsTitle.setText(o.words());
        } else {
            if (of instanceof Found.Time t) {
                eventsTitle.setText(TEXTS.say("finder-time"));
            }
            return;
        }
        noEvent.setText(TEXTS.say("finder-loading"));
        desk.work()
                .latest(
                        eventList,
                        () -> desk.services().log().find(query),
                        list -> {
                            if (mine == askedEvents) {
                                events.setAll(list);
                                noEvent.setText(TEXTS.say("finder-no-events"));
                            }
                        },
                        noEvent::setText);
    }

    /** What is shown is what the words say again. */
    private void found() {
        searching = false;
        if (enterWhenFound) {
            enter();
        }
    }

    /** Opens what is chosen; of words that are still being looked for, what is found for them. */
    private void enter() {
        if (searching) {
            enterWhenFound = true;
            return;
        }
        Found chosen = results.getSelectionModel().getSelectedItem();
        if (chosen instanceof Found.SomeDoor d) {
            actions.close();
            actions.show(d.door());
        } else if (chosen instanceof Found.View v) {
            actions.close();
            actions.view(v.view());
        } else if (chosen instanceof Found.Time t) {
            actions.close();
            actions.lookBack(t.at());
        } else if ((chosen instanceof Found.Somebody || chosen instanceof Found.Outcomes) && !events.isEmpty()) {
            eventList.requestFocus();
        }
    }

    private void playSelected() {
        Event event = eventList.getSelectionModel().getSelectedItem();
        if (event != null && event.door().isPresent()) {
            actions.close();
            actions.play(event);
        }
    }

    private final class FoundCell extends ListCell<Found> {
        private final Label name = new Label();
        private final Label more = new Label();
        private final VBox box = new VBox(name, more);

        FoundCell() {
            more.getStyleClass().add("secondary");
            setContentDisplay(ContentDisplay.GRAPHIC_ONLY);
        }

        @Override
        protected void updateItem(Found item, boolean none) {
            super.updateItem(item, none);
            if (none || item == null) {
                setGraphic(null);
                return;
            }
            if (item instanceof Found.Somebody s) {
                name.setText(s.person().name());
                more.setText(s.person().company() + " · " + s.badges());
            } else if (item instanceof Found.SomeDoor d) {
                name.setText(d.door().name());
                more.setText(TEXTS.say("finder-door", d.site()));
            } else if (item instanceof Found.Outcomes o) {
                name.setText(o.words());
                more.setText(TEXTS.say("finder-outcome"));
            } else if (item instanceof Found.View v) {
                name.setText(v.view().name().get());
                more.setText(TEXTS.say("finder-view"));
            } else if (item instanceof Found.Time t) {
                name.setText(TEXTS.say("finder-look-back"));
                more.setText(TIME.format(t.at().atZone(desk.zone())));
            }
            setAccessibleText(name.getText() + ", " + more.getText());
            setGraphic(box);
        }
    }

    private final class EventCell extends ListCell<Event> {
        private final Label when = new Label();
        private final PriorityMark mark = new PriorityMark(theme, 14);
        private final Label what = new Label();
        private final HBox box;

        EventCell() {
            when.getStyleClass().addAll("figures", "muted");
            when.setMinWidth(Region.USE_PREF_SIZE);
            box = new HBox(9, when, mark, what);
            box.setAlignment(Pos.CENTER_LEFT);
            // As wide as the list, so that long words end in dots and nothing has to be scrolled sideways.
            box.setMinWidth(0);
            box.setPrefWidth(1);
            what.setMinWidth(0);
            setContentDisplay(ContentDisplay.GRAPHIC_ONLY);
        }

        @Override
        protected void updateItem(Event event, boolean none) {
            super.updateItem(event, none);
            if (none || event == null) {
                setGraphic(null);
                return;
            }
            EventWords w = desk.words();
            var zone = desk.zone();
            when.setText(ClockWords.dated(event.time(), desk.now(), zone));
            mark.show(Kinds.entry(event.kind()).priority());
            // What was found stands above the list already.
            boolean somebody = results.getSelectionModel().getSelectedItem() instanceof Found.Somebody;
            what.setText((somebody ? w.place(event) : w.subject(event)) + " · " + w.result(event, null));
            setAccessibleText(when.getText() + ", " + what.getText());
            setGraphic(box);
        }
    }
}
