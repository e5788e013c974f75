package org.custodia.desktop.alarm;

import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Consumer;
import java.util.stream.Collectors;
import javafx.geometry.Pos;
import javafx.scene.Node;
import javafx.scene.control.Button;
import javafx.scene.control.Label;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import org.custodia.core.alarm.Alarm;
import org.custodia.core.event.EventKey;
import org.custodia.core.site.Camera;
import org.custodia.core.site.SiteModel;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.picture.LoopedMoment;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.PriorityMark;
import org.custodia.desktop.theme.Theme;

/** Alarms that call, as cards over whatever view is open. Takes neither the focus nor the view from anybody. */
public final class AlarmCards extends VBox {
    private static final Texts TEXTS = Texts.of(AlarmCards.class);
    private static final double WIDE = 300;
    /** How wide the picture is where the window is low. */
    private static final double LOW = 190;

    private final Desk desk;
    private final Theme theme;
    private final AlarmWords words;
    private final AlarmCalls calls = new AlarmCalls();
    private final Consumer<EventKey> answer;
    private final Runnable queue;
    private final Map<EventKey, Card> cards = new LinkedHashMap<>();
    private final Label more = new Label();
    private final VBox flood = new VBox(6);
    private final Label floodHead = new Label();
    private final Label floodWords = new Label();
    private boolean wanted = true;
    private int ticks;

    /**
     * @param answer shows an alarm
     * @param queue shows all of them
     */
    public AlarmCards(Desk desk, Theme theme, Consumer<EventKey> answer, Runnable queue) {
        super(8);
        this.desk = desk;
        this.theme = theme;
        this.words = new AlarmWords(desk);
        this.answer = answer;
        this.queue = queue;
        getStyleClass().add("alarm-cards");
        setPickOnBounds(false);
        setMaxSize(Region.USE_PREF_SIZE, Region.USE_PREF_SIZE);
        more.getStyleClass().addAll("secondary", "alarm-card");
        floodHead.getStyleClass().add("strong");
        floodWords.getStyleClass().add("secondary");
        for (Label label : List.of(floodHead, floodWords)) {
            label.setWrapText(true);
            label.setMinHeight(Region.USE_PREF_SIZE);
        }
        flood.getStyleClass().add("alarm-card");
        flood.setPrefWidth(theme.px(WIDE));
        flood.setMaxWidth(theme.px(WIDE));
        flood.getChildren()
                .setAll(floodHead, floodWords, new HBox(8, button("to-queue", queue), button("put-away", () -> {
                    calls.hideFlood(desk.now());
                    tick();
                })));
        setVisible(false);
        desk.alarms().open().addListener((o, a, b) -> tick());
    }

    private static Button button(String words, Runnable run) {
        Button button = new Button(TEXTS.say(words));
        button.setMinWidth(Region.USE_PREF_SIZE);
        button.setOnAction(e -> run.run());
        return button;
    }

    /** Whether they are wanted; where alarms are what is looked at they are not. */
    public void wanted(boolean now) {
        wanted = now;
        tick();
    }

    /** Shows what calls now; called several times a second. */
    public void tick() {
        Instant now = desk.now();
        List<Alarm> unseen = desk.alarms().unseen();
        AlarmCalls.Shown shown =
                wanted ? calls.show(unseen, desk.alarms().raisedInTen(), room(), now) : AlarmCalls.Shown.NOTHING;
        List<Node> nodes = new ArrayList<>();
        for (Alarm alarm : shown.cards()) {
            Card card = cards.computeIfAbsent(alarm.id(), k -> new Card(alarm));
            card.show(alarm, nodes.isEmpty(), now);
            nodes.add(card);
        }
        cards.values().removeIf(c -> {
            boolean gone = !nodes.contains(c);
            if (gone) {
                c.close();
            }
            return gone;
        });
        if (shown.more() > 0) {
            more.setText(TEXTS.say("and-more", shown.more()));
            nodes.add(more);
        }
        shown.flood().ifPresent(n -> {
            floodHead.setText(TEXTS.say("flood", n, unseen.size()));
            floodWords.setText(AlarmCalls.sorts(unseen).entrySet().stream()
                    .sorted(Map.Entry.<String, Integer>comparingByValue().reversed())
                    .limit(4)
                    .map(e -> TEXTS.say("flood-sort", e.getKey(), e.getValue()))
                    .collect(Collectors.joining(" · ")));
            nodes.add(flood);
        });
        if (!nodes.equals(getChildren())) {
            getChildren().setAll(nodes);
        }
        setVisible(!nodes.isEmpty());
        boolean half = ticks++ % 2 == 0;
        if (half) {
            cards.values().forEach(c -> c.moment.tick(now));
        }
    }

    /** In a low window a second card would cover who stands at the door. */
    private int room() {
        boolean low = getScene() != null && getScene().getHeight() < theme.px(900);
        return low ? 1 : AlarmCalls.MOST_CARDS;
    }

    /** Lets go of the pictures. */
    public void close() {
        cards.values().forEach(Card::close);
        cards.clear();
    }

    /** One alarm. */
    private final class Card extends VBox {
        private final PriorityMark mark = new PriorityMark(theme, 18);
        private final Label what = new Label();
        private final Label where = new Label();
        private final Label how = new Label();
        private final LoopedMoment moment = new LoopedMoment(desk.services().pictures());
        private final Optional<Camera> camera;
        private Alarm alarm;

        Card(Alarm of) {
            super(6);
            getStyleClass().add("alarm-card");
            setPrefWidth(theme.px(WIDE));
            setMaxWidth(theme.px(WIDE));
            what.getStyleClass().add("strong");
            how.getStyleClass().add("secondary");
            for (Label label : List.of(what, where, how)) {
                label.setWrapText(true);
                label.setMinHeight(Region.USE_PREF_SIZE);
            }
            HBox head = new HBox(8, mark, new VBox(2, what, where, how));
            head.setAlignment(Pos.TOP_LEFT);
            HBox acts = new HBox(
                    8,
                    button("answer-card", () -> answer.accept(alarm.id())),
                    button("seen-card", () -> desk.alarms().acknowledge(List.of(alarm.seen()), desk.notices()::note)),
                    button("put-away", () -> {
                        calls.hide(alarm);
                        tick();
                    }));
            getChildren().setAll(head);
            SiteModel sites = desk.services().sites().get();
            camera = of.calling().subject().camera(sites);
            moment.managedProperty().bind(moment.visibleProperty());
            moment.clear();
            getChildren().addAll(moment, acts);
        }

        /**
         * @param first whether it is the worst, and shows its picture
         */
        void show(Alarm now, boolean first, Instant at) {
            double high = theme.px(room() == 1 ? LOW : WIDE - 20) * 9 / 16;
            moment.setMinHeight(high);
            moment.setMaxHeight(high);
            boolean shows = first && camera.isPresent();
            boolean anew = alarm == null || !alarm.latest().equals(now.latest());
            if (shows && (anew || !moment.isVisible())) {
                moment.show(camera.get(), TEXTS.say("card-moment"), desk.zone(), now.latest());
                moment.seen(true);
            } else if (!shows && moment.isVisible()) {
                moment.clear();
            }
            alarm = now;
            mark.show(now.origin().priority());
            what.setText(words.what(now));
            where.setText(words.where(now));
            how.setText(TEXTS.say("waits", words.standing(now, at), words.waiting(now, at)));
        }

        void close() {
            moment.close();
        }
    }
}
