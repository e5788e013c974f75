package org.custodia.desktop.inventory;

import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.Set;
import java.util.function.BiFunction;
import java.util.function.Function;
import java.util.function.UnaryOperator;
import javafx.geometry.Pos;
import javafx.scene.Node;
import javafx.scene.control.Button;
import javafx.scene.control.ComboBox;
import javafx.scene.control.Label;
import javafx.scene.control.ListCell;
import javafx.scene.control.TextField;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import org.custodia.core.setup.Found;
import org.custodia.core.site.Camera;
import org.custodia.core.site.DoorCapability;
import org.custodia.core.site.Placing;
import org.custodia.core.site.Site;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.Thing;
import org.custodia.desktop.picture.PicturePane;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.Theme;

/**
 * Says of what is chosen how it is called here and where it is. What was not touched stays as it is for each of them; what is
 * emptied is as its system has it.
 */
final class PlacingPart extends VBox {
    private static final Texts TEXTS = Texts.of(PlacingPart.class);

    private final InventoryModel model;
    private final Label head = new Label();
    private final Label detail = new Label();
    private final VBox news = new VBox(3);
    private final PicturePane picture;
    private final Entry name =
            new Entry("name", p -> p.name(), Placing::name, f -> f.said().name());
    private final Entry level = new Entry("level", p -> p.level(), Placing::level, f -> doorWord(f, 2));
    private final Entry outside = new Entry("outside", p -> p.outside(), Placing::outside, f -> doorWord(f, 3));
    private final Entry inside = new Entry("inside", p -> p.inside(), Placing::inside, f -> doorWord(f, 4));
    private final ComboBox<Choice> site = new ComboBox<>();
    private final Label siteLabel = label("site");
    private final VBox newSite = new VBox(6);
    private final TextField siteName = new TextField();
    private final TextField siteZone = new TextField();
    private final Button keep = new Button(TEXTS.say("keep"));
    private final Button leaveOut = new Button();
    private final Button seen = new Button(TEXTS.say("mark-seen"));
    private final Label said = new Label();
    private final NeighboursPart neighbours;
    private final LookoutsPart lookouts;
    private final VBox form = new VBox(8);
    private final Label nothing = new Label(TEXTS.say("choose"));
    private List<Found> things = List.of();
    private Optional<Camera> shown = Optional.empty();
    private boolean inSight;
    private boolean siteTouched;
    private boolean filling;

    /** A site that can be chosen; nothing for what the system says, or for a new one. */
    private record Choice(Optional<SiteId> site, String words, boolean fresh) {}

    /** One field. */
    private final class Entry {
        private final Label label;
        private final TextField field = new TextField();
        private final Function<Placing, Optional<String>> of;
        private final BiFunction<Placing, Optional<String>, Placing> with;
        private final Function<Found, String> there;
        private boolean touched;

        Entry(
                String words,
                Function<Placing, Optional<String>> of,
                BiFunction<Placing, Optional<String>, Placing> with,
                Function<Found, String> there) {
            this.label = label(words);
            this.of = of;
            this.with = with;
            this.there = there;
            label.setLabelFor(field);
            field.setAccessibleText(TEXTS.say(words));
            field.textProperty().addListener((o, a, b) -> {
                if (!filling) {
                    touched = true;
                    mayKeep();
                }
            });
            field.setOnAction(e -> keep());
        }

        void show(boolean shown) {
            for (Node node : List.of(label, field)) {
                node.setVisible(shown);
                node.setManaged(shown);
            }
            touched = false;
            Set<Optional<String>> here = new LinkedHashSet<>();
            Set<String> systems = new LinkedHashSet<>();
            things.forEach(f -> {
                here.add(of.apply(f.placing()));
                systems.add(there.apply(f));
            });
            field.setText(here.size() == 1 ? here.iterator().next().orElse("") : "");
            field.setPromptText(
                    here.size() > 1 || systems.size() > 1
                            ? TEXTS.say("several")
                            : systems.stream()
                                    .findFirst()
                                    .filter(s -> !s.isBlank())
                                    .orElse(TEXTS.say("none")));
        }

        UnaryOperator<Placing> change() {
            String words = field.getText().strip();
            Optional<String> wanted = words.isEmpty() ? Optional.empty() : Optional.of(words);
            return touched ? p -> with.apply(p, wanted) : p -> p;
        }
    }

    PlacingPart(InventoryModel model, Theme theme) {
        this.model = model;
        this.neighbours = new NeighboursPart(model);
        this.lookouts = new LookoutsPart(model, theme);
        this.picture = new PicturePane(model.desk().services().pictures());
        picture.prefHeightProperty().bind(picture.widthProperty().multiply(9.0 / 16));
        picture.setMinHeight(theme.px(120));
        getStyleClass().add("placing");
        head.getStyleClass().add("large");
        head.setWrapText(true);
        detail.getStyleClass().add("secondary");
        for (Label words : List.of(head, detail, said, nothing)) {
            words.setWrapText(true);
            words.setMinHeight(Region.USE_PREF_SIZE);
        }
        said.getStyleClass().add("caution");
        nothing.getStyleClass().add("muted");
        site.setMaxWidth(Double.MAX_VALUE);
        site.setAccessibleText(TEXTS.say("site"));
        site.setCellFactory(v -> cell());
        site.setButtonCell(cell());
        siteLabel.setLabelFor(site);
        site.valueProperty().addListener((o, a, b) -> {
            if (!filling) {
                siteTouched = true;
                boolean fresh = b != null && b.fresh();
                newSite.setVisible(fresh);
                newSite.setManaged(fresh);
                mayKeep();
            }
        });
        siteName.setPromptText(TEXTS.say("new-site-name"));
        siteName.setAccessibleText(TEXTS.say("new-site-name"));
        siteZone.setPromptText(TEXTS.say("new-site-zone"));
        siteZone.setAccessibleText(TEXTS.say("new-site-zone"));
        Button add = new Button(TEXTS.say("new-site-add"));
        add.setMinWidth(Region.USE_PREF_SIZE);
        add.setOnAction(e -> addSite());
        newSite.getChildren().setAll(siteName, new HBox(6, siteZone, add));
        HBox.setHgrow(siteZone, Priority.ALWAYS);
        keep.getStyleClass().add("main");
        keep.setOnAction(e -> keep());
        leaveOut.setOnAction(e -> {
            boolean out = things.stream().anyMatch(f -> !f.placing().leftOut());
            place(p -> p.leftOut(out));
        });
        seen.setOnAction(e -> model.seen(things, said::setText));
        for (Button button : List.of(keep, leaveOut, seen)) {
            button.setMinWidth(Region.USE_PREF_SIZE);
        }
        HBox acts = new HBox(8, keep, leaveOut);
        acts.setAlignment(Pos.CENTER_LEFT);
        form.getChildren()
                .setAll(
                        head,
                        detail,
                        picture,
                        news,
                        name.label,
                        name.field,
                        siteLabel,
                        site,
                        newSite,
                        level.label,
                        level.field,
                        outside.label,
                        outside.field,
                        inside.label,
                        inside.field,
                        acts,
                        said,
                        neighbours,
                        lookouts);
        getChildren().setAll(nothing, form);
        show(List.of());
    }

    private static Label label(String words) {
        Label label = new Label(TEXTS.say(words));
        label.getStyleClass().add("muted");
        return label;
    }

    private static ListCell<Choice> cell() {
        return new ListCell<>() {
            @Override
            protected void updateItem(Choice choice, boolean nothing) {
                super.updateItem(choice, nothing);
                setText(nothing || choice == null ? "" : choice.words());
            }
        };
    }

    /** What a system says of a door, by its place among the parts; empty for what is none. */
    private static String doorWord(Found found, int part) {
        return found.thing().sort() == Thing.Sort.DOOR ? found.said().parts().get(part) : "";
    }

    /** What is chosen. */
    List<Found> things() {
        return things;
    }

    /** Shows what is chosen now. What is being typed stays as long as the same is chosen. */
    void show(List<Found> chosen) {
        boolean same = chosen.equals(things) && !chosen.isEmpty();
        if (same) {
            return;
        }
        boolean typing = !chosen.isEmpty()
                && touched()
                && ids(chosen).equals(ids(things))
                && chosen.stream()
                        .map(Found::placing)
                        .toList()
                        .equals(things.stream().map(Found::placing).toList());
        things = List.copyOf(chosen);
        nothing.setVisible(things.isEmpty());
        nothing.setManaged(things.isEmpty());
        form.setVisible(!things.isEmpty());
        form.setManaged(!things.isEmpty());
        if (things.isEmpty()) {
            picture(Optional.empty());
            lookouts.show(Optional.empty(), false);
            return;
        }
        boolean one = things.size() == 1;
        Found first = things.get(0);
        head.setText(one ? first.name() : TEXTS.say("chosen", things.size()));
        detail.setText(one ? detail(first) : TEXTS.say("for-all"));
        told(one ? Optional.of(first) : Optional.empty());
        picture(one && first.there() ? first.camera() : Optional.empty());
        if (!typing) {
            fill(one);
        }
        boolean may = things.stream().allMatch(model::may);
        boolean gone = things.stream().noneMatch(Found::there);
        form.getChildren()
                .forEach(n -> n.setDisable(!may
                        && n != neighbours
                        && n != lookouts
                        && n != head
                        && n != detail
                        && n != news
                        && n != picture));
        boolean out = things.stream().allMatch(f -> f.placing().leftOut());
        leaveOut.setText(TEXTS.say(out ? "take-in" : "leave-out"));
        leaveOut.setDisable(gone && !out);
        neighbours.show(
                one ? first.door().filter(d -> first.there() && !first.placing().leftOut()) : Optional.empty(), may);
        lookouts.show(one ? Optional.of(first) : Optional.empty(), may);
        mayKeep();
    }

    private void picture(Optional<Camera> camera) {
        picture.setVisible(camera.isPresent());
        picture.setManaged(camera.isPresent());
        if (!camera.equals(shown)) {
            shown = camera;
            camera.ifPresent(c -> picture.camera(c, c.name(), model.desk().zone()));
        }
        picture.seen(inSight && camera.isPresent());
    }

    /** A picture that nobody sees costs nothing. */
    void inSight(boolean now) {
        inSight = now;
        picture.seen(inSight && shown.isPresent() && !things.isEmpty());
    }

    /** Called several times a second while it is in sight. */
    void tick() {
        lookouts.tick();
    }

    void close() {
        lookouts.close();
        picture.close();
    }

    private static List<Thing> ids(List<Found> some) {
        return some.stream().map(Found::thing).toList();
    }

    private boolean touched() {
        return siteTouched || List.of(name, level, outside, inside).stream().anyMatch(e -> e.touched);
    }

    private void fill(boolean one) {
        filling = true;
        boolean doors = things.stream().allMatch(f -> f.thing().sort() == Thing.Sort.DOOR);
        name.show(one);
        List.of(level, outside, inside).forEach(e -> e.show(doors));
        List<Choice> choices = new ArrayList<>();
        Set<SiteId> theirs = new LinkedHashSet<>();
        things.forEach(f -> theirs.add(f.said().site()));
        choices.add(new Choice(
                Optional.empty(),
                theirs.size() == 1
                        ? TEXTS.say(
                                "as-system", model.siteName(theirs.iterator().next()))
                        : TEXTS.say("as-systems"),
                false));
        for (Site each : model.allSites()) {
            choices.add(new Choice(Optional.of(each.id()), each.name(), false));
        }
        choices.add(new Choice(Optional.empty(), TEXTS.say("new-site"), true));
        site.getItems().setAll(choices);
        Set<Optional<SiteId>> here = new LinkedHashSet<>();
        things.forEach(f -> here.add(f.placing().site()));
        site.setValue(
                here.size() == 1
                        ? choices.stream()
                                .filter(c -> !c.fresh()
                                        && c.site().equals(here.iterator().next()))
                                .findFirst()
                                .orElse(null)
                        : null);
        siteTouched = false;
        newSite.setVisible(false);
        newSite.setManaged(false);
        said.setText("");
        said.setManaged(false);
        filling = false;
    }

    private static String detail(Found found) {
        String what = TEXTS.say("detail", InventoryModel.sort(found), found.ownId());
        return found.door()
                .map(d -> what + " · "
                        + TEXTS.say(
                                d.can(DoorCapability.CONTACT) ? "detail-contact" : "detail-no-contact",
                                found.said().parts().get(5)))
                .orElse(what);
    }

    /** What is new about the one that is chosen. */
    private void told(Optional<Found> one) {
        news.getChildren().clear();
        one.filter(f -> f.news() != Found.News.NONE).ifPresent(f -> {
            line(TEXTS.say("news-long." + f.news().name().toLowerCase(Locale.ROOT)));
            for (Found.Difference d : f.changes()) {
                line(TEXTS.say(
                        "difference",
                        TEXTS.say("part." + d.part().name().toLowerCase(Locale.ROOT)),
                        d.before().isBlank() ? TEXTS.say("none") : d.before(),
                        d.now().isBlank() ? TEXTS.say("none") : d.now()));
            }
            news.getChildren().add(seen);
        });
        news.setVisible(!news.getChildren().isEmpty());
        news.setManaged(news.isVisible());
    }

    private void line(String words) {
        Label label = new Label(words);
        label.setWrapText(true);
        label.setMinHeight(Region.USE_PREF_SIZE);
        news.getChildren().add(label);
    }

    private void mayKeep() {
        boolean fresh = site.getValue() != null && site.getValue().fresh();
        keep.setDisable(!touched() || fresh);
    }

    private void addSite() {
        String zone = siteZone.getText().isBlank() ? model.desk().zone().getId() : siteZone.getText();
        model.addSite(
                siteName.getText(),
                zone,
                fresh -> {
                    Choice choice = new Choice(Optional.of(fresh.id()), fresh.name(), false);
                    site.getItems().add(site.getItems().size() - 1, choice);
                    site.setValue(choice);
                    siteName.clear();
                    tell("");
                },
                this::tell);
    }

    private void keep() {
        if (keep.isDisabled()) {
            return;
        }
        UnaryOperator<Placing> change = name.change();
        for (Entry entry : List.of(level, outside, inside)) {
            UnaryOperator<Placing> before = change;
            change = p -> entry.change().apply(before.apply(p));
        }
        if (siteTouched && site.getValue() != null) {
            Optional<SiteId> wanted = site.getValue().site();
            UnaryOperator<Placing> before = change;
            change = p -> before.apply(p).site(wanted);
        }
        place(change);
    }

    private void place(UnaryOperator<Placing> how) {
        keep.setDisable(true);
        List<Found> of = things;
        model.place(
                of,
                how,
                () -> {
                    if (ids(of).equals(ids(things))) {
                        List.of(name, level, outside, inside).forEach(e -> e.touched = false);
                        siteTouched = false;
                    }
                    tell("");
                },
                why -> {
                    tell(why);
                    mayKeep();
                });
    }

    private void tell(String words) {
        said.setText(words);
        said.setManaged(!words.isEmpty());
    }
}
