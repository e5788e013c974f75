package org.custodia.desktop.message;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import javafx.geometry.Pos;
import javafx.scene.control.Label;
import javafx.scene.control.ListCell;
import javafx.scene.control.ListView;
import javafx.scene.control.MenuButton;
import javafx.scene.control.MenuItem;
import javafx.scene.control.ScrollPane;
import javafx.scene.layout.BorderPane;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import org.custodia.core.alarm.Escalation;
import org.custodia.core.event.EventKey;
import org.custodia.core.message.MailServer;
import org.custodia.core.message.MessageDesk;
import org.custodia.core.message.Receiver;
import org.custodia.core.workplace.PermittedMessages;
import org.custodia.desktop.Work;
import org.custodia.desktop.control.Rows;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.Theme;
import org.custodia.desktop.words.ClockWords;

/** Who is told of alarms who is not at a desk, when they are, by which mail server, and what was sent of late. */
public final class MessagesPage extends BorderPane {
    private static final Texts TEXTS = Texts.of(MessagesPage.class);
    private static final double LIST = 340;
    private static final double SENT = 250;
    private static final Duration EVERY = Duration.ofSeconds(2);
    private static final int MOST_SENT = 300;

    private final Desk desk;
    private final Work lane = new Work("messages page", 1);
    /** A trial may take as long as a server wants. */
    private final Work trials = new Work("message trials", 2);

    private final Rows<Row> rows = new Rows<>();
    private final ListView<Row> list = new ListView<>();
    private final Label empty = new Label(TEXTS.say("reading"));
    private final ScrollPane scroll = new ScrollPane();
    private final SentPart sent;
    private final VBox center;
    private Optional<EditedPart> part = Optional.empty();
    private Instant readAt = Instant.MIN;
    private boolean seen;

    /** What can be chosen and edited. */
    private sealed interface Row {}

    /** When nobody comes. */
    private record Calling(Escalation escalation) implements Row {}

    /** By which mail goes. */
    private record Server(Optional<MailServer> server) implements Row {}

    /** Whom. */
    private record To(MessageDesk.Standing standing) implements Row {}

    private record Read(
            List<MessageDesk.Standing> receivers,
            Optional<MailServer> server,
            Escalation escalation,
            List<MessageDesk.Sent> sent) {}

    /**
     * @param show shows an alarm
     */
    public MessagesPage(Desk desk, Theme theme, java.util.function.Consumer<EventKey> show) {
        this.desk = desk;
        this.sent = new SentPart(desk, theme, this::refresh, show);
        MenuButton fresh = new MenuButton(TEXTS.say("new"));
        MenuItem mail = new MenuItem(TEXTS.say("new-mail"));
        mail.setOnAction(e -> begin(ReceiverPart.freshMail(desk)));
        MenuItem web = new MenuItem(TEXTS.say("new-web"));
        web.setOnAction(e -> begin(ReceiverPart.freshWeb(desk)));
        fresh.getItems().setAll(mail, web);
        fresh.setDisable(!messages().mayChange());
        fresh.setMinWidth(Region.USE_PREF_SIZE);
        Region gap = new Region();
        HBox.setHgrow(gap, Priority.ALWAYS);
        HBox bar = new HBox(8, gap, fresh);
        bar.setAlignment(Pos.CENTER_LEFT);
        bar.getStyleClass().add("alarm-counts");
        list.setAccessibleText(TEXTS.say("receivers"));
        list.setItems(rows.list());
        list.setCellFactory(v -> new Line());
        empty.getStyleClass().add("empty");
        empty.setWrapText(true);
        list.setPlaceholder(empty);
        list.getSelectionModel().selectedItemProperty().addListener((o, a, b) -> {
            if (b != null && !rows.filling()) {
                edit(b);
            }
        });
        VBox.setVgrow(list, Priority.ALWAYS);
        VBox left = new VBox(bar, list);
        left.getStyleClass().add("alarm-queue");
        left.setMinWidth(theme.px(LIST));
        left.setPrefWidth(theme.px(LIST));
        setLeft(left);
        scroll.setFitToWidth(true);
        scroll.setHbarPolicy(ScrollPane.ScrollBarPolicy.NEVER);
        VBox.setVgrow(scroll, Priority.ALWAYS);
        sent.setMinHeight(theme.px(SENT));
        sent.setPrefHeight(theme.px(SENT));
        center = new VBox(sent);
        setCenter(center);
        arrange();
    }

    private PermittedMessages messages() {
        return desk.services().workplace().messages();
    }

    /** What is edited lies above what was sent; without it there is room for more of that. */
    private void arrange() {
        if (part.isPresent()) {
            scroll.setContent(part.get());
            VBox.setVgrow(sent, Priority.NEVER);
            center.getChildren().setAll(scroll, sent);
        } else {
            VBox.setVgrow(sent, Priority.ALWAYS);
            center.getChildren().setAll(sent);
        }
    }

    private void begin(Receiver fresh) {
        list.getSelectionModel().clearSelection();
        show(new ReceiverPart(desk, fresh, Optional.empty(), lane, trials, this::refresh, this::gone));
    }

    private void show(EditedPart edited) {
        part = Optional.of(edited);
        arrange();
    }

    private void gone() {
        part = Optional.empty();
        arrange();
        refresh();
    }

    private void edit(Row row) {
        show(
                row instanceof To to
                        ? new ReceiverPart(
                                desk,
                                to.standing().receiver(),
                                Optional.of(to.standing()),
                                lane,
                                trials,
                                this::refresh,
                                this::gone)
                        : row instanceof Server server
                                ? new ServerPart(desk, server.server(), lane, this::refresh)
                                : new CallingPart(desk, ((Calling) row).escalation(), lane, this::refresh));
    }

    /** Whether it can be seen. */
    public void inSight(boolean inSight) {
        seen = inSight;
        if (inSight) {
            refresh();
        }
    }

    /** Looks from time to time how messages fare; called twice a second. */
    public void tick() {
        Instant now = Instant.now();
        if (seen && now.isAfter(readAt.plus(EVERY))) {
            refresh();
        }
    }

    private void refresh() {
        if (!messages().mayLook()) {
            empty.setText(TEXTS.say("may-not"));
            return;
        }
        readAt = Instant.now();
        lane.latest(
                this,
                () -> new Read(
                        messages().receivers(),
                        messages().server(),
                        messages().escalation(),
                        messages().messages(MOST_SENT)),
                this::took,
                why -> {
                    empty.setText(why);
                    sent.failed(why);
                });
    }

    private void took(Read read) {
        List<Row> now = new ArrayList<>();
        now.add(new Calling(read.escalation()));
        now.add(new Server(read.server()));
        read.receivers().forEach(r -> now.add(new To(r)));
        int chosen = list.getSelectionModel().getSelectedIndex();
        Optional<String> key = chosen >= 0 ? Optional.of(key(rows.list().get(chosen))) : Optional.empty();
        Optional<String> edited = part.flatMap(EditedPart::id);
        rows.fill(now);
        for (int i = 0; i < now.size(); i++) {
            if (key.or(() -> edited).equals(Optional.of(key(now.get(i))))) {
                selectSilently(i);
            }
        }
        sent.show(read.sent());
        part.ifPresent(p -> now.forEach(row -> {
            if (row instanceof To to && p instanceof ReceiverPart r) {
                r.took(to.standing());
            } else if (row instanceof Server s && p instanceof ServerPart server) {
                server.took(s.server());
            } else if (row instanceof Calling c && p instanceof CallingPart calling) {
                calling.took(c.escalation());
            }
        }));
    }

    /** What was chosen before is chosen still, which is nobody's choice. */
    private void selectSilently(int index) {
        if (list.getSelectionModel().getSelectedIndex() != index) {
            Optional<EditedPart> before = part;
            list.getSelectionModel().select(index);
            part = before;
            arrange();
        }
    }

    private static String key(Row row) {
        return row instanceof To to
                ? to.standing().receiver().id()
                : row.getClass().getSimpleName();
    }

    /** Lets go of everything. */
    public void close() {
        lane.close();
        trials.close();
    }

    /** One line of the list. */
    private final class Line extends ListCell<Row> {
        private final Label title = new Label();
        private final Label detail = new Label();
        private final Label fares = new Label();
        private final VBox line = new VBox(2, title, detail, fares);

        Line() {
            title.getStyleClass().add("strong");
            for (Label label : List.of(detail, fares)) {
                label.getStyleClass().add("secondary");
                label.setWrapText(true);
                label.setMinHeight(Region.USE_PREF_SIZE);
                label.managedProperty().bind(label.textProperty().isNotEmpty());
            }
            setPrefWidth(0);
            getStyleClass().add("alarm-row");
        }

        @Override
        protected void updateItem(Row row, boolean none) {
            super.updateItem(row, none);
            if (none || row == null) {
                setGraphic(null);
                setAccessibleText(null);
                return;
            }
            fares.getStyleClass().remove("caution");
            fares.setText("");
            if (row instanceof Calling calling) {
                title.setText(TEXTS.say("calling"));
                detail.setText(CallingPart.summary(calling.escalation()));
            } else if (row instanceof Server server) {
                title.setText(TEXTS.say("server"));
                detail.setText(server.server()
                        .map(s -> TEXTS.say("server-detail", s.host(), String.valueOf(s.port())))
                        .orElse(TEXTS.say("server-none")));
            } else {
                receiver(((To) row).standing());
            }
            setAccessibleText(String.join(", ", title.getText(), detail.getText(), fares.getText()));
            setGraphic(line);
        }

        private void receiver(MessageDesk.Standing standing) {
            Receiver r = standing.receiver();
            title.setText(r.on() ? r.name() : TEXTS.say("switched-off", r.name()));
            detail.setText(
                    r.way() instanceof Receiver.Mail mail
                            ? String.join(", ", mail.to())
                            : ((Receiver.Web) r.way()).address().toString());
            Instant now = desk.now();
            if (standing.fares().waiting() > 0) {
                fares.setText(TEXTS.say(
                        "waiting",
                        standing.fares().waiting(),
                        ClockWords.dated(standing.fares().oldest().orElse(now), now, desk.zone())));
                fares.getStyleClass().add("caution");
            } else {
                fares.setText(standing.fares()
                        .sent()
                        .map(t -> TEXTS.say("told-last", ClockWords.dated(t, now, desk.zone())))
                        .orElse(TEXTS.say("told-never")));
            }
        }
    }
}
