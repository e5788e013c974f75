package org.custodia.desktop.message;

import java.util.List;
import java.util.Locale;
import java.util.Optional;
import javafx.beans.property.ObjectProperty;
import javafx.beans.property.SimpleObjectProperty;
import javafx.scene.control.Label;
import javafx.scene.control.PasswordField;
import javafx.scene.control.TextField;
import javafx.scene.layout.HBox;
import javafx.scene.layout.Region;
import javafx.scene.layout.VBox;
import org.custodia.core.message.MailServer;
import org.custodia.core.workplace.PermittedMessages;
import org.custodia.desktop.Work;
import org.custodia.desktop.control.Segments;
import org.custodia.desktop.desk.Desk;
import org.custodia.desktop.text.Texts;

/** The server that takes mail. */
final class ServerPart extends EditedPart {
    private static final Texts TEXTS = Texts.of(ServerPart.class);

    private final TextField host = new TextField();
    private final TextField port = new TextField();
    private final ObjectProperty<MailServer.Security> security;
    private final TextField user = new TextField();
    private final PasswordField password = new PasswordField();
    private final TextField from = new TextField();
    private final Label open = hint(TEXTS.say("in-the-open"));
    private final VBox confirmed = new VBox(6);
    private Optional<MailServer> standing;

    ServerPart(Desk desk, Optional<MailServer> standing, Work lane, Runnable changed) {
        super(desk, lane, changed);
        this.standing = standing;
        this.security =
                new SimpleObjectProperty<>(standing.map(MailServer::security).orElse(MailServer.Security.STARTTLS));
        host.setText(standing.map(MailServer::host).orElse(""));
        port.setText(String.valueOf(standing.map(MailServer::port).orElse(587)));
        port.setPrefColumnCount(5);
        port.setMaxWidth(Region.USE_PREF_SIZE);
        user.setText(standing.flatMap(MailServer::user).orElse(""));
        user.setPromptText(TEXTS.say("user-none"));
        from.setText(standing.map(MailServer::from).orElse(""));
        password.setPromptText(
                TEXTS.say(standing.flatMap(MailServer::user).isPresent() ? "password-kept" : "password"));
        Segments<MailServer.Security> segments = new Segments<>(MailServer.Security.class, security);
        segments.letter(s -> TEXTS.say("security." + s.name().toLowerCase(Locale.ROOT)));
        open.visibleProperty().bind(security.isEqualTo(MailServer.Security.NONE));
        open.managedProperty().bind(open.visibleProperty());
        open.getStyleClass().add("caution");
        keep.setOnAction(e -> keepIt());
        Label colon = new Label(TEXTS.say("port"));
        colon.setMinWidth(Region.USE_PREF_SIZE);
        port.setAccessibleText(TEXTS.say("port"));
        port.setMinWidth(Region.USE_PREF_SIZE);
        getChildren()
                .setAll(
                        head(TEXTS.say("server")),
                        field(TEXTS.say("host"), host, colon, port),
                        named(TEXTS.say("secured"), segments),
                        open,
                        field(TEXTS.say("user"), user),
                        field(TEXTS.say("password"), password),
                        field(TEXTS.say("from"), from),
                        confirmed,
                        said,
                        new HBox(8, keep));
        boolean may = messages().maySetUp();
        for (Region part : List.of(host, port, segments, user, password, from, keep)) {
            part.setDisable(!may);
        }
        took(standing);
    }

    private PermittedMessages messages() {
        return desk.services().workplace().messages();
    }

    /** Takes note of how it stands by now. */
    void took(Optional<MailServer> now) {
        standing = now;
        showConfirmed(
                confirmed, now.flatMap(MailServer::certificate), messages().maySetUp(), this::forget);
    }

    private void forget() {
        standing.ifPresent(s -> keep(() -> {
            messages().keep(s.certificate(Optional.empty()), s.version(), Optional.empty());
            return TEXTS.say("certificate-gone");
        }));
    }

    /** What was confirmed for where it was stays with that place. */
    private Optional<String> certificate(String atHost, int atPort) {
        return standing.filter(s -> s.host().equals(atHost) && s.port() == atPort)
                .flatMap(MailServer::certificate);
    }

    private void keepIt() {
        MailServer made;
        try {
            String at = host.getText().strip();
            int number = Integer.parseInt(port.getText().strip());
            made = new MailServer(
                    0,
                    at,
                    number,
                    security.get(),
                    Optional.of(user.getText().strip()).filter(u -> !u.isEmpty()),
                    from.getText().strip(),
                    certificate(at, number));
        } catch (IllegalArgumentException e) {
            wrong(TEXTS.say("server-odd"));
            return;
        }
        Optional<String> given = Optional.of(password.getText()).filter(p -> !p.isEmpty());
        long basedOn = standing.map(MailServer::version).orElse(0L);
        keep(() -> {
            messages().keep(made, basedOn, given);
            return TEXTS.say("server-kept");
        });
    }
}
