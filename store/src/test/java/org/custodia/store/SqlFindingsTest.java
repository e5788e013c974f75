package org.custodia.store;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Path;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.custodia.core.evidence.Candidate;
import org.custodia.core.evidence.EvidenceSearch.Outcome;
import org.custodia.core.evidence.EvidenceSearch.Result;
import org.custodia.core.evidence.Findings;
import org.custodia.core.evidence.KnownOpening;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Pairing;
import org.custodia.core.site.Side;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** What was found by evidence is there after the end, too. */
class SqlFindingsTest {
    private static final Instant T = StoreFixture.START;
    private static final DoorId VAULT = new DoorId("tidewater/vault");
    private static final DoorId LODGE = new DoorId("tidewater/lodge \u0000 'odd'");

    private static Result full() {
        return new Result(
                Outcome.DONE,
                List.of(
                        new Candidate(
                                new CameraId("nightwatch/vault"),
                                Candidate.Confidence.SURE,
                                14.25,
                                5,
                                6,
                                1,
                                40,
                                Optional.of(Pairing.View.INSIDE),
                                Set.of(LODGE),
                                List.of(
                                        new KnownOpening(VAULT, T, Optional.of(Side.EXIT), Set.of(LODGE, VAULT)),
                                        new KnownOpening(VAULT, T.minusNanos(1), Optional.empty(), Set.of()))),
                        new Candidate(
                                new CameraId("nightwatch/yard"),
                                Candidate.Confidence.OPEN,
                                -0.5,
                                1,
                                2,
                                0,
                                0,
                                Optional.empty(),
                                Set.of(),
                                List.of())),
                17,
                58,
                12,
                List.of(),
                T.plusSeconds(60));
    }

    private static Result none(Outcome outcome) {
        return new Result(outcome, List.of(), 0, 0, 0, List.of(), T);
    }

    @Test
    void what_was_found_comes_back_as_it_was_and_what_is_found_later_takes_its_place(@TempDir Path path) {
        try (StoreFixture store = new StoreFixture(path)) {
            Findings findings = new SqlFindings(store.database);
            assertThat(findings.all()).isEmpty();
            findings.keep(Map.of(VAULT, full(), LODGE, none(Outcome.WAITING)));
            findings.keep(Map.of(LODGE, none(Outcome.NO_CONTACT)));
        }
        try (StoreFixture store = new StoreFixture(path)) {
            assertThat(new SqlFindings(store.database).all())
                    .isEqualTo(Map.of(VAULT, full(), LODGE, none(Outcome.NO_CONTACT)));
        }
    }

    @Test
    void what_cannot_be_read_takes_nothing_else_with_it(@TempDir Path path) {
        try (StoreFixture store = new StoreFixture(path)) {
            SqlFindings findings = new SqlFindings(store.database);
            findings.keep(Map.of(VAULT, full()));
            List<String> odd =
                    List.of("", "{", "[]", "{\"outcome\":\"DREAMT\"}", "{\"outcome\":\"DONE\",\"cameras\":[1]}");
            for (int i = 0; i < odd.size(); i++) {
                String door = "odd " + i;
                String found = odd.get(i);
                store.database.write(
                        dsl -> dsl.execute("insert into finding (door, told, found) values (?, 0, ?)", door, found));
            }
            assertThat(findings.all()).containsOnlyKeys(VAULT);
        }
    }
}
