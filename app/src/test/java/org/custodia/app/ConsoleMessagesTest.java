package org.custodia.app;

import static org.assertj.core.api.Assertions.assertThat;

import com.icegreen.greenmail.util.DummySSLServerSocketFactory;
import java.io.IOException;
import java.net.InetAddress;
import java.net.ServerSocket;
import java.net.Socket;
import java.util.List;
import java.util.function.Predicate;
import javafx.event.Event;
import javafx.scene.Node;
import javafx.scene.control.CheckMenuItem;
import javafx.scene.control.ListView;
import javafx.scene.control.MenuButton;
import javafx.scene.control.ToggleButton;
import javafx.scene.input.KeyCode;
import javafx.scene.input.KeyEvent;
import javax.net.ssl.KeyManagerFactory;
import javax.net.ssl.SSLContext;
import javax.net.ssl.SSLSocket;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Kinds;
import org.custodia.practice.post.Caught;
import org.junit.jupiter.api.Test;

/** From setting up who is told to the message that arrives, in the real window. */
class ConsoleMessagesTest extends ConsoleFixture {
    private void messages() {
        fx(() -> {
            Event.fireEvent(
                    window.shell(),
                    new KeyEvent(KeyEvent.KEY_PRESSED, "", "", KeyCode.DIGIT2, false, true, false, false));
            return null;
        });
        turn("Messages");
        Rig.await().until(() -> fx(() -> list().getItems().size() >= 2));
    }

    private void turn(String page) {
        ToggleButton turn = labeled(ToggleButton.class, ".toggle-button", page::equals);
        fx(() -> {
            turn.fire();
            return null;
        });
    }

    /** The list of what can be edited: the one that is in sight. */
    private ListView<?> list() {
        return all(".alarm-queue .list-view").stream()
                .filter(n -> "who is told".equals(n.getAccessibleText()))
                .map(n -> (ListView<?>) n)
                .findFirst()
                .orElseThrow();
    }

    private void choose(int row) {
        fx(() -> {
            list().getSelectionModel().select(row);
            return null;
        });
    }

    private void menu(Predicate<String> button, String item) {
        fx(() -> {
            all(".menu-button").stream()
                    .filter(n -> n instanceof MenuButton m
                            && (button.test(m.getText()) || button.test(String.valueOf(m.getAccessibleText()))))
                    .map(MenuButton.class::cast)
                    .findFirst()
                    .orElseThrow()
                    .getItems()
                    .stream()
                    .filter(i -> i.getText().equals(item))
                    .findFirst()
                    .ifPresent(i -> {
                        if (i instanceof CheckMenuItem check) {
                            check.setSelected(true);
                        }
                        i.fire();
                    });
            return null;
        });
    }

    private List<Caught> caught(String way) {
        return rig.site.post().caught().stream()
                .filter(c -> c.way().equals(way))
                .toList();
    }

    private void says(String words) {
        Rig.await().until(() -> shows(".rule-editor .label", words));
    }

    /** Stands before the post office with a certificate that nobody vouches for. */
    private static final class Secured implements AutoCloseable {
        private final ServerSocket server;
        private final int behind;

        Secured(int behind) throws Exception {
            this.behind = behind;
            KeyManagerFactory keys = KeyManagerFactory.getInstance(KeyManagerFactory.getDefaultAlgorithm());
            keys.init(new DummySSLServerSocketFactory().getKeyStore(), "changeit".toCharArray());
            SSLContext context = SSLContext.getInstance("TLS");
            context.init(keys.getKeyManagers(), null, null);
            server = context.getServerSocketFactory().createServerSocket(0, 5, InetAddress.getLoopbackAddress());
            new Thread(this::accept, "secured").start();
        }

        private void accept() {
            while (!server.isClosed()) {
                try (Socket from = server.accept();
                        Socket to = new Socket(InetAddress.getLoopbackAddress(), behind)) {
                    Thread back = new Thread(() -> pass(to, from), "secured back");
                    // Whoever does not take its certificate is gone by now.
                    ((SSLSocket) from).startHandshake();
                    back.start();
                    pass(from, to);
                    back.join();
                } catch (IOException e) {
                    // The next one may stay.
                } catch (InterruptedException e) {
                    return;
                }
            }
        }

        private static void pass(Socket from, Socket to) {
            try (from;
                    to) {
                from.getInputStream().transferTo(to.getOutputStream());
            } catch (IOException e) {
                // Either end is gone, and the other with it.
            }
        }

        @Override
        public void close() throws IOException {
            server.close();
        }
    }

    @Test
    void a_server_that_nobody_vouches_for_is_confirmed_by_its_certificate() throws Exception {
        try (Secured secured = new Secured(rig.site.post().mailPort())) {
            messages();
            choose(1);
            Rig.await().until(() -> shows(".rule-editor .large", "Mail server"));
            type("Server", "127.0.0.1");
            type("port", String.valueOf(secured.server.getLocalPort()));
            turn("from the first word (TLS)");
            type("Mail comes from", "custodia@sternwick.example");
            press("Keep");
            says("Kept. Mail that waits");
            menu("Add…"::equals, "Somebody by mail");
            type("what it is called", "Duty manager");
            type("Addresses", "duty@sternwick.example");
            press("Keep");
            says("Duty manager is kept");
            press("Send a trial");
            says("No authority that this machine trusts vouches");
            Rig.await().until(() -> shows(".rule-editor .fingerprint", ":"));
            assertThat(caught("mail")).isEmpty();
            press("It is the right one");
            says("The certificate is confirmed");
            press("Send a trial");
            says("It was taken");
            assertThat(caught("mail")).hasSize(1);
            // It stands with the server, and can be forgotten there.
            choose(1);
            says("Only this certificate is taken");
            press("Take it no more");
            says("An authority has to vouch for it again");
        }
    }

    @Test
    void whoever_is_set_up_is_told_when_nobody_comes_and_what_does_not_arrive_says_why() {
        messages();
        // A server and somebody to write to.
        choose(1);
        Rig.await().until(() -> shows(".rule-editor .large", "Mail server"));
        press("Keep");
        says("A server has a name");
        type("Server", "127.0.0.1");
        type("port", String.valueOf(rig.site.post().mailPort()));
        turn("not at all");
        type("Mail comes from", "custodia@sternwick.example");
        press("Keep");
        says("Kept. Mail that waits");
        menu("Add…"::equals, "Somebody by mail");
        type("what it is called", "Duty manager");
        type("Addresses", "no address");
        press("Keep");
        says("Mail goes to 1 to 20 addresses");
        type("Addresses", "duty@sternwick.example; night@sternwick.example");
        press("Keep");
        says("Duty manager is kept");
        press("Send a trial");
        says("It was taken");
        assertThat(caught("mail")).hasSize(1);
        // An address of the web, with a key that is another there.
        menu("Add…"::equals, "An address of the web");
        type("what it is called", "Phones");
        type("Address", rig.site.postAddress().toString());
        press("Keep");
        says("needs a key");
        press("Make one");
        press("Keep");
        says("Phones is kept");
        press("Send a trial");
        says("Is the key the same there?");
        type("Key", rig.site.post().key());
        press("Keep");
        says("Phones is kept");
        press("Send a trial");
        says("It was taken");
        // Nobody comes.
        choose(0);
        type("urgent, step 1: after how many minutes", "0.05");
        menu("urgent, step 1: who is told"::equals, "Duty manager");
        press("Keep");
        says("It holds for alarms that are open");
        int before = caught("mail").size();
        rig.happen("{'act':'force','door':'strongroom-corr','seconds':30}");
        Rig.await().until(() -> caught("mail").size() > before);
        Caught mail = caught("mail").get(0);
        assertThat(mail.subject()).isEqualTo("Forced open: Strongroom corridor");
        assertThat(mail.to()).contains("duty@sternwick.example", "night@sternwick.example");
        assertThat(mail.picture()).isPositive();
        Rig.await().until(() -> shows(".sent .label", "Forced open: Strongroom corridor"));
        Rig.await()
                .until(() -> rig.hub
                                .log()
                                .find(EventQuery.all().kinds(Kinds.ALARM_TOLD))
                                .size()
                        == 1);
        turn("Queue");
        Rig.await().until(() -> shows(".alarm-part .label", "Duty manager told at"));
        assertThat(fx(() -> all(".alarm-part .label").stream().anyMatch(Node::isVisible)))
                .isTrue();
    }
}
