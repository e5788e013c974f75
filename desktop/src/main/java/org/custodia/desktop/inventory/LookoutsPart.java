package org.custodia.desktop.inventory;

import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Optional;
import java.util.TreeSet;
import java.util.stream.Stream;
import javafx.geometry.Pos;
import javafx.scene.Node;
import javafx.scene.control.Button;
import javafx.scene.control.ComboBox;
import javafx.scene.control.Label;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import org.custodia.core.setup.Found;
import org.custodia.core.setup.Trial;
import org.custodia.core.site.Camera;
import org.custodia.core.site.Device;
import org.custodia.core.site.Door;
import org.custodia.core.site.Lookout;
import org.custodia.core.site.Pairing;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SiteModel;
import org.custodia.desktop.text.Texts;
import org.custodia.desktop.theme.Theme;
import org.custodia.desktop.trial.TrialModel;
import org.custodia.desktop.trial.TrialPart;
import org.custodia.desktop.words.Names;

/** Of a camera, which devices and zones it shows beside doors; of a device, which cameras show it, and trying that. */
final class LookoutsPart extends VBox {
    private static final Texts TEXTS = Texts.of(LookoutsPart.class);

    private final InventoryModel model;
    private final Theme theme;
    private final Label head = new Label();
    private final VBox lines = new VBox(4);
    private final ComboBox<Choice> choices = new ComboBox<>();
    private final Button add = new Button(TEXTS.say("lookout-add"));
    private final HBox entry = new HBox(6, choices, add);
    private final Label said = new Label();
    private final VBox tried = new VBox();
    private Optional<Found> shown = Optional.empty();
    private Optional<TrialPart> trial = Optional.empty();
    private boolean may;

    /** What can be added. */
    private record Choice(Lookout lookout, String words) {
        @Override
        public String toString() {
            return words;
        }
    }

    LookoutsPart(InventoryModel model, Theme theme) {
        super(8);
        this.model = model;
        this.theme = theme;
        getStyleClass().add("neighbours");
        head.getStyleClass().add("strong");
        choices.setMaxWidth(Double.MAX_VALUE);
        choices.setVisibleRowCount(12);
        HBox.setHgrow(choices, Priority.ALWAYS);
        add.setMinWidth(Region.USE_PREF_SIZE);
        add.setOnAction(e -> {
            if (choices.getValue() != null) {
                model.shows(choices.getValue().lookout(), this::fill, this::tell);
            }
        });
        entry.setAlignment(Pos.CENTER_LEFT);
        said.getStyleClass().add("caution");
        said.setWrapText(true);
        said.setMinHeight(Region.USE_PREF_SIZE);
        getChildren().setAll(head, lines, entry, said, tried);
        tell("");
    }

    /** Shows what one camera shows, or what shows one device; nothing for what is neither. */
    void show(Optional<Found> found, boolean mayChange) {
        Optional<Found> wanted = found.filter(f -> f.there() && !f.placing().leftOut())
                .filter(f -> f.camera().isPresent() || f.device().isPresent());
        boolean same = wanted.map(Found::thing).equals(shown.map(Found::thing));
        shown = wanted;
        may = mayChange;
        setVisible(wanted.isPresent());
        setManaged(wanted.isPresent());
        if (!same) {
            tell("");
            choices.setValue(null);
            close();
        }
        fill();
    }

    private void fill() {
        lines.getChildren().clear();
        if (shown.isEmpty()) {
            return;
        }
        Found found = shown.get();
        head.setText(TEXTS.say(found.camera().isPresent() ? "camera-shows" : "device-shown-by"));
        choices.setPromptText(TEXTS.say(found.camera().isPresent() ? "lookout-what" : "lookout-camera"));
        choices.setAccessibleText(choices.getPromptText());
        List<Lookout> there = found.camera()
                .map(c -> model.sites().lookouts().stream()
                        .filter(l -> l.camera().equals(c.id()))
                        .toList())
                .orElseGet(() -> found.device()
                        .map(d -> model.lookouts(new Lookout.OfDevice(d.id())))
                        .orElse(List.of()));
        found.camera().ifPresent(c -> doors(c).forEach(d -> lines.getChildren().add(words(d, "muted"))));
        there.forEach(l -> lines.getChildren().add(line(l, found)));
        if (lines.getChildren().isEmpty()) {
            lines.getChildren().add(words(TEXTS.say("lookouts-none"), "muted"));
        }
        entry.setVisible(may);
        entry.setManaged(may);
        List<Choice> all = choices(found).stream()
                .filter(c ->
                        there.stream().noneMatch(l -> l.key().equals(c.lookout().key())))
                .toList();
        if (!all.equals(choices.getItems())) {
            choices.getItems().setAll(all);
            choices.setValue(null);
        }
        offerTrial(found, !there.isEmpty());
    }

    /** The doors a camera shows, which are said under Pairs. */
    private List<String> doors(Camera camera) {
        SiteModel sites = model.sites();
        List<String> all = new ArrayList<>();
        for (Door door : sites.doors()) {
            for (Pairing pairing : sites.pairings(door.id())) {
                if (pairing.camera().equals(camera.id())) {
                    all.add(TEXTS.say("lookout-door", door.name(), Names.view(pairing.view())));
                }
            }
        }
        return all.stream().distinct().toList();
    }

    private Node line(Lookout lookout, Found found) {
        String words = found.camera().isPresent() ? subject(lookout.of()) : cameraName(lookout);
        Label label = words(words, "ink");
        label.setMaxWidth(Double.MAX_VALUE);
        HBox.setHgrow(label, Priority.ALWAYS);
        Button end = new Button(TEXTS.say("lookout-end"));
        end.setMinWidth(Region.USE_PREF_SIZE);
        end.setAccessibleText(TEXTS.say("lookout-end-spoken", words));
        end.setDisable(!may);
        end.setOnAction(e -> model.showsNoMore(lookout, this::fill, this::tell));
        HBox line = new HBox(8, label, end);
        line.setAlignment(Pos.CENTER_LEFT);
        if (found.device().isEmpty()) {
            return line;
        }
        Optional<Trial> last = model.trial(lookout);
        Label standing = words(
                TEXTS.say(
                        last.isEmpty()
                                ? "lookout-untried"
                                : !last.get().passed()
                                        ? "lookout-wrong"
                                        : last.get().holds(lookout.asPair()) ? "lookout-right" : "lookout-changed",
                        last.map(Trial::by).orElse("")),
                last.filter(Trial::passed).isPresent() ? "muted" : "caution");
        return new VBox(2, line, standing);
    }

    private String cameraName(Lookout lookout) {
        return model.sites()
                .camera(lookout.camera())
                .map(Camera::name)
                .orElse(lookout.camera().value());
    }

    private String subject(Lookout.Subject of) {
        if (of instanceof Lookout.OfDevice device) {
            return model.sites().device(device.device()).map(Device::name).orElse("");
        }
        return TEXTS.say("lookout-zone", ((Lookout.OfZone) of).zone());
    }

    private List<Choice> choices(Found found) {
        SiteModel sites = model.sites();
        SiteId site = found.site();
        if (found.device().isPresent()) {
            Lookout.Subject of = new Lookout.OfDevice(found.device().get().id());
            return sites.cameras().stream()
                    .filter(c -> c.site().equals(site))
                    .sorted(Comparator.comparing(Camera::name))
                    .map(c -> new Choice(new Lookout(c.id(), of, Pairing.DEFAULT_LEAD_IN), c.name()))
                    .toList();
        }
        Camera camera = found.camera().orElseThrow();
        TreeSet<String> zones = new TreeSet<>();
        sites.doors().stream()
                .filter(d -> d.site().equals(site))
                .flatMap(d -> Stream.of(d.outside(), d.inside()))
                .filter(z -> !z.isBlank())
                .forEach(zones::add);
        Stream<Choice> ofZones = zones.stream()
                .map(z -> new Choice(
                        new Lookout(camera.id(), new Lookout.OfZone(site, z), Pairing.DEFAULT_LEAD_IN),
                        TEXTS.say("lookout-zone", z)));
        Stream<Choice> ofDevices = sites.devices().stream()
                .filter(d -> d.site().equals(site))
                .sorted(Comparator.comparing(Device::name))
                .map(d -> new Choice(
                        new Lookout(camera.id(), new Lookout.OfDevice(d.id()), Pairing.DEFAULT_LEAD_IN), d.name()));
        return Stream.concat(ofDevices, ofZones).toList();
    }

    private void offerTrial(Found found, boolean any) {
        boolean wanted = any && may && found.device().isPresent();
        if (wanted && trial.isEmpty()) {
            TrialPart part = new TrialPart(
                    new TrialModel(new TriedDevice(model, found.device().get()), model.desk()),
                    theme,
                    true,
                    this::fill);
            trial = Optional.of(part);
            tried.getChildren().setAll(part);
        } else if (!wanted) {
            close();
        }
    }

    /** Called several times a second while it is in sight. */
    void tick() {
        trial.ifPresent(TrialPart::tick);
    }

    void close() {
        trial.ifPresent(TrialPart::close);
        trial = Optional.empty();
        tried.getChildren().clear();
    }

    private static Label words(String words, String style) {
        Label label = new Label(words);
        label.setWrapText(true);
        label.setMinHeight(Region.USE_PREF_SIZE);
        label.getStyleClass().add(style);
        return label;
    }

    private void tell(String words) {
        said.setText(words);
        said.setManaged(!words.isEmpty());
    }
}
