package org.custodia.desktop.message;

import java.net.URI;
import java.net.URISyntaxException;
import java.security.SecureRandom;
import java.util.Arrays;
import java.util.HexFormat;
import java.util.List;
import java.util.Optional;
import javafx.beans.binding.Bindings;
import javafx.scene.control.Button;
import javafx.scene.control.CheckBox;
import javafx.scene.control.Label;
import javafx.scene.control.TextField;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Priority;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import org.custodia.core.message.MessageDesk;
import org.custodia.core.message.NotSentException;
import org.custodia.core.message.Receiver;
import org.custodia.core.setup.Connections;
import org.custodia.core.workplace.PermittedMessages;
import org.custodia.desktop.Work;
import org.custodia.desktop.control.AskedButton;
import org.custodia.desktop.control.CertificateBox;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.saying.SayingWords;
import org.custodia.desktop.text.Texts;

/** One who is told: where, and whether it arrives. */
final class ReceiverPart extends EditedPart {
    private static final Texts TEXTS = Texts.of(ReceiverPart.class);
    private static final int KEY_BYTES = 32;

    private final Receiver receiver;
    private final boolean web;
    private final TextField name = new TextField();
    private final CheckBox on = new CheckBox(TEXTS.say("is-told"));
    private final TextField address = new TextField();
    private final CheckBox picture = new CheckBox(TEXTS.say("with-picture"));
    private final TextField key = new TextField();
    private final Button trial = new Button(TEXTS.say("trial"));
    private final AskedButton takeOff;
    private final Work trials;
    /** A certificate that was shown at the last trial, to be confirmed. */
    private final VBox offered = new VBox();

    private final VBox confirmed = new VBox(6);
    private Optional<MessageDesk.Standing> standing;

    /**
     * @param standing nothing for a new one
     * @param trials what waits for the answer to a trial
     * @param gone told once it is taken off
     */
    ReceiverPart(
            Desk desk,
            Receiver receiver,
            Optional<MessageDesk.Standing> standing,
            Work lane,
            Work trials,
            Runnable changed,
            Runnable gone) {
        super(desk, lane, changed);
        this.receiver = receiver;
        this.standing = standing;
        this.trials = trials;
        this.web = receiver.way() instanceof Receiver.Web;
        name.setText(receiver.name());
        name.getStyleClass().add("rule-name");
        name.setAccessibleText(TEXTS.say("name"));
        on.setSelected(receiver.on());
        if (receiver.way() instanceof Receiver.Mail mail) {
            // The first of a new one is only there because there has to be one.
            address.setText(standing.isEmpty() ? "" : String.join(", ", mail.to()));
            picture.setSelected(mail.picture());
        } else {
            address.setText(
                    standing.isEmpty()
                            ? ""
                            : ((Receiver.Web) receiver.way()).address().toString());
        }
        keep.setOnAction(e -> keepIt());
        trial.setOnAction(e -> tryIt());
        takeOff = new AskedButton(
                TEXTS.say("take-off"),
                TEXTS.say("take-off-sure"),
                () -> this.standing.ifPresent(s -> lane.load(
                        () -> {
                            messages().takeOff(receiver.id(), s.version());
                            return Boolean.TRUE;
                        },
                        done -> gone.run(),
                        this::wrong)));
        for (Region button : List.of(trial)) {
            button.setMinWidth(Region.USE_PREF_SIZE);
        }
        Region wide = new Region();
        HBox.setHgrow(wide, Priority.ALWAYS);
        getChildren().add(name);
        if (web) {
            Button make = new Button(TEXTS.say("make-key"));
            make.setMinWidth(Region.USE_PREF_SIZE);
            make.setOnAction(e -> key.setText(freshKey()));
            key.setPromptText(TEXTS.say(standing.isEmpty() ? "key-new" : "key-kept"));
            Label open = hint(TEXTS.say("web-in-the-open"));
            open.getStyleClass().add("caution");
            open.visibleProperty()
                    .bind(Bindings.createBooleanBinding(
                            () -> address.getText().strip().startsWith("http:"), address.textProperty()));
            open.managedProperty().bind(open.visibleProperty());
            getChildren()
                    .addAll(
                            field(TEXTS.say("address"), address),
                            open,
                            field(TEXTS.say("key"), key, make),
                            hint(TEXTS.say("key-hint")));
        } else {
            address.setPromptText(TEXTS.say("addresses-prompt"));
            getChildren().addAll(field(TEXTS.say("addresses"), address), named("", picture));
        }
        getChildren().addAll(confirmed, named("", on), said, offered, new HBox(8, keep, trial, wide, takeOff));
        may();
    }

    private PermittedMessages messages() {
        return desk.services().workplace().messages();
    }

    static Receiver freshMail(Desk desk) {
        return new Receiver(
                id(desk), 0, TEXTS.say("new-name"), true, new Receiver.Mail(List.of("somebody@site.example"), true));
    }

    static Receiver freshWeb(Desk desk) {
        return new Receiver(
                id(desk), 0, TEXTS.say("new-name"), true, new Receiver.Web(URI.create("https://site.example/")));
    }

    private static String id(Desk desk) {
        return "own-" + Long.toString(desk.now().toEpochMilli(), 36);
    }

    private static String freshKey() {
        byte[] bytes = new byte[KEY_BYTES];
        new SecureRandom().nextBytes(bytes);
        return HexFormat.of().formatHex(bytes);
    }

    private void may() {
        boolean may = messages().mayChange();
        for (Region part : List.of(name, on, address, picture, key, keep)) {
            part.setDisable(!may);
        }
        trial.setDisable(!may || standing.isEmpty());
        takeOff.setDisable(!may || standing.isEmpty());
        showConfirmed(confirmed, standingWeb().flatMap(Receiver.Web::certificate), may, this::forget);
    }

    @Override
    Optional<String> id() {
        return Optional.of(receiver.id());
    }

    /** Takes note of how one stands by now. */
    void took(MessageDesk.Standing now) {
        if (now.receiver().id().equals(receiver.id())) {
            standing = Optional.of(now);
            may();
        }
    }

    private Optional<Receiver.Web> standingWeb() {
        return standing.map(s -> s.receiver().way())
                .filter(Receiver.Web.class::isInstance)
                .map(Receiver.Web.class::cast);
    }

    private void forget() {
        standing.ifPresent(s -> standingWeb()
                .ifPresent(w -> keep(() -> {
                    Receiver r = s.receiver();
                    Receiver made = new Receiver(r.id(), 0, r.name(), r.on(), new Receiver.Web(w.address()));
                    messages().keep(made, s.version(), Optional.empty());
                    return TEXTS.say("certificate-gone");
                })));
    }

    private Receiver.Way way() throws URISyntaxException {
        if (web) {
            URI to = new URI(address.getText().strip());
            // What was confirmed for where it was stays with that place.
            return new Receiver.Web(
                    to,
                    standingWeb()
                            .filter(w -> w.address().getHost().equals(to.getHost())
                                    && w.address().getPort() == to.getPort())
                            .flatMap(Receiver.Web::certificate));
        }
        return new Receiver.Mail(
                Arrays.stream(address.getText().split("[,;\\s]+"))
                        .filter(a -> !a.isBlank())
                        .toList(),
                picture.isSelected());
    }

    private void keepIt() {
        Receiver made;
        try {
            made = new Receiver(receiver.id(), 0, name.getText().strip(), on.isSelected(), way());
        } catch (IllegalArgumentException | URISyntaxException e) {
            wrong(TEXTS.say(
                    name.getText().isBlank() ? "name-missing" : web ? "address-odd" : "addresses-odd",
                    Receiver.Mail.MOST));
            return;
        }
        Optional<String> given = Optional.of(key.getText().strip()).filter(k -> web && !k.isEmpty());
        long basedOn = standing.map(MessageDesk.Standing::version).orElse(0L);
        keep(() -> {
            messages().keep(made, basedOn, given);
            return TEXTS.say("kept", made.name());
        });
    }

    /**
     * What came of a trial.
     *
     * @param certificate one that was shown and not taken
     */
    private record Tried(boolean went, String words, Optional<Connections.Shown> certificate) {}

    private void tryIt() {
        fine(TEXTS.say("trying"));
        trial.setDisable(true);
        offered.getChildren().clear();
        trials.load(
                () -> {
                    try {
                        String words = messages()
                                .trial(receiver.id())
                                .map(s -> TEXTS.say("trial-but", SayingWords.of(s)))
                                .orElse(TEXTS.say("trial-went"));
                        return new Tried(true, words, Optional.empty());
                    } catch (NotSentException e) {
                        return new Tried(false, SayingWords.of(e.saying()), e.certificate());
                    }
                },
                this::tried,
                why -> {
                    wrong(why);
                    may();
                });
    }

    private void tried(Tried tried) {
        if (tried.went()) {
            fine(tried.words());
        } else {
            wrong(tried.words());
        }
        boolean mayConfirm = web ? messages().mayChange() : messages().maySetUp();
        tried.certificate().ifPresent(c -> offered.getChildren()
                .setAll(new CertificateBox(c, mayConfirm, () -> confirm(c.fingerprint()))));
        may();
    }

    private void confirm(String fingerprint) {
        offered.getChildren().clear();
        keep(() -> {
            messages().confirm(receiver.id(), fingerprint);
            return TEXTS.say("certificate-kept");
        });
    }
}
