package org.custodia.desktop.setup;

import static org.assertj.core.api.Assertions.assertThat;
import static org.custodia.desktop.desk.DeskInHand.STORE;
import static org.custodia.desktop.desk.DeskInHand.VAULT;
import static org.custodia.desktop.desk.DeskInHand.onFx;
import static org.custodia.desktop.desk.DeskInHand.until;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.Mockito.when;

import java.nio.file.Path;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import org.custodia.core.event.Kinds;
import org.custodia.core.evidence.Candidate;
import org.custodia.core.evidence.EvidenceSearch;
import org.custodia.core.evidence.Glimpse;
import org.custodia.core.setup.PairBook;
import org.custodia.core.setup.PairPlan;
import org.custodia.core.setup.PairSheets;
import org.custodia.core.site.Camera;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Pairing;
import org.custodia.core.site.Side;
import org.custodia.desktop.desk.DeskInHand;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Doors and cameras that are looked for, and pairs that are made twice or are gone. */
class PairsModelTest {
    @TempDir
    Path directory;

    private DeskInHand hand;
    private PairsModel pairs;
    private final List<String> said = new ArrayList<>();

    @BeforeEach
    void open() {
        hand = new DeskInHand(directory);
        pairs = onFx(() -> new PairsModel(hand.desk));
    }

    @AfterEach
    void close() {
        hand.close();
    }

    private Door door(DoorId id) {
        return hand.desk.services().sites().get().door(id).orElseThrow();
    }

    private List<DoorId> found(String words) {
        onFx(() -> pairs.search().set(words));
        return pairs.doors().stream().map(Door::id).toList();
    }

    @Test
    void doors_are_found_by_any_part_of_their_name_or_site() {
        assertThat(found("")).containsExactly(STORE, VAULT);
        assertThat(found("VAU")).containsExactly(VAULT);
        assertThat(found(" store  harbour ")).containsExactly(STORE);
        assertThat(found("attic")).isEmpty();
        assertThat(found("[.*")).isEmpty();
        found("");
        onFx(() -> pairs.show().set(PairsModel.Show.WITHOUT));
        assertThat(pairs.doors()).extracting(Door::id).containsExactly(STORE);
        assertThat(pairs.count(PairsModel.Show.WITHOUT)).isEqualTo(1);
    }

    @Test
    void cameras_are_found_and_a_pair_is_made_once_and_taken_off() {
        Camera camera = pairs.cameras(door(STORE), "").get(0);
        assertThat(pairs.cameras(door(STORE), "outside vault")).containsExactly(camera);
        assertThat(pairs.cameras(door(STORE), "nowhere")).isEmpty();
        onFx(() -> pairs.pair(door(STORE), camera, Pairing.View.INSIDE, () -> said.add("paired"), said::add));
        until(() -> said.size() == 1);
        Pairing made = hand.setup.of(STORE).get(0).pairing();
        assertThat(made.side()).isEqualTo(Side.EXIT);
        onFx(() -> pairs.pair(door(STORE), camera, Pairing.View.INSIDE, () -> said.add("paired"), said::add));
        until(() -> said.size() == 2);
        onFx(() -> pairs.unpair(made, () -> said.add("gone"), said::add));
        until(() -> said.size() == 3);
        onFx(() -> pairs.unpair(made, () -> said.add("gone"), said::add));
        until(() -> said.size() == 4);
        assertThat(said)
                .containsExactly(
                        "paired",
                        "Vault outside shows this door so already.",
                        "gone",
                        "This pair is not there any more.");
        assertThat(hand.setup.of(STORE)).extracting(PairBook.Kept::pairing).isEmpty();
    }

    @Test
    void what_was_found_is_told_without_what_somebody_refused() throws Exception {
        Camera camera = pairs.cameras(door(STORE), "").get(0);
        Instant now = hand.now();
        for (int i = 0; i < 12; i++) {
            hand.log.store(DeskInHand.event(1_000 + i, Kinds.OPENED, STORE, now.minusSeconds(300 + 100 * i)));
        }
        when(hand.peeks.at(any(), any())).thenAnswer(i -> {
            Instant at = i.getArgument(1);
            boolean open = hand.log.events.stream()
                    .anyMatch(e -> e.kind().equals(Kinds.OPENED)
                            && !at.isBefore(e.time())
                            && at.isBefore(e.time().plusSeconds(3)));
            int[] rgb = new int[64 * 36];
            Arrays.fill(rgb, 0, open ? 800 : 200, 0xa0a0a0);
            return Glimpse.of(at, rgb, 64, 36);
        });
        List<Optional<EvidenceSearch.Result>> results = new ArrayList<>();
        onFx(() -> pairs.found(door(STORE), results::add, said::add));
        until(() -> results.size() == 1);
        assertThat(results.get(0)).isEmpty();
        onFx(() -> pairs.look(List.of(door(STORE)), () -> said.add("begun"), said::add));
        until(() -> said.contains("begun") && !pairs.looking().running());
        onFx(() -> pairs.found(door(STORE), results::add, said::add));
        until(() -> results.size() == 2);
        assertThat(results.get(1).orElseThrow().cameras()).singleElement().satisfies(c -> {
            assertThat(c.camera()).isEqualTo(camera.id());
            assertThat(c.confidence()).isEqualTo(Candidate.Confidence.SURE);
        });
        onFx(() -> pairs.refuse(door(STORE), camera.id(), () -> said.add("refused"), said::add));
        until(() -> said.contains("refused"));
        onFx(() -> pairs.found(door(STORE), results::add, said::add));
        until(() -> results.size() == 3);
        assertThat(results.get(2).orElseThrow().cameras()).isEmpty();
        assertThat(said).containsExactly("begun", "refused");
    }

    @Test
    void a_sheet_is_written_read_and_carried_out_and_a_file_that_is_not_there_is_said() throws Exception {
        Path file = directory.resolve("pairs.csv");
        onFx(() -> pairs.export(file, PairSheets.Form.CSV, () -> said.add("written"), said::add));
        until(() -> said.contains("written"));
        assertThat(file).exists();
        hand.setup.rows = List.of(new PairSheets.Row(
                2, STORE.value(), "", "quayside/vault-outside", "", "entry", "outside", "", "", "", "", "", ""));
        List<PairPlan> plans = new ArrayList<>();
        onFx(() -> pairs.plan(file, plans::add, said::add));
        until(() -> plans.size() == 1);
        assertThat(plans.get(0).added()).hasSize(1);
        onFx(() -> pairs.carryOut(plans.get(0), false, n -> said.add("changed " + n), said::add));
        until(() -> said.contains("changed 1"));
        assertThat(hand.setup.of(STORE)).hasSize(1);
        onFx(() -> pairs.plan(directory.resolve("gone.csv"), plans::add, said::add));
        until(() -> said.size() == 3);
        assertThat(said.get(2)).endsWith("gone.csv could not be read.");
        onFx(() -> pairs.export(directory.resolve("no/way.csv"), PairSheets.Form.JSON, () -> {}, said::add));
        until(() -> said.size() == 4);
        assertThat(said.get(3)).endsWith("way.csv could not be written.");
    }
}
