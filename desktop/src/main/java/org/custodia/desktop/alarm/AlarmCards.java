package org.custodia.desktop.alarm;

import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;
import javafx.geometry.BoundingBox;
import javafx.geometry.Bounds;
import javafx.geometry.Point2D;
import javafx.geometry.Pos;
import javafx.scene.Node;
import javafx.scene.control.Label;
import javafx.scene.input.MouseEvent;
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

/**
 * Alarms that call, as cards over whatever view is open. They take neither the focus nor a press: what lies under them can be
 * worked, and they are not seen while the pointer or the focus is there. What can be done about them is in {@link AlarmLine}.
 */
public final class AlarmCards extends VBox {
    private static final Texts TEXTS = Texts.of(AlarmCards.class);
    private static final double WIDE = 300;
    /** How wide the picture is where the window is low. */
    private static final double LOW = 190;
    /** A pointer that comes this near is going there, in pixels. */
    private static final double NEAR = 30;

    private final Desk desk;
    private final Theme theme;
    private final AlarmWords words;
    private final AlarmCalls calls = new AlarmCalls();
    private final Map<EventKey, Card> cards = new LinkedHashMap<>();
    private final VBox flood = new VBox(6);
    private final Label floodHead = new Label();
    private final Label floodWords = new Label();
    private Optional<Point2D> pointer = Optional.empty();
    private boolean wanted = true;
    private int ticks;

    public AlarmCards(Desk desk, Theme theme) {
        super(8);
        this.desk = desk;
        this.theme = theme;
        this.words = new AlarmWords(desk);
        getStyleClass().add("alarm-cards");
        setMouseTransparent(true);
        setMaxSize(Region.USE_PREF_SIZE, Region.USE_PREF_SIZE);
        floodHead.getStyleClass().add("strong");
        floodWords.getStyleClass().add("secondary");
        for (Label label : List.of(floodHead, floodWords)) {
            label.setWrapText(true);
            label.setMinHeight(Region.USE_PREF_SIZE);
        }
        flood.getStyleClass().add("alarm-card");
        flood.setPrefWidth(theme.px(WIDE));
        flood.setMaxWidth(theme.px(WIDE));
        flood.getChildren().setAll(floodHead, floodWords);
        setVisible(false);
        desk.alarms().open().addListener((o, a, b) -> tick());
    }

    /** Follows the pointer, to give way to it. */
    public void pointer(MouseEvent e) {
        // That of a child comes as another type.
        pointer = e.getEventType() == MouseEvent.MOUSE_EXITED
                ? Optional.empty()
                : Optional.of(new Point2D(e.getSceneX(), e.getSceneY()));
        giveWay();
    }

    /** Is not seen while the pointer or the focus is where it lies. */
    private void giveWay() {
        Bounds here = localToScene(getLayoutBounds());
        Bounds near = new BoundingBox(
                here.getMinX() - NEAR, here.getMinY() - NEAR, here.getWidth() + 2 * NEAR, here.getHeight() + 2 * NEAR);
        Node focused = getScene() == null ? null : getScene().getFocusOwner();
        boolean inTheWay = pointer.filter(near::contains).isPresent()
                || focused != null
                        && here.intersects(focused.localToScene(focused.getLayoutBounds()))
                        // A list or page that holds the focus as a whole is larger.
                        && focused.getLayoutBounds().getHeight() < here.getHeight();
        setOpacity(inTheWay ? 0 : 1);
    }

    /** Hides those that are shown; the alarms stay as they are. */
    void putAway() {
        cards.values().forEach(c -> calls.hide(c.alarm));
        if (getChildren().contains(flood)) {
            calls.hideFlood(desk.now());
        }
        tick();
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
        giveWay();
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
            getChildren().setAll(head);
            SiteModel sites = desk.services().sites().get();
            camera = of.calling().subject().camera(sites);
            moment.managedProperty().bind(moment.visibleProperty());
            moment.clear();
            getChildren().add(moment);
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
