package org.custodia.desktop.setup;

import java.nio.file.Path;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import javafx.animation.Animation;
import javafx.animation.KeyFrame;
import javafx.animation.Timeline;
import javafx.beans.property.ObjectProperty;
import javafx.beans.property.SimpleObjectProperty;
import javafx.scene.Node;
import javafx.scene.control.Button;
import javafx.scene.control.Label;
import javafx.scene.control.MenuButton;
import javafx.scene.control.MenuItem;
import javafx.scene.control.ScrollPane;
import javafx.scene.input.KeyCode;
import javafx.scene.input.KeyCodeCombination;
import javafx.scene.input.KeyCombination;
import javafx.scene.layout.BorderPane;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import javafx.util.Duration;
import org.custodia.core.site.SiteModel;
import org.custodia.desktop.changes.ChangesPage;
import org.custodia.desktop.control.FileQuestion;
import org.custodia.desktop.control.MovedRows;
import org.custodia.desktop.control.Segments;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.desk.MainView;
import org.custodia.desktop.desk.Shortcut;
import org.custodia.desktop.desk.ViewContext;
import org.custodia.desktop.inventory.InventoryPage;
import org.custodia.desktop.setup.LinksModel.Line;
import org.custodia.desktop.setup.LinksModel.State;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.Theme;
import org.custodia.desktop.translation.TranslationPage;

/** Setup: what Custodia is connected to, each system a line that opens to be changed where it stands. */
public final class SetupView extends BorderPane implements MainView {
    private static final Texts TEXTS = Texts.of(SetupView.class);

    /** How the shell knows it. */
    public static final MainView.Plug PLUG = new MainView.Plug(
            () -> TEXTS.say("setup"),
            () -> List.of(TEXTS.say("setup-words").split(", ")),
            "M2 5 H12 V3 H15 V5 H18 V7 H15 V9 H12 V7 H2 Z M2 13 H5 V11 H8 V13 H18 V15 H8 V17 H5 V15 H2 Z",
            new KeyCodeCombination(KeyCode.DIGIT8, KeyCombination.CONTROL_DOWN),
            () -> List.of(
                    new Shortcut(TEXTS.say("enter-key"), TEXTS.say("key-open"), TEXTS.say("on-a-link")),
                    new Shortcut(TEXTS.say("enter-key"), TEXTS.say("key-accept"), TEXTS.say("on-a-proposal")),
                    new Shortcut(TEXTS.say("delete-key"), TEXTS.say("key-refuse"), TEXTS.say("on-a-proposal")),
                    new Shortcut("1 2 3", TEXTS.say("key-figure"), TEXTS.say("in-the-cameras"))),
            SetupView::new);

    private static final Duration TICK = Duration.millis(500);

    private final Desk desk;
    private final Theme theme;
    private final LinksModel links;
    private final PairsPage pairs;
    private final ScrollPane scroll;
    private final ClocksPage clocks;
    private final FootagePage footage;
    private final InventoryPage inventory;
    private final TranslationPage meanings;
    private final ChangesPage changes;
    private Page page = Page.LINKS;
    /** The connections, or what would be changed of them. */
    private Node onLinks;

    private final Label count = new Label();
    private final MenuButton file = new MenuButton(TEXTS.say("setup-file"));
    private final Button connect = new Button(TEXTS.say("connect"));
    private final VBox list = new VBox();
    private final VBox rows = new VBox();
    private final VBox fresh = new VBox();
    private final Label empty = new Label();
    private final VBox greeting = new VBox();
    private final Map<String, LinkRow> byId = new LinkedHashMap<>();
    private final Timeline ticker = new Timeline(new KeyFrame(TICK, e -> tick()));

    private SetupView(ViewContext context) {
        this.desk = context.desk();
        this.theme = context.theme();
        this.links = new LinksModel(desk);
        getStyleClass().add("setup");
        ObjectProperty<Page> chosen = new SimpleObjectProperty<>(page);
        Segments<Page> pages = new Segments<>(Page.class, chosen);
        pages.letter(p -> TEXTS.say("page." + p.name().toLowerCase(Locale.ROOT)));
        chosen.addListener((o, before, now) -> turnTo(now));
        count.getStyleClass().add("muted");
        count.setMinWidth(0);
        Region gap = new Region();
        HBox.setHgrow(gap, Priority.ALWAYS);
        connect.setMinWidth(Region.USE_PREF_SIZE);
        connect.setOnAction(e -> add());
        file.setMinWidth(Region.USE_PREF_SIZE);
        file.getItems().setAll(item("export-setup", this::export), item("import-setup", this::choose));
        pairs = new PairsPage(new PairsModel(desk), theme);
        HBox bar = new HBox(pages, count, gap, pairs.looking(), pairs.sheet(), file, connect);
        bar.getStyleClass().add("view-bar");
        clocks = new ClocksPage(links, theme);
        footage = new FootagePage(desk, theme);
        inventory = new InventoryPage(desk, theme);
        meanings = new TranslationPage(desk, theme);
        changes = new ChangesPage(desk);
        empty.getStyleClass().add("empty");
        empty.setMaxWidth(Double.MAX_VALUE);
        greeting.getStyleClass().add("greeting");
        MovedRows.guard(rows);
        list.getChildren().setAll(greeting, fresh, rows, empty);
        scroll = new ScrollPane(list);
        scroll.setFitToWidth(true);
        scroll.setFocusTraversable(false);
        scroll.setHbarPolicy(ScrollPane.ScrollBarPolicy.NEVER);
        setTop(bar);
        onLinks(scroll);
        links.state().addListener((o, a, b) -> show());
        ticker.setCycleCount(Animation.INDEFINITE);
        show();
    }

    private static MenuItem item(String words, Runnable act) {
        MenuItem item = new MenuItem(TEXTS.say(words));
        item.setOnAction(e -> act.run());
        return item;
    }

    private void export() {
        FileQuestion.save(this, "links.json").ifPresent(links::export);
    }

    private void choose() {
        FileQuestion.open(this).ifPresent(this::preview);
    }

    /** Shows what a links file would change, in place of the connections, until that is decided. */
    void preview(Path from) {
        links.plan(
                from,
                planned -> onLinks(new SetupPreview(
                        links, from.getFileName().toString(), planned.plan(), planned.names(), () -> onLinks(scroll))));
    }

    private void onLinks(Node node) {
        onLinks = node;
        if (page == Page.LINKS) {
            setCenter(node);
        }
    }

    /** The pages there are. */
    private enum Page {
        LINKS,
        INVENTORY,
        MEANINGS,
        PAIRS,
        CLOCKS,
        FOOTAGE,
        CHANGES
    }

    private void turnTo(Page wanted) {
        page = wanted;
        inventory.inSight(wanted == Page.INVENTORY);
        setCenter(
                switch (wanted) {
                    case LINKS -> onLinks;
                    case INVENTORY -> inventory;
                    case MEANINGS -> meanings;
                    case PAIRS -> pairs;
                    case CLOCKS -> clocks;
                    case FOOTAGE -> footage;
                    case CHANGES -> changes;
                });
        if (wanted == Page.PAIRS) {
            pairs.refresh();
        } else if (wanted == Page.INVENTORY) {
            inventory.refresh();
        } else if (wanted == Page.MEANINGS) {
            meanings.refresh();
        } else if (wanted == Page.CHANGES) {
            changes.refresh();
        }
        show();
        tick();
    }

    /** Opens an empty editor above all lines, or goes to the one that is open. */
    private void add() {
        if (fresh.getChildren().isEmpty()) {
            LinkEditor editor = new LinkEditor(links.fresh(), theme, true, this::added);
            fresh.getChildren().setAll(editor);
        }
        ((LinkEditor) fresh.getChildren().get(0)).begin();
    }

    private void added() {
        fresh.getChildren().forEach(n -> ((LinkEditor) n).forget());
        fresh.getChildren().clear();
        connect.requestFocus();
        show();
    }

    private void show() {
        State state = links.state().get();
        List<Line> lines = state instanceof State.Read read ? read.lines() : List.of();
        if (state instanceof State.Read) {
            show(lines);
            clocks.show(lines.stream().map(Line::kept).toList());
        }
        connect.setVisible(links.may() && page == Page.LINKS);
        connect.setManaged(page == Page.LINKS);
        file.setVisible(links.mayLook() && page == Page.LINKS);
        file.setManaged(page == Page.LINKS);
        pairs.sheet().setVisible(page == Page.PAIRS);
        pairs.sheet().setManaged(page == Page.PAIRS);
        boolean looks = page == Page.PAIRS || page == Page.CLOCKS;
        if (!looks) {
            pairs.looking().setVisible(false);
            pairs.looking().setManaged(false);
        }
        String words = "";
        if (!links.mayLook()) {
            words = TEXTS.say("may-not", desk.services().actor().name());
        } else if (state instanceof State.Loading) {
            words = TEXTS.say("loading");
        } else if (state instanceof State.Failed failed) {
            words = TEXTS.say("failed", failed.why());
        }
        empty.setText(words);
        empty.setVisible(!words.isEmpty());
        empty.setManaged(!words.isEmpty());
        rows.setVisible(words.isEmpty());
        count.setText(
                state instanceof State.Read && links.mayLook() && page == Page.LINKS
                        ? TEXTS.say("connections", lines.size())
                        : "");
        greet(state instanceof State.Read && links.may());
    }

    private void show(List<Line> lines) {
        List<Node> order = new ArrayList<>();
        Map<String, LinkRow> now = new LinkedHashMap<>();
        for (Line line : lines) {
            LinkRow row =
                    Optional.ofNullable(byId.get(line.link().id())).orElseGet(() -> new LinkRow(links, line, theme));
            row.take(line);
            now.put(line.link().id(), row);
            order.add(row);
        }
        byId.clear();
        byId.putAll(now);
        if (!order.equals(rows.getChildren())) {
            rows.getChildren().setAll(order);
        }
    }

    /** The way to a first strip, as long as it has not been gone. */
    private void greet(boolean known) {
        SiteModel sites = desk.services().sites().get();
        boolean doors = !sites.doors().isEmpty();
        boolean cameras = !sites.cameras().isEmpty();
        boolean paired =
                sites.doors().stream().anyMatch(d -> !sites.pairings(d.id()).isEmpty());
        boolean shown = known && !(doors && cameras && paired);
        greeting.setVisible(shown);
        greeting.setManaged(shown);
        if (!shown) {
            return;
        }
        Label welcome = new Label(TEXTS.say("welcome"));
        welcome.getStyleClass().add("large");
        greeting.getChildren()
                .setAll(
                        welcome,
                        step(doors, doors ? TEXTS.say("has-doors", sites.doors().size()) : TEXTS.say("needs-access")),
                        step(
                                cameras,
                                cameras
                                        ? TEXTS.say(
                                                "has-cameras", sites.cameras().size())
                                        : TEXTS.say("needs-recorder")),
                        step(false, TEXTS.say("needs-pair")));
    }

    private static Label step(boolean done, String words) {
        Label label = new Label(words);
        label.setWrapText(true);
        if (done) {
            label.getStyleClass().add("muted");
        }
        return label;
    }

    private void tick() {
        if (links.mayLook()) {
            links.tick();
        }
        byId.values().forEach(LinkRow::tick);
        if (page == Page.PAIRS || page == Page.CLOCKS) {
            pairs.tick();
        }
        if (page == Page.INVENTORY) {
            inventory.tick();
        } else if (page == Page.CLOCKS) {
            clocks.tick();
        } else if (page == Page.FOOTAGE) {
            footage.tick();
        }
    }

    @Override
    public Node node() {
        return this;
    }

    @Override
    public boolean comesFirst() {
        return links.may() && desk.services().links().get().isEmpty();
    }

    @Override
    public void inSight(boolean inSight) {
        if (inSight) {
            links.look();
            ticker.play();
            tick();
        } else {
            ticker.stop();
        }
        inventory.inSight(inSight && page == Page.INVENTORY);
    }

    @Override
    public boolean back() {
        if (page == Page.LINKS && onLinks != scroll) {
            onLinks(scroll);
            return true;
        }
        if (page == Page.PAIRS) {
            return pairs.back();
        }
        if (page == Page.INVENTORY) {
            return inventory.back();
        }
        if (page == Page.MEANINGS) {
            return meanings.back();
        }
        if (!fresh.getChildren().isEmpty()) {
            added();
            return true;
        }
        Optional<LinkRow> open = byId.values().stream().filter(LinkRow::isOpen).findFirst();
        open.ifPresent(LinkRow::turn);
        return open.isPresent();
    }

    @Override
    public String whileLookingBack() {
        return TEXTS.say("looks-back");
    }

    @Override
    public void placesChanged() {
        pairs.refresh();
        if (page == Page.INVENTORY) {
            inventory.refresh();
        } else if (page == Page.CHANGES) {
            changes.refresh();
        }
        show();
    }

    @Override
    public void close() {
        ticker.stop();
        links.close();
        pairs.close();
        inventory.close();
    }
}
