package org.custodia.core.setup;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.time.ZoneOffset;
import java.util.List;
import java.util.Set;
import org.custodia.core.setup.PairSheets.Row;
import org.custodia.core.site.Camera;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.ControllerId;
import org.custodia.core.site.Crop;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PairId;
import org.custodia.core.site.Pairing;
import org.custodia.core.site.Side;
import org.custodia.core.site.Site;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.SystemId;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class PairPlanTest {
    private static final SiteId HARBOUR = new SiteId("harbour");
    private static final DoorId VAULT = new DoorId("tidewater/vault");
    private static final CameraId OUTSIDE = new CameraId("quayside/vault-outside");
    private static final SiteModel SITES = new SiteModel(
            List.of(new Site(HARBOUR, "Harbour", ZoneOffset.UTC)),
            List.of(new Door(
                    VAULT,
                    new SystemId("tidewater"),
                    new ControllerId("tidewater/c1"),
                    "Vault",
                    HARBOUR,
                    "0",
                    "a",
                    "b",
                    Duration.ofSeconds(30),
                    Set.of())),
            List.of(new Camera(OUTSIDE, new SystemId("quayside"), "Vault outside", HARBOUR)),
            List.of());
    /** Its id tells of an earlier camera; what it pairs says who it is. */
    private static final Pairing THERE = new Pairing(
            new PairId("old name"),
            VAULT,
            OUTSIDE,
            Side.ENTRY,
            Pairing.View.OUTSIDE,
            Duration.ofSeconds(10),
            Crop.WHOLE,
            Duration.ZERO);

    private static Row row(String... cells) {
        return new Row(
                3, cells[0], "", cells[1], "", cells[2], cells[3], cells[4], cells[5], cells[6], cells[7], cells[8],
                cells[9]);
    }

    private static Row vault(String leadIn) {
        return row("tidewater/vault", "quayside/vault-outside", "entry", "Outside", leadIn, "", "", "", "", "");
    }

    private static PairPlan plan(Row... rows) {
        return PairPlan.of(List.of(rows), List.of(new PairBook.Kept(THERE, 4)), SITES);
    }

    @Test
    void what_is_there_so_stays_and_what_is_there_otherwise_is_changed_under_its_own_id() {
        assertThat(plan(vault("10")).same()).isEqualTo(1);
        assertThat(plan(vault("")).same()).isEqualTo(1);
        PairPlan longer = plan(vault("12,5"));
        assertThat(longer.changed()).singleElement().satisfies(p -> {
            assertThat(p.id()).isEqualTo(THERE.id());
            assertThat(p.leadIn()).isEqualTo(Duration.ofMillis(12_500));
        });
        assertThat(longer.versions()).containsEntry(THERE.id(), 4L);
        assertThat(longer.absent()).isEmpty();
    }

    @Test
    void what_is_new_is_added_and_what_is_not_on_the_sheet_is_absent() {
        PairPlan plan = plan(row(
                "tidewater/vault", "quayside/vault-outside", "exit", "inside", "5", "0.1", "0.2", "0.3", "0.4", "2"));
        assertThat(plan.added()).singleElement().satisfies(p -> {
            assertThat(p.face()).isEqualTo(new Crop(0.1, 0.2, 0.3, 0.4));
            assertThat(p.faceAfter()).isEqualTo(Duration.ofSeconds(2));
        });
        assertThat(plan.absent()).containsExactly(THERE);
    }

    @ParameterizedTest
    @CsvSource({
        "sheet.no-door, tidewater/x, quayside/vault-outside, entry, outside, 10, '', '', '', '', ''",
        "sheet.no-door, '', quayside/vault-outside, entry, outside, 10, '', '', '', '', ''",
        "sheet.no-camera, tidewater/vault, quayside/x, entry, outside, 10, '', '', '', '', ''",
        "sheet.no-camera, tidewater/vault, ' ', entry, outside, 10, '', '', '', '', ''",
        "sheet.side-odd, tidewater/vault, quayside/vault-outside, left, outside, 10, '', '', '', '', ''",
        "sheet.view-odd, tidewater/vault, quayside/vault-outside, entry, above, 10, '', '', '', '', ''",
        "sheet.seconds-odd, tidewater/vault, quayside/vault-outside, entry, outside, 121, '', '', '', '', ''",
        "sheet.seconds-odd, tidewater/vault, quayside/vault-outside, entry, outside, 10, '', '', '', '', -1",
        "sheet.number-odd, tidewater/vault, quayside/vault-outside, entry, outside, soon, '', '', '', '', ''",
        "sheet.number-odd, tidewater/vault, quayside/vault-outside, entry, outside, NaN, '', '', '', '', ''",
        "sheet.number-odd, tidewater/vault, quayside/vault-outside, entry, outside, 10, 0.1, '', 0.2, 0.3, ''",
        "sheet.face-odd, tidewater/vault, quayside/vault-outside, entry, outside, 10, 0.9, 0.1, 0.2, 0.3, ''",
    })
    void a_row_that_cannot_be_taken_says_why_and_where_and_keeps_no_other_from_being_taken(
            String code,
            String door,
            String camera,
            String side,
            String view,
            String lead,
            String x,
            String y,
            String w,
            String h,
            String after) {
        PairPlan plan = plan(row(door, camera, side, view, lead, x, y, w, h, after), vault("11"));
        assertThat(plan.problems()).singleElement().satisfies(p -> {
            assertThat(p.saying().code()).isEqualTo(code);
            assertThat(p.line()).isEqualTo(3);
        });
        assertThat(plan.changed()).hasSize(1);
    }

    @Test
    void the_same_pair_twice_is_taken_once() {
        PairPlan plan = plan(vault("11"), vault("12"));
        assertThat(plan.changed()).hasSize(1);
        assertThat(plan.problems()).extracting(p -> p.saying().code()).containsExactly("sheet.twice");
    }

    @Test
    void ids_of_any_length_are_only_unknown() {
        assertThat(plan(row("x".repeat(100_000), "y", "entry", "outside", "", "", "", "", "", ""))
                        .problems())
                .hasSize(1);
        assertThat(plan(row("no-slash", "y".repeat(100_000), "entry", "outside", "", "", "", "", "", ""))
                        .problems())
                .hasSize(1);
    }
}
