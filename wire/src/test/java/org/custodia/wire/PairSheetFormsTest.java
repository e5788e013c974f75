package org.custodia.wire;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.nio.charset.StandardCharsets;
import java.util.List;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.constraints.StringLength;
import org.custodia.core.saying.Says;
import org.custodia.core.setup.PairSheets.Form;
import org.custodia.core.setup.PairSheets.Row;
import org.custodia.core.setup.SetupException;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;
import org.junit.jupiter.params.provider.ValueSource;

class PairSheetFormsTest {
    private final PairSheetForms forms = new PairSheetForms();

    private static Row row(String door, String name) {
        return new Row(
                1, door, name, "quayside/vault", "Vault", "entry", "outside", "10", "0.5", "0.1", "0.2", "0.4", "2.9");
    }

    private List<Row> read(String text) {
        return forms.read(text.getBytes(StandardCharsets.UTF_8));
    }

    private void says(String code, byte[] sheet) {
        assertThatThrownBy(() -> forms.read(sheet)).isInstanceOfSatisfying(SetupException.class, e -> assertThat(
                        ((Says) e).saying().code())
                .isEqualTo(code));
    }

    private void says(String code, String sheet) {
        says(code, sheet.getBytes(StandardCharsets.UTF_8));
    }

    @ParameterizedTest
    @EnumSource
    void what_is_written_is_read_again(Form form) {
        Row one = row("tidewater/vault", "Vault, the \"inner\" one");
        Row whole = new Row(1, "tidewater/gate", "", "ferry/gate", "", "exit", "inside", "12.5", "", "", "", "", "0");
        List<Row> again = forms.read(forms.write(List.of(one, whole), form));
        assertThat(again).hasSize(2);
        assertThat(again.get(0).door()).isEqualTo("tidewater/vault");
        assertThat(again.get(0).faceWidth()).isEqualTo("0.2");
        assertThat(Double.parseDouble(again.get(0).faceAfterSeconds())).isEqualTo(2.9);
        assertThat(Double.parseDouble(again.get(1).leadInSeconds())).isEqualTo(12.5);
        assertThat(again.get(1).faceX()).isEmpty();
    }

    @Property(tries = 300)
    void any_names_go_there_and_back_and_none_is_a_formula(
            @ForAll @StringLength(max = 12) String door, @ForAll @StringLength(max = 12) String name) {
        String id = door.isBlank() ? "d" : door.strip();
        byte[] csv = forms.write(List.of(row(id, name)), Form.CSV);
        String written = new String(csv, StandardCharsets.UTF_8);
        assertThat(written.substring(written.indexOf('\n') + 1).replaceFirst("^\"", ""))
                .doesNotMatch("(?s)[=+\\-@\\t].*");
        if (id.chars().noneMatch(Character::isISOControl) && !Character.isSurrogate(id.charAt(0))) {
            assertThat(forms.read(csv)).hasSize(1);
        }
    }

    @Test
    void a_cell_that_a_spreadsheet_would_calculate_is_made_inert_and_comes_back_as_it_was() {
        byte[] csv = forms.write(List.of(row("=cmd|' /C calc'!A0", "@sum(1)")), Form.CSV);
        String text = new String(csv, StandardCharsets.UTF_8);
        assertThat(text).contains("'=cmd|").contains("'@sum(1)");
        assertThat(forms.read(csv).get(0).door()).isEqualTo("=cmd|' /C calc'!A0");
    }

    @ParameterizedTest
    @ValueSource(strings = {",", ";", "\t"})
    void cells_may_be_parted_in_the_ways_of_spreadsheets_in_any_order_of_columns(String by) {
        List<Row> rows = read(String.join(by, "View", "camera", "DOOR", "side", "remark") + "\r\n"
                + String.join(by, "outside", "quayside/a", "tidewater/b", "entry", "x") + "\r\n\r\n");
        assertThat(rows).singleElement().satisfies(r -> {
            assertThat(r.door()).isEqualTo("tidewater/b");
            assertThat(r.view()).isEqualTo("outside");
            assertThat(r.leadInSeconds()).isEmpty();
            assertThat(r.line()).isEqualTo(2);
        });
    }

    @Test
    void what_is_no_sheet_says_why() {
        says("sheet.columns-missing", "door,camera\na,b");
        says("sheet.columns-missing", "");
        says("sheet.not-utf8", "door,camera,side,view\nT\u00fcr,b,entry,outside".getBytes(StandardCharsets.ISO_8859_1));
        says("sheet.not-utf8", "door,camera,side,view\n".getBytes(StandardCharsets.UTF_16));
        says("sheet.no-json", "{\"pairings\": [");
        says("sheet.no-pairings", "{\"pairs\": []}");
        says("sheet.no-csv", "door,camera,side,view\n\"open,b,entry,outside");
        says("sheet.too-many", "door,camera,side,view\n" + "a,b,entry,outside\n".repeat(100_001));
        says("sheet.too-large", new byte[33 * 1024 * 1024]);
        assertThat(read("door,camera,side,view\n")).isEmpty();
        // A row that is too short is read as far as it goes.
        assertThat(read("door,camera,side,view\na,b").get(0).side()).isEmpty();
        assertThat(read("{\"pairings\": [7, {\"door\": [1], \"face\": \"x\"}]}"))
                .hasSize(2);
    }
}
