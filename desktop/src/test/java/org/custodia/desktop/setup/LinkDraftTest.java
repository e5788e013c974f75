package org.custodia.desktop.setup;

import static org.assertj.core.api.Assertions.assertThat;
import static org.custodia.desktop.desk.DeskInHand.onFx;
import static org.custodia.desktop.desk.DeskInHand.until;

import java.net.URI;
import java.nio.file.Path;
import java.util.List;
import org.custodia.core.link.Finding;
import org.custodia.core.saying.Saying;
import org.custodia.core.setup.Connections;
import org.custodia.core.setup.LinkBook;
import org.custodia.core.setup.LinkSetup;
import org.custodia.core.setup.LinkSetup.Part;
import org.custodia.desktop.desk.DeskInHand;
import org.custodia.desktop.setup.LinkDraft.Stage;
import org.custodia.desktop.setup.LinksModel.State;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** A connection that is entered, tried, changed meanwhile by somebody else, and thought better of. */
class LinkDraftTest {
    private static final LinkSetup LINK = new LinkSetup(
            "tidewater", "access", "link-protocol", "Tidewater", URI.create("http://127.0.0.1:1/"), false, false);

    @TempDir
    Path directory;

    private DeskInHand hand;
    private LinksModel links;

    @BeforeEach
    void open() {
        hand = new DeskInHand(directory);
        links = onFx(() -> new LinksModel(hand.desk));
    }

    @AfterEach
    void close() {
        onFx(links::close);
        hand.close();
    }

    private LinkDraft entered(String address, String token) {
        return onFx(() -> {
            LinkDraft draft = links.fresh();
            draft.address().set(address);
            draft.token().set(token);
            return draft;
        });
    }

    private LinkBook.Kept there() {
        hand.setup.take(List.of(LINK));
        hand.setup.putToken(LINK, "t0ken");
        return hand.setup.all().get(0);
    }

    @Test
    void who_answers_need_not_be_known_beforehand() {
        hand.setup.answer = new Connections.Answer("tidewater", "Tidewater House");
        hand.setup.findings.add(
                new Finding(Finding.Step.REACHABLE, "it answers", Finding.Verdict.MET, Saying.of("check.seen", "yes")));
        LinkDraft draft = entered("http://127.0.0.1:1/", " t0ken ");
        onFx(draft::tryIt);
        until(() -> draft.stage().get() == Stage.TRIED);
        assertThat(draft.id().get()).isEqualTo("tidewater");
        assertThat(draft.name().get()).isEqualTo("Tidewater House");
        assertThat(draft.findings()).hasSize(1);
        assertThat(draft.said().get()).startsWith("All well");
        onFx(draft::save);
        until(() -> draft.stage().get() == Stage.SAVED);
        assertThat(hand.setup.done)
                .containsExactly(
                        "ask http://127.0.0.1:1/ t0ken", "walk http://127.0.0.1:1/ t0ken", "open tidewater t0ken");
        until(() ->
                links.state().get() instanceof State.Read read && read.lines().size() == 1);
    }

    @Test
    void saving_at_once_asks_who_answers_first() {
        hand.setup.answer = new Connections.Answer("tidewater", "");
        LinkDraft draft = entered("http://127.0.0.1:1/", "t0ken");
        onFx(draft::save);
        until(() -> draft.stage().get() == Stage.SAVED);
        assertThat(hand.setup.all())
                .singleElement()
                .satisfies(k -> assertThat(k.link().name()).isEqualTo("tidewater"));
    }

    @Test
    void nobody_there_is_said_and_what_was_entered_stays() {
        LinkDraft draft = entered("http://127.0.0.1:1/", "t0ken");
        onFx(draft::tryIt);
        until(() -> draft.stage().get() == Stage.TRIED);
        assertThat(draft.said().get()).contains("nothing answers at http://127.0.0.1:1/");
        assertThat(draft.address().get()).isEqualTo("http://127.0.0.1:1/");
        onFx(() -> draft.address().set("http://127.0.0.1:2/"));
        assertThat(draft.said().get()).isEmpty();
        assertThat(draft.stage().get()).isEqualTo(Stage.ENTERING);
    }

    @Test
    void what_is_wrong_is_said_where_it_was_entered_and_nothing_is_asked() {
        for (String odd : List.of("", "tidewater", "http://", "ht tp://x", "http://[::1", "%")) {
            LinkDraft draft = entered(odd, "");
            onFx(draft::tryIt);
            assertThat(draft.problems().get()).containsKeys(Part.ADDRESS, Part.TOKEN);
            onFx(draft::save);
            assertThat(draft.problems().get()).containsKeys(Part.ADDRESS, Part.TOKEN);
            assertThat(draft.stage().get()).isEqualTo(Stage.ENTERING);
        }
        LinkDraft open = entered("http://10.0.0.7/", "t");
        assertThat(onFx(open::asksToBeOpen)).isTrue();
        onFx(open::tryIt);
        assertThat(open.problems().get()).containsOnlyKeys(Part.ADDRESS);
        onFx(() -> open.openAllowed().set(true));
        assertThat(open.problems().get()).isEmpty();
        assertThat(hand.setup.done).isEmpty();
    }

    @Test
    void what_an_earlier_trial_still_finds_is_passed_over() {
        LinkBook.Kept kept = there();
        hand.setup.findings.add(
                new Finding(Finding.Step.CLOCK, "it", Finding.Verdict.NOT_MET, Saying.of("check.seen", "no")));
        LinkDraft draft = onFx(() -> {
            LinkDraft changed = links.draft(kept);
            changed.tryIt();
            changed.name().set("Tidewater again");
            return changed;
        });
        // A later trial of the same ends after the first one.
        onFx(draft::tryIt);
        until(() -> draft.stage().get() == Stage.TRIED);
        assertThat(draft.findings()).hasSize(1);
        assertThat(draft.said().get()).startsWith("One thing is not");
    }

    @Test
    void the_second_of_two_who_change_the_same_is_told_and_sees_how_it_stands_now() {
        LinkBook.Kept kept = there();
        LinkDraft one = onFx(() -> links.draft(kept));
        LinkDraft two = onFx(() -> links.draft(kept));
        onFx(() -> one.pause(true));
        until(() -> one.stage().get() == Stage.SAVED);
        onFx(() -> {
            two.name().set("Other");
            two.save();
        });
        until(() -> !two.said().get().isEmpty());
        assertThat(two.stage().get()).isEqualTo(Stage.ENTERING);
        assertThat(two.name().get()).isEqualTo("Other");
        until(() -> links.state().get() instanceof State.Read read
                && read.lines().get(0).link().paused());
        onFx(two::remove);
        until(() -> two.stage().get() == Stage.ENTERING && !two.said().get().isEmpty());
        assertThat(hand.setup.all()).hasSize(1);
    }

    @Test
    void a_token_is_left_as_it_is_unless_one_is_typed() {
        LinkBook.Kept kept = there();
        LinkDraft draft = onFx(() -> links.draft(kept));
        onFx(() -> {
            draft.name().set("Tidewater House");
            draft.save();
        });
        until(() -> draft.stage().get() == Stage.SAVED);
        assertThat(hand.setup.token(LINK)).contains("t0ken");
        assertThat(hand.setup.done).containsExactly("open tidewater t0ken");
    }

    @Test
    void whoever_thinks_better_of_it_while_it_is_asked_who_answers_keeps_nothing() {
        hand.setup.answer = new Connections.Answer("tidewater", "Tidewater");
        LinkDraft draft = entered("http://127.0.0.1:1/", "t0ken");
        onFx(() -> {
            draft.save();
            draft.forget();
        });
        LinkDraft later = entered("http://127.0.0.1:1/", "t0ken");
        onFx(later::tryIt);
        until(() -> later.stage().get() == Stage.TRIED);
        assertThat(draft.stage().get()).isNotEqualTo(Stage.SAVED);
        assertThat(hand.setup.all()).isEmpty();
    }
}
