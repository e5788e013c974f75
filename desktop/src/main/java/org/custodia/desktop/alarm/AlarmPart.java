package org.custodia.desktop.alarm;

import java.time.Duration;
import java.time.Instant;
import java.time.LocalTime;
import java.time.ZonedDateTime;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Supplier;
import java.util.stream.Collectors;
import javafx.geometry.Pos;
import javafx.scene.Node;
import javafx.scene.control.Button;
import javafx.scene.control.Label;
import javafx.scene.control.MenuButton;
import javafx.scene.control.MenuItem;
import javafx.scene.control.ScrollPane;
import javafx.scene.control.SplitMenuButton;
import javafx.scene.control.TextArea;
import javafx.scene.layout.FlowPane;
import javafx.scene.layout.GridPane;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import org.custodia.core.alarm.Alarm;
import org.custodia.core.alarm.Outcome;
import org.custodia.core.alarm.Subject;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventKey;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Kinds;
import org.custodia.core.site.Camera;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.Walk;
import org.custodia.core.workplace.PermittedAlarms;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.door.DoorCommandMenu;
import org.custodia.desktop.message.ToldPart;
import org.custodia.desktop.picture.LoopedMoment;
import org.custodia.desktop.picture.PicturePane;
import org.custodia.desktop.procedure.StepsPart;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.PriorityMark;
import org.custodia.desktop.theme.Theme;
import org.custodia.desktop.words.ClockWords;
import org.custodia.desktop.words.Names;

/** One alarm: what happened, then and now, what came just before, and what is done about it. */
final class AlarmPart extends VBox {
    /** How much room the title has at least beside the buttons. */
    private static final double TITLE = 300;
    /** How wide the right column is, and from which width on there are two. */
    private static final double RIGHT = 300;

    private static final double COLUMNS = 640;
    private static final Texts TEXTS = Texts.of(AlarmPart.class);

    /** What lets somebody open a door, this long before it opens. */
    private static final Duration BEFORE = Duration.ofSeconds(10);

    private static final Duration AFTER = Duration.ofMinutes(2);
    private static final Set<EventKind> LETS_OPEN = Set.of(Kinds.GRANTED, Kinds.EXIT_REQUESTED, Kinds.RELEASED);
    private static final int MOST_EVENTS = 60;
    /** Doors next to it that are shown, and how high. */
    private static final int MOST_NEXT = 3;

    private static final double NEXT = 96;
    private final Desk desk;
    private final AlarmWords words;
    private final PriorityMark mark;
    private final Label title = new Label();
    private final Label sentence = new Label();
    private final Label preceded = new Label();
    private final Button acknowledge = new Button(TEXTS.say("acknowledge-key"));
    private final SplitMenuButton take = new SplitMenuButton();
    private final MenuButton door = new MenuButton(TEXTS.say("door"));
    private final MenuButton shelve = new MenuButton(TEXTS.say("shelve"));
    private final MenuItem back = new MenuItem(TEXTS.say("shelve-back"));
    private final MenuButton finish = new MenuButton(TEXTS.say("finish"));
    private final LoopedMoment then;
    private final PicturePane now;
    private final Theme theme;
    private final VBox head = new VBox(8);
    private final HBox top = new HBox(10);
    private final FlowPane acts = new FlowPane(10, 8);
    private final GridPane columns = new GridPane();
    private final VBox left = new VBox(8);
    private final VBox right = new VBox(8);
    /** What stands in the first line beside the buttons. */
    private final List<Node> headline;

    private final HBox pictures = new HBox(8);
    private final AroundStrips strips;
    private final VBox around = new VBox(4);
    private final List<PicturePane> next = new ArrayList<>();
    private final HBox way = new HBox(8);
    private final VBox along = new VBox(8);
    private final WhoPart who;
    private final StepsPart todo;
    private final ToldPart told;
    private final VBox notes = new VBox(6);
    private final TextArea text = new TextArea();
    private final Button note = new Button(TEXTS.say("note"));
    private final Label said = new Label();
    private final Label nothing = new Label(TEXTS.say("choose"));
    private final VBox all = new VBox(12);
    private Optional<Alarm> alarm = Optional.empty();
    private Optional<CameraId> camera = Optional.empty();
    private List<Event> known = List.of();
    private boolean seen;

    AlarmPart(Desk desk, Theme theme) {
        this.desk = desk;
        this.words = new AlarmWords(desk);
        this.theme = theme;
        this.who = new WhoPart(desk, theme);
        this.todo = new StepsPart(desk, this::say);
        this.told = new ToldPart(desk);
        this.strips = new AroundStrips(desk, theme, this::playThere);
        this.mark = new PriorityMark(theme, 22);
        this.then = new LoopedMoment(desk.services().pictures());
        this.now = new PicturePane(desk.services().pictures());
        getStyleClass().add("alarm-part");
        title.getStyleClass().add("large");
        for (Label label : List.of(title, sentence, preceded, said)) {
            label.setWrapText(true);
            label.setMinHeight(Region.USE_PREF_SIZE);
        }
        sentence.getStyleClass().add("secondary");
        said.getStyleClass().add("caution");
        nothing.getStyleClass().add("empty");
        acknowledge.getStyleClass().add("main");
        acknowledge.setOnAction(e -> ofThis(a -> desk.alarms().acknowledge(List.of(a.seen()), this::say)));
        take.setText(TEXTS.say("take-key"));
        take.setOnAction(e -> take());
        take.setOnShowing(e -> colleagues());
        take.getItems().setAll(hint(TEXTS.say("reading-colleagues")));
        for (int hours : List.of(1, 4, 8)) {
            shelve.getItems()
                    .add(item(
                            TEXTS.say("shelve-hours", hours),
                            () -> shelve(desk.now().plus(Duration.ofHours(hours)))));
        }
        shelve.getItems().add(item(TEXTS.say("shelve-tomorrow"), () -> shelve(tomorrow())));
        back.setOnAction(e -> ofThis(a -> act(() -> alarms().back(a.id()).join())));
        shelve.getItems().add(back);
        for (Outcome outcome : Outcome.values()) {
            finish.getItems().add(item(AlarmWords.outcome(outcome), () -> finish(outcome)));
        }
        note.setOnAction(e -> note());
        text.setPromptText(TEXTS.say("what-you-saw"));
        text.setAccessibleText(TEXTS.say("what-you-saw"));
        text.setPrefRowCount(3);
        text.setWrapText(true);
        text.textProperty().addListener((o, a, b) -> note.setDisable(b.isBlank()));
        note.setDisable(true);
        for (Region button : List.of(acknowledge, take, door, shelve, finish, note)) {
            button.setMinWidth(Region.USE_PREF_SIZE);
        }
        VBox heading = new VBox(2, title, sentence, preceded);
        heading.setMinWidth(0);
        HBox.setHgrow(heading, Priority.ALWAYS);
        acts.getChildren().setAll(acknowledge, take, door, shelve, finish);
        headline = List.of(mark, heading);
        top.setAlignment(Pos.CENTER_LEFT);
        for (Region pane : List.of(then, now)) {
            HBox.setHgrow(pane, Priority.ALWAYS);
            pane.setPrefWidth(100);
        }
        pictures.getChildren().setAll(then, now);
        pictures.widthProperty().addListener((o, a, b) -> {
            double high = Math.min(theme.px(460), (b.doubleValue() - 8) / 2 * 9 / 16);
            pictures.setMinHeight(high);
            pictures.setPrefHeight(high);
            pictures.setMaxHeight(high);
        });
        Label happened = new Label(TEXTS.say("around"));
        happened.getStyleClass().add("strong");
        left.getChildren().setAll(who, strips, happened, around, along);
        GridPane.setHgrow(left, Priority.ALWAYS);
        left.setMinWidth(0);
        Label nextDoors = new Label(TEXTS.say("next-doors"));
        nextDoors.getStyleClass().add("strong");
        along.getChildren().setAll(nextDoors, way);
        Label noted = new Label(TEXTS.say("notes"));
        noted.getStyleClass().add("strong");
        right.getChildren().setAll(todo, noted, told, notes, text, new HBox(8, note), said);
        columns.setHgap(20);
        columns.setVgap(12);
        all.getChildren().setAll(head, pictures, columns);
        all.widthProperty().addListener((o, a, b) -> arrange());
        acts.widthProperty().addListener((o, a, b) -> arrange());
        theme.looks().addListener((o, a, b) -> arrange());
        arrange();
        all.getStyleClass().add("alarm-all");
        ScrollPane scroll = new ScrollPane(all);
        scroll.setFitToWidth(true);
        scroll.setHbarPolicy(ScrollPane.ScrollBarPolicy.NEVER);
        scroll.visibleProperty().bind(nothing.visibleProperty().not());
        scroll.managedProperty().bind(scroll.visibleProperty());
        VBox.setVgrow(scroll, Priority.ALWAYS);
        nothing.managedProperty().bind(nothing.visibleProperty());
        getChildren().setAll(nothing, scroll);
    }

    private static MenuItem item(String words, Runnable act) {
        MenuItem item = new MenuItem(words);
        item.setOnAction(e -> act.run());
        return item;
    }

    private static MenuItem hint(String words) {
        MenuItem item = new MenuItem(words);
        item.setDisable(true);
        return item;
    }

    /** Whom it can be handed over to. */
    private void colleagues() {
        desk.work()
                .latest(
                        take,
                        () -> alarms().colleagues(),
                        found -> {
                            List<MenuItem> items = new ArrayList<>();
                            found.forEach(c -> items.add(item(
                                    TEXTS.say("hand-to", c.name(), ClockWords.dated(c.last(), desk.now(), desk.zone())),
                                    () -> ofThis(a ->
                                            act(() -> alarms().hand(a.id(), c).join())))));
                            take.getItems().setAll(items.isEmpty() ? List.of(hint(TEXTS.say("nobody-else"))) : items);
                        },
                        why -> take.getItems().setAll(hint(why)));
    }

    private PermittedAlarms alarms() {
        return desk.services().workplace().alarms();
    }

    /** Puts the buttons under the title, and one column under the other, where the text is too large for both. */
    private void arrange() {
        double width = all.getWidth();
        double buttons = acts.getChildren().stream()
                .filter(Node::isManaged)
                .mapToDouble(n -> n.prefWidth(-1) + acts.getHgap())
                .sum();
        boolean beside = width == 0 || width - buttons >= theme.px(TITLE);
        boolean wide = width == 0 || width >= theme.px(COLUMNS);
        List<Node> row = new ArrayList<>(headline);
        if (beside) {
            row.add(acts);
        }
        acts.setMinWidth(beside ? buttons : 0);
        acts.setPrefWrapLength(beside ? buttons : width);
        if (!row.equals(top.getChildren())) {
            head.getChildren().clear();
            top.getChildren().setAll(row);
            head.getChildren().setAll(beside ? List.of(top) : List.of(top, acts));
        }
        right.setMinWidth(wide ? theme.px(RIGHT) : 0);
        right.setMaxWidth(wide ? theme.px(RIGHT) : Double.MAX_VALUE);
        if (columns.getChildren().isEmpty() || wide != (GridPane.getColumnIndex(right) == 1)) {
            columns.getChildren().clear();
            columns.add(left, 0, 0);
            columns.add(right, wide ? 1 : 0, wide ? 0 : 1);
        }
    }

    private void ofThis(java.util.function.Consumer<Alarm> use) {
        if (desk.moment().get().isLive()) {
            alarm.filter(Alarm::open).ifPresent(use);
        }
    }

    private void act(Supplier<?> what) {
        say("");
        desk.alarms().act(what, this::say);
    }

    private void say(String what) {
        said.setText(what);
    }

    private boolean mine(Alarm a) {
        return a.owner()
                .filter(o -> o.operator().equals(desk.services().actor().operator()))
                .isPresent();
    }

    void take() {
        ofThis(a -> {
            if (!mine(a)) {
                act(() -> alarms().take(a.id()).join());
            }
        });
    }

    private Instant tomorrow() {
        ZonedDateTime here = desk.now().atZone(desk.zone());
        return here.toLocalDate()
                .plusDays(1)
                .atTime(LocalTime.of(8, 0))
                .atZone(desk.zone())
                .toInstant();
    }

    /** What is put aside has a reason, which stands in the field for notes. */
    private void shelve(Instant until) {
        String why = text.getText();
        ofThis(a -> {
            if (why.isBlank()) {
                say(TEXTS.say("shelve-why"));
                text.requestFocus();
                return;
            }
            act(() -> alarms().shelve(a.id(), until, why).join());
            text.clear();
            doors(a);
        });
    }

    private void finish(Outcome outcome) {
        String what = text.getText();
        ofThis(a -> {
            act(() -> alarms().finish(a.seen(), outcome, what).join());
            text.clear();
        });
    }

    private void note() {
        String what = text.getText();
        ofThis(a -> {
            act(() -> alarms().note(a.id(), what).join());
            text.clear();
        });
    }

    /** The one that is shown. */
    Optional<EventKey> shown() {
        return alarm.map(Alarm::id);
    }

    /** It is not open any more: it stays to be read. */
    void gone() {
        alarm.flatMap(a -> alarms().finished().stream()
                        .filter(f -> f.id().equals(a.id()))
                        .findFirst())
                .ifPresent(a -> show(Optional.of(a)));
    }

    /** Shows one as it stands. */
    void show(Optional<Alarm> standing) {
        boolean another = !standing.map(Alarm::id).equals(shown());
        boolean anew = another || !standing.map(Alarm::latest).equals(alarm.map(Alarm::latest));
        alarm = standing;
        nothing.setVisible(standing.isEmpty());
        if (standing.isEmpty()) {
            return;
        }
        Alarm a = standing.get();
        if (another) {
            known = List.of();
            say("");
            text.clear();
            doors(a);
            around.getChildren().clear();
            preceded("");
        }
        if (anew) {
            strips(a);
            cameras(a);
        }
        mark.show(a.origin().priority());
        title.setText(TEXTS.say("title", words.what(a), words.where(a)));
        who.show(a.calling().person(), a.calling().at());
        todo.show(a);
        told.show(a);
        notes.getChildren().clear();
        a.notes().forEach(n -> notes.getChildren()
                .add(line(TEXTS.say("noted", ClockWords.clock(n.by().when(), desk.zone()), n.by().name(), n.text()))));
        // Each acknowledgement, also those before a repetition.
        List<Alarm.By> seenBy =
                a.answers().stream().map(Alarm.Answer::by).collect(Collectors.toCollection(ArrayList::new));
        a.acknowledged().filter(by -> !seenBy.contains(by)).ifPresent(seenBy::add);
        for (int i = 0; i < seenBy.size(); i++) {
            Alarm.By by = seenBy.get(i);
            notes.getChildren()
                    .add(
                            i,
                            line(TEXTS.say(
                                    by.operator().isEmpty() ? "seen-there" : "seen-by",
                                    ClockWords.dated(by.when(), desk.now(), desk.zone()),
                                    by.name())));
        }
        a.finished().ifPresent(f -> notes.getChildren()
                .add(line(TEXTS.say(
                        f.by().operator().isEmpty() ? "finished-there" : "finished-by",
                        ClockWords.clock(f.by().when(), desk.zone()),
                        f.by().name(),
                        AlarmWords.outcome(f.outcome()),
                        f.text()))));
        readAround(a);
        tick();
    }

    private static Label line(String words) {
        Label label = new Label(words);
        label.setWrapText(true);
        label.setMinHeight(Region.USE_PREF_SIZE);
        return label;
    }

    /** What can be done at its door, and the doors next to it. */
    private void doors(Alarm a) {
        SiteModel sites = desk.services().sites().get();
        Optional<Door> its = a.calling().subject().door().flatMap(sites::door);
        door.setVisible(its.isPresent());
        door.setManaged(its.isPresent());
        door.getItems()
                .setAll(its.map(d -> new DoorCommandMenu(desk, d).items()).orElse(List.of()));
        next.forEach(PicturePane::close);
        next.clear();
        way.getChildren().clear();
        its.ifPresent(d -> sites.walks(d.id()).stream().limit(MOST_NEXT).forEach(w -> next(d.id(), w, sites)));
        along.setVisible(!next.isEmpty());
        along.setManaged(!next.isEmpty());
    }

    private void strips(Alarm a) {
        SiteModel sites = desk.services().sites().get();
        Optional<Door> its = a.calling().subject().door().flatMap(sites::door);
        Map<DoorId, String> lines = new LinkedHashMap<>();
        its.ifPresent(d -> {
            lines.put(d.id(), d.name());
            sites.walks(d.id()).stream()
                    .limit(MOST_NEXT)
                    .forEach(w -> lines.put(w.from(d.id()), along(d.id(), w, sites)));
        });
        strips.show(lines, a.latest());
    }

    private static String along(DoorId from, Walk walk, SiteModel sites) {
        DoorId other = walk.from(from);
        return TEXTS.say(
                "along",
                sites.door(other).map(Door::name).orElse(other.value()),
                walk.takes().toSeconds());
    }

    /** Plays a moment of the strips in place of the alarm's own. */
    private void playThere(DoorId at, Instant when) {
        SiteModel sites = desk.services().sites().get();
        sites.pairings(at).stream()
                .flatMap(p -> sites.camera(p.camera()).stream())
                .findFirst()
                .ifPresentOrElse(
                        c -> then.show(c, TEXTS.say("then", c.name()), desk.zone(), when),
                        () -> then.none(TEXTS.say("no-camera")));
    }

    private void next(DoorId from, Walk walk, SiteModel sites) {
        DoorId other = walk.from(from);
        String name = along(from, walk, sites);
        PicturePane pane = new PicturePane(desk.services().pictures());
        pane.setMinSize(NEXT * 16 / 9, NEXT);
        pane.setMaxSize(NEXT * 16 / 9, NEXT);
        sites.pairings(other).stream()
                .flatMap(p -> sites.camera(p.camera()).stream())
                .findFirst()
                .ifPresentOrElse(c -> pane.camera(c, name, desk.zone()), () -> pane.none(name));
        pane.seen(seen);
        next.add(pane);
        way.getChildren().add(pane);
    }

    private void cameras(Alarm a) {
        SiteModel sites = desk.services().sites().get();
        Subject subject = a.calling().subject();
        Optional<Camera> found = subject.camera(sites);
        Optional<Subject.Nearby> nearby = subject.nearby(sites);
        camera = found.or(() -> nearby.map(Subject.Nearby::camera)).map(Camera::id);
        if (camera.isEmpty()) {
            then.none(TEXTS.say("no-camera"));
            now.none(TEXTS.say("no-camera"));
            return;
        }
        String name = found.map(Camera::name)
                .orElseGet(() -> TEXTS.say(
                        "nearby",
                        sites.door(nearby.get().at()).map(Door::name).orElse(""),
                        nearby.get().after().toSeconds()));
        Camera shown = sites.camera(camera.get()).orElseThrow();
        if (found.isPresent()
                && subject.door().filter(d -> desk.inDoubt(d, shown.id())).isPresent()) {
            name = TEXTS.say("in-doubt", name);
        }
        then.show(shown, TEXTS.say("then", name), desk.zone(), a.latest());
        now.camera(shown, TEXTS.say("now", name), desk.zone());
        then.seen(seen);
        now.seen(seen);
    }

    /** What happened at its door, from just before until two minutes after. */
    private void readAround(Alarm a) {
        Optional<DoorId> door = a.calling().subject().door();
        if (door.isEmpty()) {
            around.getChildren().setAll(muted(TEXTS.say("no-door")));
            preceded("");
            return;
        }
        Instant from = a.latest().minus(BEFORE);
        EventQuery query = EventQuery.all()
                .doors(Set.of(door.get()))
                .between(from, a.latest().plus(AFTER))
                .oldest(MOST_EVENTS);
        desk.work()
                .latest(
                        this,
                        () -> desk.services().log().find(query),
                        found -> happened(a, found),
                        why -> around.getChildren().setAll(muted(why)));
    }

    private void happened(Alarm a, List<Event> found) {
        if (!shown().equals(Optional.of(a.id())) || found.equals(known)) {
            return;
        }
        known = found;
        around.getChildren().clear();
        for (Event event : found) {
            if (!event.kind().id().startsWith("alarm.")) {
                boolean named = event.person().isPresent() || event.credential().isPresent();
                String who = named ? desk.words().who(event) : "";
                String when = ClockWords.exact(event.time(), desk.now(), desk.zone());
                String what = Names.kind(event.kind());
                around.getChildren()
                        .add(line(
                                who.isBlank()
                                        ? TEXTS.say("event", when, what)
                                        : TEXTS.say("event-who", when, what, who)));
            }
        }
        if (around.getChildren().isEmpty()) {
            around.getChildren().add(muted(TEXTS.say("nothing-around")));
        }
        // Whether it was a real one: what lets a door be opened, shortly before.
        List<String> before = new ArrayList<>();
        for (Event event : found) {
            if (LETS_OPEN.contains(event.kind()) && event.time().isBefore(a.latest())) {
                before.add(TEXTS.say("event", ClockWords.clock(event.time(), desk.zone()), Names.kind(event.kind())));
            }
        }
        boolean forced = a.origin().rule().equals("forced");
        preceded(
                !forced
                        ? ""
                        : before.isEmpty()
                                ? TEXTS.say("preceded-by-nothing")
                                : TEXTS.say("preceded-by", String.join(", ", before)));
    }

    private void preceded(String words) {
        preceded.setText(words);
        preceded.setVisible(!words.isEmpty());
        preceded.setManaged(!words.isEmpty());
    }

    private static Label muted(String words) {
        Label label = line(words);
        label.getStyleClass().add("muted");
        return label;
    }

    /** Whether somebody can see it. */
    void seen(boolean visible) {
        seen = visible;
        if (camera.isPresent()) {
            then.seen(visible);
            now.seen(visible);
        }
        next.forEach(p -> p.seen(visible));
    }

    /** Says how it stands now, and shows the next second of the moment; called twice a second. */
    void tick() {
        if (alarm.isEmpty()) {
            return;
        }
        Alarm a = alarm.get();
        Instant at = desk.shown();
        sentence.setText(words.sentence(a, at));
        Alarm.State state = a.state(at);
        // Looking back it stands as it stood then, and nothing can be done about that any more.
        boolean live = desk.moment().get().isLive();
        boolean open = a.open() && live;
        acknowledge.setDisable(!live || state != Alarm.State.NEW);
        take.setDisable(!open);
        take.setText(TEXTS.say(mine(a) ? "yours" : "take-key"));
        shelve.setDisable(!open);
        back.setDisable(!live || state != Alarm.State.SHELVED);
        finish.setDisable(!open);
        text.setDisable(!open);
        then.tick(at);
        told.tick();
        strips.tick();
    }

    void close() {
        then.close();
        now.close();
        next.forEach(PicturePane::close);
    }
}
