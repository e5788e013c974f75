package org.custodia.app;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import com.sun.net.httpserver.HttpServer;
import java.io.IOException;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.net.ServerSocket;
import java.net.URI;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Stream;
import javafx.event.ActionEvent;
import javafx.event.Event;
import javafx.scene.Node;
import javafx.scene.control.Button;
import javafx.scene.control.ComboBox;
import javafx.scene.control.Label;
import javafx.scene.control.ListCell;
import javafx.scene.input.DragEvent;
import javafx.scene.input.KeyCode;
import javafx.scene.input.KeyEvent;
import javafx.scene.input.TransferMode;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Kinds;
import org.custodia.core.link.Finding;
import org.custodia.core.link.Finding.Verdict;
import org.custodia.core.link.LinkStatus;
import org.custodia.core.saying.Saying;
import org.custodia.core.setup.LinkBook;
import org.custodia.core.setup.LinkSetup;
import org.custodia.core.setup.SetupException;
import org.custodia.core.site.Camera;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Pairing;
import org.custodia.core.site.SystemId;
import org.custodia.desktop.picture.PicturePane;
import org.custodia.desktop.setup.SetupView;
import org.custodia.desktop.watch.WatchModel;
import org.custodia.desktop.watch.WatchView;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** From an empty data directory to doors on watch and back, in the window, without a restart; and what is wrong on the way. */
class ConsoleSetupTest extends ConsoleFixture {
    private static final String TOKEN = "rig-token";
    private static final SystemId TIDEWATER = new SystemId("tidewater");

    @Override
    @BeforeEach
    void open() {
        rig = new Rig(directory);
        start();
    }

    private void start() {
        rig.hub = new Hub(rig.data, Optional.empty(), Optional.empty(), rig.clock, Rig.OPERATOR);
        rig.hub.connect(Optional.empty(), s -> {});
        console = new Console(rig.hub, "Sternwick Museum", true, Rig.OPERATOR);
        window = console.window();
    }

    private void restart() {
        console.close();
        rig.hub.close();
        start();
    }

    private WatchModel watch() {
        return window.shell().view(WatchView.class).model();
    }

    private String access(String system) {
        return rig.site.address() + "/access/" + system + "/";
    }

    private Optional<LinkStatus> status() {
        return rig.hub.links().stream()
                .filter(s -> s.system().equals(TIDEWATER))
                .findFirst();
    }

    private void up() {
        Rig.await().until(() -> status().filter(s -> s.state() == LinkStatus.State.UP)
                .isPresent());
    }

    private void connect() {
        press("Connect to a system…");
        type("Address", access("tidewater"));
        type("Token", TOKEN);
        press("Save");
        up();
    }

    private String said() {
        return fx(() -> all(".said").stream()
                .map(n -> ((Label) n).getText())
                .findFirst()
                .orElse(""));
    }

    /** Whether some file of the console holds a text as it is. */
    private boolean kept(String text) throws IOException {
        byte[] wanted = text.getBytes(StandardCharsets.ISO_8859_1);
        try (Stream<Path> files = Files.walk(rig.data)) {
            for (Path file : files.filter(Files::isRegularFile).toList()) {
                String content = new String(Files.readAllBytes(file), StandardCharsets.ISO_8859_1);
                if (content.contains(new String(wanted, StandardCharsets.ISO_8859_1))) {
                    return true;
                }
            }
        }
        return false;
    }

    @Test
    void from_nothing_to_doors_on_watch() throws IOException {
        Rig.await().until(() -> shows(".greeting .label", "Connect to an access system"));
        press("Connect to a system…");
        type("Address", access("tidewater"));
        type("Token", TOKEN);
        press("Try it");
        Rig.await().until(() -> said().startsWith("All well"));
        assertThat(shows(".steps .label", "Signed in")).isTrue();
        assertThat(rig.hub.links()).isEmpty();
        press("Save");
        up();
        Rig.await().until(() -> fx(() -> !watch().strips().isEmpty()));
        Rig.await().until(() -> shows(".greeting .label", "doors are here"));
        Rig.await().until(() -> shows(".link-line .label", ", heard"));
        Rig.await().until(() -> rig.hub.log().find(EventQuery.all().kinds(Kinds.SET_UP)).stream()
                .map(e -> e.detail("change").orElseThrow())
                .toList()
                .equals(List.of("added")));
        assertThat(kept("127.0.0.1")).isTrue();
        assertThat(kept(TOKEN)).isFalse();
        // A restart finds it again, with what it signs in with.
        restart();
        up();
        assertThat(fx(() -> window.shell().view(SetupView.class).comesFirst())).isFalse();
    }

    /** Connects to both systems and opens a door under Pairs. */
    private void pairing(String door) {
        connect();
        press("Connect to a system…");
        fx(() -> {
            ComboBox<?> kinds = (ComboBox<?>) window.scene().getRoot().lookup(".combo-box");
            kinds.getSelectionModel().select(1);
            return null;
        });
        type("Address", rig.site.address() + "/recorder/quayside/");
        type("Token", TOKEN);
        press("Save");
        Rig.await().until(() -> !rig.hub.sites().get().cameras().isEmpty());
        setup("Pairs");
        String field = "Find a door by its name or site";
        enter(field, door);
        Rig.await().until(() -> fx(() -> !all(".pair-editor").isEmpty()));
    }

    @Test
    void a_camera_that_evidence_proposes_is_paired_and_tried() {
        pairing("vault ante");
        press("Look for its camera");
        Rig.await().until(() -> shows(".candidate .label", "Sure: it moves with this door."));
        Rig.await().until(() -> fx(() -> all(".candidate .film-still").size() >= 6));
        press("Pair, seen from inside");
        DoorId vault = new DoorId("tidewater/vault-ante");
        Rig.await().until(() -> !rig.hub.sites().get().pairings(vault).isEmpty());
        // Two cameras show the door; whichever was asked first is proposed first.
        assertThat(rig.hub.sites().get().pairings(vault).get(0).camera().value())
                .startsWith("quayside/vault-ante-");
        Rig.await().until(() -> shows(".pair-cameras .label", "Never tried"));
        press("Try it");
        Rig.await().until(() -> shows(".trial .label", "Present something at Vault ante-room now"));
        rig.happen("{'act':'present','door':'vault-ante','badge':'60190'}");
        Rig.await().until(() -> shows(".trial .label", "Is this the door?"));
        Rig.await()
                .until(() -> fx(() -> all(".trial .picture").stream().anyMatch(n -> ((PicturePane) n).hasPicture())));
        press("Yes, all three");
        Rig.await().until(() -> shows(".pair-cameras .label", ": right"));
        assertThat(rig.hub.log().find(EventQuery.all().kinds(Kinds.TRIED))).hasSize(1);
        // What is changed is to be tried again.
        press("Change…");
        type("Plays from so many seconds before an event", "999");
        Rig.await().until(() -> fx(() -> !all(".pair-tuner .button").isEmpty()));
        press("Save");
        Rig.await().until(() -> shows(".pair-tuner .caution", "at most 120"));
        type("Plays from so many seconds before an event", "12,5");
        press("Save");
        Rig.await()
                .until(() ->
                        rig.hub.sites().get().pairings(vault).get(0).leadIn().toMillis() == 12_500);
        Rig.await().until(() -> shows(".pair-cameras .label", "Changed since it was tried"));
    }

    @Test
    @SuppressWarnings("unchecked")
    void a_camera_is_paired_by_a_key_or_by_dragging_it_to_a_side() {
        pairing("vault ante");
        setup("By hand");
        type("Find a camera", "reading room outside");
        fx(() -> {
            Node list = all(".pair-another .list-view").iterator().next();
            list.requestFocus();
            Event.fireEvent(
                    list, new KeyEvent(KeyEvent.KEY_TYPED, "3", "", KeyCode.UNDEFINED, false, false, false, false));
            return null;
        });
        DoorId vault = new DoorId("tidewater/vault-ante");
        Rig.await().until(() -> rig.hub.sites().get().pairings(vault).stream()
                .anyMatch(p -> p.view() == Pairing.View.OVERVIEW));
        type("Find a camera", "ante outside");
        Button inside = labeled(Button.class, ".button", "From inside  2"::equals);
        fx(() -> {
            ListCell<Camera> cell = all(".pair-another .list-cell").stream()
                    .map(n -> (ListCell<Camera>) n)
                    .filter(c -> c.getItem() != null)
                    .findFirst()
                    .orElseThrow();
            // What is dragged from elsewhere is not taken.
            for (Object source : List.of(new Button("x"), cell)) {
                Event.fireEvent(
                        inside,
                        new DragEvent(
                                null,
                                inside,
                                DragEvent.DRAG_DROPPED,
                                null,
                                0,
                                0,
                                0,
                                0,
                                TransferMode.LINK,
                                source,
                                inside,
                                null));
            }
            return null;
        });
        Rig.await().until(() -> rig.hub.sites().get().pairings(vault).stream()
                .anyMatch(p ->
                        p.view() == Pairing.View.INSIDE && p.camera().value().equals("quayside/vault-ante-outside")));
        assertThat(rig.hub.sites().get().pairings(vault)).hasSize(2);
    }

    @Test
    void a_door_is_paired_with_the_camera_whose_picture_shows_it_and_watch_has_it_at_once() {
        pairing("vault ante");
        setup("By hand");
        type("Find a camera", "ante outside");
        Rig.await()
                .until(() ->
                        fx(() -> all(".pair-editor .picture").stream().anyMatch(n -> ((PicturePane) n).hasPicture())));
        press("From outside  1");
        DoorId vault = new DoorId("tidewater/vault-ante");
        Rig.await().until(() -> !rig.hub.sites().get().pairings(vault).isEmpty());
        assertThat(rig.hub.sites().get().pairings(vault).get(0).camera().value())
                .isEqualTo("quayside/vault-ante-outside");
        Rig.await().until(() -> shows(".pairs .label", "Vault ante-room outside"));
        // The same once more is refused in words.
        press("From outside  1");
        Rig.await().until(() -> shows(".pair-editor .caution", "shows this door so already"));
        fx(() -> {
            watch().watch(List.of(vault));
            Event.fireEvent(
                    window.shell(),
                    new KeyEvent(KeyEvent.KEY_PRESSED, "", "", KeyCode.DIGIT1, false, true, false, false));
            return null;
        });
        Rig.await().until(() -> fx(() -> window.shell().view(WatchView.class).livePictures() == 1));
        setup("Pairs");
        press("Take off");
        press("Keep it");
        assertThat(rig.hub.sites().get().pairings(vault)).isNotEmpty();
        press("Take off");
        press("Take off");
        Rig.await().until(() -> rig.hub.sites().get().pairings(vault).isEmpty());
        // It is on record as soon as that is stored.
        Rig.await().until(() -> rig
                .hub
                .log()
                .find(EventQuery.all().kinds(Kinds.SET_UP).doors(Set.of(vault)))
                .stream()
                .map(e -> e.detail("change").orElseThrow())
                .toList()
                .equals(List.of("added", "removed")));
    }

    @Test
    void a_clock_that_is_off_by_more_than_is_allowed_is_told_and_a_wider_limit_takes_that_back() {
        connect();
        setup("Clocks");
        Rig.await().until(() -> shows(".clock-row .label", "clock 0."));
        String field = "How many seconds the clock of Tidewater, Harbour and Yard may be off";
        enter(field, "soon");
        Rig.await().until(() -> shows(".clock-row .caution", "“soon” is no number of seconds."));
        enter(field, "0");
        Rig.await().until(() -> shows(".clock-row .caution", "by more than nothing"));
        enter(field, "1,5");
        Rig.await()
                .until(() -> rig.hub
                                .setup()
                                .links(Rig.OPERATOR)
                                .get(0)
                                .link()
                                .clockLimit()
                                .toMillis()
                        == 1_500);
        rig.happen("{'act':'clock','target':'tidewater','seconds':4}");
        Rig.await()
                .until(() -> rig.hub
                                .log()
                                .find(EventQuery.all().kinds(Kinds.CLOCK_OFF))
                                .size()
                        == 1);
        Rig.await().until(() -> shows(".clock-row .caution", "clock 4.0 s ahead"));
        enter(field, "10");
        Rig.await()
                .until(() -> rig.hub
                                .log()
                                .find(EventQuery.all().kinds(Kinds.CLOCK_BACK))
                                .size()
                        == 1);
        Rig.await().until(() -> shows(".clocks-by-pictures .label", "Not compared since the start."));
    }

    /** Types something into a field, and Enter. */
    private void enter(String field, String words) {
        type(field, words);
        fx(() -> {
            all(".text-field").stream()
                    .filter(f -> field.equals(f.getAccessibleText()))
                    .findFirst()
                    .ifPresent(f -> f.fireEvent(new ActionEvent()));
            return null;
        });
    }

    @Test
    void a_link_is_paused_resumed_and_removed_while_everything_goes_on() {
        connect();
        Rig.await().until(() -> fx(() -> !watch().strips().isEmpty()));
        long stored = rig.stored("tidewater").size();
        String name = status().orElseThrow().name();
        openLine(name);
        press("Pause");
        Rig.await().until(() -> shows(".link-line .label", "paused"));
        Rig.await()
                .until(() -> fx(() ->
                        watch().strips().get(0).live().get().outOfReachSince().isPresent()));
        Rig.await().until(() -> shows(".top-bar .health", "is paused"));
        restart();
        setup("Links");
        openLine(name);
        press("Resume");
        up();
        Rig.await()
                .until(() -> fx(() ->
                        watch().strips().get(0).live().get().outOfReachSince().isEmpty()));
        Rig.await().until(() -> fx(() -> all(".link-editor").isEmpty()));
        openLine(name);
        press("Remove…");
        press("Keep it");
        assertThat(rig.hub.links()).hasSize(1);
        press("Remove…");
        press("Remove");
        Rig.await().until(() -> rig.hub.links().isEmpty());
        Rig.await().until(() -> fx(() -> watch().strips().isEmpty()));
        assertThat(rig.hub.sites().get().doors()).isEmpty();
        assertThat((long) rig.stored("tidewater").size()).isGreaterThanOrEqualTo(stored);
        // It comes back with all it had.
        Rig.await().until(() -> fx(() -> all(".link-line").isEmpty()));
        connect();
        Rig.await().until(() -> !rig.hub.sites().get().doors().isEmpty());
    }

    @Test
    void to_take_back_a_connection_asks_first() {
        connect();
        setup("Changes");
        Rig.await().until(() -> shows(".thing-line .label", "Connected to"));
        press("Take back");
        Rig.await().until(() -> shows(".thing-line .label", "This removes the connection"));
        assertThat(rig.hub.links()).hasSize(1);
        press("Keep it");
        assertThat(shows(".thing-line .label", "This removes the connection")).isFalse();
        press("Take back");
        press("Remove it");
        Rig.await().until(() -> rig.hub.links().isEmpty());
    }

    @Test
    void a_key_that_is_gone_is_said_and_a_token_that_is_entered_again_mends_it() throws IOException {
        connect();
        console.close();
        rig.hub.close();
        Files.delete(rig.data.resolve("secrets-key"));
        start();
        assertThat(status().orElseThrow().problem().map(Saying::code)).contains("secrets.key-missing");
        setup("Links");
        Rig.await().until(() -> shows(".link-line .label", "the key file"));
        openLine(status().orElseThrow().name());
        type("Token", TOKEN);
        press("Save");
        up();
    }

    private LinkSetup link(String id, String address) {
        return new LinkSetup(id, "access", "link-protocol", "X", URI.create(address), false, false);
    }

    private List<Finding> walk(LinkSetup link, String token) throws InterruptedException {
        List<Finding> found = new ArrayList<>();
        rig.hub.setup().walk(link, Optional.of(token), Rig.OPERATOR, found::add);
        return found;
    }

    private static void stoppedAt(List<Finding> found, Finding.Step step, String code) {
        Finding last = found.get(found.size() - 1);
        assertThat(last.step()).isEqualTo(step);
        assertThat(last.verdict()).isEqualTo(Verdict.NOT_MET);
        assertThat(last.seen().text()).contains(code);
    }

    @Test
    void each_thing_that_can_be_wrong_on_the_way_is_said_at_the_step_where_it_is() throws Exception {
        stoppedAt(walk(link("tidewater", access("tidewater")), "wrong"), Finding.Step.SIGNED_IN, "link.token-refused");
        stoppedAt(
                walk(link("tidewater", rig.site.address() + "/control/"), TOKEN),
                Finding.Step.REACHABLE,
                "check.is-the-path-right");
        try (ServerSocket silent = new ServerSocket(0, 1, InetAddress.getLoopbackAddress())) {
            String address = "http://127.0.0.1:" + silent.getLocalPort() + "/";
            silent.close();
            stoppedAt(walk(link("tidewater", address), TOKEN), Finding.Step.REACHABLE, "link.nobody-there");
        }
        // It takes the connection and says nothing.
        try (ServerSocket silent = new ServerSocket(0, 5, InetAddress.getLoopbackAddress())) {
            String address = "http://127.0.0.1:" + silent.getLocalPort() + "/";
            stoppedAt(walk(link("tidewater", address), TOKEN), Finding.Step.REACHABLE, "link.no-answer-in-time");
        }
        HttpServer other = HttpServer.create(new InetSocketAddress("127.0.0.1", 0), 0);
        List<String> tokens = new ArrayList<>();
        other.createContext("/moved/", e -> {
            e.getResponseHeaders().add("Location", access("tidewater") + "hello");
            e.sendResponseHeaders(302, -1);
            e.close();
        });
        other.createContext("/page/", e -> {
            tokens.add(e.getRequestHeaders().getFirst("Authorization"));
            byte[] page = "<html>Welcome</html>".getBytes(StandardCharsets.UTF_8);
            e.sendResponseHeaders(200, page.length);
            e.getResponseBody().write(page);
            e.close();
        });
        other.start();
        try {
            String base = "http://127.0.0.1:" + other.getAddress().getPort();
            // Whoever redirects does not get a token sent on.
            stoppedAt(walk(link("tidewater", base + "/moved/"), TOKEN), Finding.Step.REACHABLE, "link.");
            stoppedAt(walk(link("tidewater", base + "/page/"), TOKEN), Finding.Step.REACHABLE, "link.answer-odd");
            assertThat(tokens).containsOnly("Bearer " + TOKEN);
        } finally {
            other.stop(0);
        }
        List<Finding> stranger = walk(link("larkspur", access("tidewater")), TOKEN);
        assertThat(stranger).anySatisfy(f -> {
            assertThat(f.step()).isEqualTo(Finding.Step.WHO);
            assertThat(f.verdict()).isEqualTo(Verdict.NOT_MET);
        });
        assertThatThrownBy(() ->
                        rig.hub.setup().whoAnswers(link("", rig.site.address() + "/control/"), TOKEN, Rig.OPERATOR))
                .isInstanceOf(SetupException.class);
        assertThat(rig.hub
                        .setup()
                        .whoAnswers(link("", access("larkspur")), TOKEN, Rig.OPERATOR)
                        .id())
                .isEqualTo("larkspur");
        assertThat(rig.hub.setup().links(Rig.OPERATOR))
                .extracting(LinkBook.Kept::link)
                .isEmpty();
    }

    @Test
    void a_system_that_answers_with_another_identity_is_refused_and_says_who_it_is() {
        rig.hub.setup().add(link("larkspur", access("tidewater")), TOKEN, Rig.OPERATOR);
        Rig.await()
                .until(() ->
                        rig.hub.links().get(0).problem().map(Saying::code).equals(Optional.of("link.other-system")));
        assertThat(rig.hub.sites().get().doors()).isEmpty();
    }
}
