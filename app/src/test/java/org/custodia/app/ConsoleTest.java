package org.custodia.app;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.util.List;
import java.util.Set;
import javafx.scene.Node;
import javafx.scene.control.Button;
import javafx.scene.control.Label;
import javafx.scene.control.ListView;
import javafx.scene.control.ScrollPane;
import javafx.scene.control.TextField;
import javafx.scene.input.KeyCode;
import org.custodia.core.access.Verdict;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Kinds;
import org.custodia.core.site.Camera;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.SystemId;
import org.custodia.desktop.watch.WatchView;
import org.junit.jupiter.api.Test;

class ConsoleTest extends ConsoleFixture {
    @Test
    void a_badge_presented_by_http_appears_on_the_strip_the_doorstep_and_in_arrivals() {
        present("staff-lobby", "20153");
        Rig.await().until(() -> cards("Staff lobby").stream()
                .anyMatch(c -> String.valueOf(c.getAccessibleText()).contains("A. Brandvold")));
        Rig.await().until(() -> fx(() -> window.shell().view(WatchView.class).doorstepComplete()));
        assertThat(shows(".name", "Asta Brandvold")).isTrue();
        Rig.await()
                .until(() -> fx(() -> all(".list-cell").stream()
                        .anyMatch(c -> String.valueOf(c.getAccessibleText()).contains("Asta Brandvold"))));
        Rig.await().until(() -> fx(() -> window.shell().view(WatchView.class).livePictures() >= 3));
        assertThat(shows(".tag", "live")).isTrue();
    }

    @Test
    void a_refusal_says_why_and_a_verdict_is_kept() {
        present("vault-ante", "20388");
        Rig.await().until(() -> shows(".doorstep .label", "Refused"));
        Rig.await().until(() -> shows(".doorstep .label", "“None of this person's levels has this door.”"));
        Node different = fx(() -> all(".verdict").stream()
                .filter(n -> n instanceof javafx.scene.control.ToggleButton b
                        && b.getText().equals("Not the same"))
                .findFirst()
                .orElseThrow());
        robot.clickOn(different);
        Rig.await().until(() -> !rig.hub
                .log()
                .find(EventQuery.all().kinds(Kinds.VERDICT))
                .isEmpty());
        Event refused = rig.hub
                .log()
                .find(EventQuery.all().kinds(Kinds.REFUSED).newest(1))
                .get(0);
        assertThat(rig.hub.verdicts().of(refused.key())).contains(Verdict.DIFFERENT);
    }

    @Test
    void let_through_changes_the_door_and_the_strip_and_is_in_the_log_as_an_act_of_the_operator() {
        rig.happen("{'act':'caller','door':'loading-bay','seconds':120}");
        Button letThrough = fx(() -> strip("Loading bay").lookupAll(".button").stream()
                .filter(n -> n instanceof Button b && b.getText().equals("Let through"))
                .map(Button.class::cast)
                .findFirst()
                .orElseThrow());
        robot.clickOn(letThrough);
        Rig.await().until(() -> shows(".progress", "confirmed by the door"));
        Rig.await().until(() -> rig
                .hub
                .board()
                .stretch(BAY, rig.clock.instant().minusSeconds(60), rig.clock.instant())
                .orElseThrow()
                .openings()
                .stream()
                .anyMatch(o -> !o.forced()));
        Event sent =
                rig.hub.log().find(EventQuery.all().kinds(Kinds.COMMAND_SENT)).get(0);
        assertThat(sent.operator()).contains("ivantongeren");
        Rig.await().until(() -> cards("Loading bay").stream()
                .anyMatch(c -> String.valueOf(c.getAccessibleText()).contains("let through")));
        Rig.await().until(() -> shows(".note-card .label", "Let through at Loading bay"));
        TextField who = fx(() -> all(".note-card .text-field").stream()
                .map(TextField.class::cast)
                .filter(f -> f.getPromptText().equals("Who was it?"))
                .findFirst()
                .orElseThrow());
        robot.clickOn(who)
                .write("Castellane driver")
                .type(KeyCode.ENTER)
                .write("parcels")
                .type(KeyCode.ENTER);
        Rig.await()
                .until(() ->
                        !rig.hub.log().find(EventQuery.all().kinds(Kinds.NOTE)).isEmpty());
        Event note = rig.hub.log().find(EventQuery.all().kinds(Kinds.NOTE)).get(0);
        assertThat(note.detail("who")).contains("Castellane driver");
        assertThat(note.reason()).contains("parcels");
        assertThat(note.detail("about")).contains(sent.key().text());
    }

    @Test
    void keys_act_on_the_strip_that_has_the_focus() {
        fx(() -> {
            strip("Loading bay").requestFocus();
            return null;
        });
        // Words typed over a strip act on no door.
        robot.write("lukb");
        robot.press(KeyCode.ALT).type(KeyCode.U).release(KeyCode.ALT);
        Rig.await().until(() -> shows(".headline", "Unlocked from the desk until changed"));
        robot.press(KeyCode.ALT).type(KeyCode.B).release(KeyCode.ALT);
        Rig.await().until(() -> !shows(".headline", "Unlocked from the desk until changed"));
        assertThat(rig.hub.log().find(EventQuery.all().kinds(Kinds.COMMAND_SENT)))
                .hasSize(2);
    }

    /** A pointer that rests over a strip aims at it, however long; what waits is shown by a button. */
    @Test
    void strips_stay_where_they_are_under_a_pointer_that_rests() {
        robot.moveTo(strip("Loading bay"));
        rig.happen("{'act':'force','door':'strongroom-corr','seconds':600}");
        String waits = "Show at the top: Strongroom corridor";
        Rig.await()
                .until(() -> fx(() -> all(".new-items").stream()
                        .anyMatch(n -> n instanceof Button b
                                && b.isVisible()
                                && b.getText().equals(waits))));
        assertThat(fx(() -> all(".strip").stream().anyMatch(s -> "Strongroom corridor".equals(s.getAccessibleText()))))
                .isFalse();
        press(waits);
        Rig.await()
                .until(() -> fx(() ->
                                strip("Strongroom corridor").getBoundsInParent().getMinY())
                        == 0);
    }

    @Test
    void an_event_plays_in_its_strip_while_the_others_stay_live_and_escape_returns() {
        present("staff-lobby", "20153");
        Rig.await().until(() -> !cards("Staff lobby").isEmpty());
        Rig.await().until(() -> fx(() -> window.shell().view(WatchView.class).livePictures() >= 3));
        fx(() -> {
            strip("Staff lobby").requestFocus();
            return null;
        });
        robot.type(KeyCode.ENTER);
        Rig.await().until(() -> shows(".deck .tag", "recorded"));
        assertThat(all(".deck")).hasSize(1);
        Rig.await()
                .until(() -> fx(() -> all(".tag").stream()
                                .filter(n -> n instanceof Label l && l.getText().contains(" live "))
                                .count()
                        >= 3));
        robot.type(KeyCode.ESCAPE);
        Rig.await().until(() -> all(".deck").isEmpty());
    }

    @Test
    void looking_back_shows_that_instant_everywhere_and_home_returns() {
        fx(() -> {
            window.shell().desk().lookBack(rig.clock.instant().minus(Duration.ofHours(2)));
            strip("Staff lobby").requestFocus();
            return null;
        });
        Rig.await().until(() -> shows(".look-back-bar .label", "Looking back at"));
        assertThat(all(".looking-back")).hasSize(1);
        // Where the time is not known to a tenth of a second the words take two lines.
        Rig.await().until(() -> shows(".strip .tag", "recorded") && shows(".strip .tag", "12:2"));
        Rig.await().until(() -> shows(".strip .secondary", "now: "));
        robot.type(KeyCode.HOME);
        Rig.await().until(() -> all(".looking-back").isEmpty());
        Rig.await().until(() -> shows(".strip .tag", " live "));
    }

    @Test
    void a_forced_door_that_is_not_on_watch_is_pulled_in_at_the_top() {
        rig.happen("{'act':'force','door':'strongroom-corr','seconds':90}");
        Rig.await()
                .until(() -> fx(() -> window.shell()
                        .view(WatchView.class)
                        .model()
                        .strips()
                        .get(0)
                        .door()
                        .name()
                        .equals("Strongroom corridor")));
        Rig.await().until(() -> shows(".headline", "Forced open"));
        rig.happen("{'act':'shut','door':'strongroom-corr'}");
        // It stays until somebody has seen its alarm, by the key that works everywhere.
        Rig.await().until(() -> shows(".alarm-line .label", "Strongroom corridor"));
        robot.press(KeyCode.CONTROL).type(KeyCode.ENTER).release(KeyCode.CONTROL);
        Rig.await()
                .until(() -> fx(() ->
                        window.shell().view(WatchView.class).model().strips().size() == 3));
    }

    /** Also where the list is scrolled down, and the door moves to the second place. */
    @Test
    void a_door_that_is_pulled_in_while_the_list_is_scrolled_is_seen_or_named() {
        fx(() -> {
            List<DoorId> doors = rig.hub.sites().get().doors().stream()
                    .map(Door::id)
                    .filter(d -> d.value().startsWith("tidewater/"))
                    .limit(12)
                    .toList();
            window.shell().view(WatchView.class).model().watch(doors);
            return null;
        });
        ScrollPane list = fx(() -> (ScrollPane) all(".strips").iterator().next());
        for (String door : List.of("strongroom-corr", "strongroom")) {
            String name = rig.hub
                    .sites()
                    .get()
                    .door(new DoorId("tidewater/" + door))
                    .orElseThrow()
                    .name();
            scrollDown(list);
            rig.happen("{'act':'force','door':'" + door + "','seconds':600}");
            Rig.await()
                    .until(() -> fx(() -> {
                        double inView =
                                list.getVvalue() == 0 ? list.getViewportBounds().getHeight() : 0;
                        return all(".strip").stream()
                                .anyMatch(s -> name.equals(s.getAccessibleText())
                                        && s.getBoundsInParent().getMaxY() <= inView);
                    }));
        }
        scrollDown(list);
        Rig.await().until(this::namesTwoDoors);
        press("Show at the top: 2 doors");
        Rig.await().until(() -> fx(() -> list.getVvalue() == 0));
        scrollDown(list);
        Rig.await().until(this::namesTwoDoors);
        // While looking back the bar at the top names them.
        fx(() -> {
            window.shell().desk().lookBack(rig.clock.instant().minus(Duration.ofMinutes(30)));
            return null;
        });
        Rig.await().until(() -> !namesTwoDoors());
    }

    private boolean namesTwoDoors() {
        return fx(() -> all(".new-items").stream()
                .anyMatch(n ->
                        n.isVisible() && n instanceof Button b && b.getText().equals("Show at the top: 2 doors")));
    }

    private void scrollDown(ScrollPane list) {
        robot.moveTo(all(".product").iterator().next());
        Rig.await()
                .until(() -> fx(() -> {
                    list.setVvalue(1);
                    return list.getVvalue() == 1
                            && list.getContent().getBoundsInLocal().getHeight() > list.getHeight();
                }));
    }

    @Test
    void a_person_found_shows_the_latest_events_and_one_of_them_plays() {
        present("staff-lobby", "20153");
        Rig.await().until(() -> !rig.hub
                .log()
                .find(EventQuery.all()
                        .doors(Set.of(LOBBY))
                        .kinds(Kinds.GRANTED, Kinds.REFUSED)
                        .newest(1))
                .isEmpty());
        robot.press(KeyCode.CONTROL).type(KeyCode.K).release(KeyCode.CONTROL);
        Rig.await().until(() -> !all(".panel").isEmpty());
        robot.write("brandvold");
        Rig.await()
                .until(() -> fx(() -> all(".panel .list-view").stream()
                        .map(n -> (ListView<?>) n)
                        .allMatch(l -> !l.getItems().isEmpty())));
        robot.type(KeyCode.TAB).type(KeyCode.ENTER);
        Rig.await().until(() -> shows(".deck .title", "Brandvold"));
        assertThat(all(".panel")).isEmpty();
    }

    @Test
    void a_lost_link_is_said_in_the_top_bar_and_its_doors_are_out_of_reach() {
        rig.happen("{'act':'link-drop','target':'tidewater','seconds':7}");
        Rig.await().until(() -> shows(".top-bar .health", "out of reach"));
        Rig.await().until(() -> shows(".headline", "Out of reach since"));
        Rig.await().until(() -> shows(".top-bar .health", "4 links up"));
        Rig.await().until(() -> !shows(".headline", "Out of reach since"));
    }

    @Test
    void a_camera_that_is_named_later_than_its_door_is_shown_then() {
        SystemId quayside = new SystemId("quayside");
        List<Camera> named = rig.hub.sites().get().cameras().stream()
                .filter(c -> c.recorder().equals(quayside))
                .toList();
        rig.hub.sites().cameras(quayside, List.of());
        Rig.await().until(() -> shows(".strip .reason", "no recorder has named its camera quayside/"));
        present("staff-lobby", "20153");
        Rig.await().until(() -> shows(".doorstep .face .label", "no recorder has named its camera quayside/"));
        rig.hub.sites().cameras(quayside, named);
        Rig.await().until(() -> fx(() -> window.shell().view(WatchView.class).livePictures() >= 3));
        Rig.await().until(() -> fx(() -> window.shell().view(WatchView.class).doorstepComplete()));
        assertThat(shows(".strip .reason", "no recorder has named its camera")).isFalse();
    }

    @Test
    void doors_on_watch_are_chosen_and_remembered() {
        fx(() -> {
            window.shell().view(WatchView.class).model().watch(List.of(BAY, LOBBY));
            return null;
        });
        assertThat(fx(() -> window.shell().view(WatchView.class).model().strips().stream()
                        .map(s -> s.door().id())
                        .toList()))
                .containsSubsequence(BAY, LOBBY);
        assertThat(org.custodia.desktop.settings.Settings.load(rig.data)
                        .values()
                        .doors())
                .containsExactly(BAY.value(), LOBBY.value());
    }
}
