package org.custodia.wire;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.JsonNodeFactory;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.io.IOException;
import java.io.StringReader;
import java.io.UncheckedIOException;
import java.nio.ByteBuffer;
import java.nio.charset.CharacterCodingException;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;
import org.apache.commons.csv.CSVFormat;
import org.apache.commons.csv.CSVParser;
import org.apache.commons.csv.CSVPrinter;
import org.apache.commons.csv.CSVRecord;
import org.custodia.core.saying.Saying;
import org.custodia.core.setup.PairSheets;
import org.custodia.core.setup.SetupException;

/** Pairs as CSV (RFC 4180) and as the JSON of links files. Numbers and words of programs never act as formulas in a sheet. */
public final class PairSheetForms implements PairSheets {
    private static final int LARGEST = 32 * 1024 * 1024;
    private static final int MOST_ROWS = 100_000;
    private static final List<String> COLUMNS = List.of(
            "door",
            "door name",
            "camera",
            "camera name",
            "side",
            "view",
            "lead-in seconds",
            "face x",
            "face y",
            "face width",
            "face height",
            "face after seconds");
    private static final List<String> NEEDED = List.of("door", "camera", "side", "view");
    /** A spreadsheet would take what begins so for a formula. */
    private static final String FORMULA = "=+-@\t\r";

    private static final char MARK = '\uFEFF';

    @Override
    public byte[] write(List<Row> rows, Form form) {
        return form == Form.CSV ? csv(rows) : json(rows);
    }

    private static byte[] csv(List<Row> rows) {
        StringBuilder text = new StringBuilder().append(MARK);
        try (CSVPrinter printer = new CSVPrinter(text, CSVFormat.RFC4180)) {
            printer.printRecord(COLUMNS);
            for (Row r : rows) {
                List<String> cells =
                        cells(r).stream().map(PairSheetForms::inert).toList();
                printer.printRecord(cells);
            }
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
        return text.toString().getBytes(StandardCharsets.UTF_8);
    }

    private static List<String> cells(Row r) {
        return List.of(
                r.door(),
                r.doorName(),
                r.camera(),
                r.cameraName(),
                r.side(),
                r.view(),
                r.leadInSeconds(),
                r.faceX(),
                r.faceY(),
                r.faceWidth(),
                r.faceHeight(),
                r.faceAfterSeconds());
    }

    private static String inert(String cell) {
        return !cell.isEmpty() && (FORMULA.indexOf(cell.charAt(0)) >= 0 || cell.charAt(0) == '\'') ? "'" + cell : cell;
    }

    private static String read(String cell) {
        return cell.startsWith("'") ? cell.substring(1) : cell;
    }

    private static byte[] json(List<Row> rows) {
        ObjectNode whole = JsonNodeFactory.instance.objectNode();
        ArrayNode all = whole.putArray("pairings");
        for (Row r : rows) {
            ObjectNode pair = all.addObject()
                    .put("door", r.door())
                    .put("camera", r.camera())
                    .put("side", r.side())
                    .put("view", r.view())
                    .put("leadInSeconds", Double.parseDouble(r.leadInSeconds()))
                    .put("faceAfterMillis", Math.round(1_000 * Double.parseDouble(r.faceAfterSeconds())));
            if (!r.faceX().isEmpty()) {
                pair.putObject("face")
                        .put("x", Double.parseDouble(r.faceX()))
                        .put("y", Double.parseDouble(r.faceY()))
                        .put("width", Double.parseDouble(r.faceWidth()))
                        .put("height", Double.parseDouble(r.faceHeight()));
            }
        }
        return whole.toPrettyString().getBytes(StandardCharsets.UTF_8);
    }

    @Override
    public List<Row> read(byte[] sheet) {
        if (sheet.length > LARGEST) {
            throw new SetupException(Saying.of("sheet.too-large", LARGEST / 1024 / 1024));
        }
        String text;
        try {
            text = StandardCharsets.UTF_8
                    .newDecoder()
                    .decode(ByteBuffer.wrap(sheet))
                    .toString();
        } catch (CharacterCodingException e) {
            throw new SetupException(Saying.of("sheet.not-utf8"));
        }
        if (!text.isEmpty() && text.charAt(0) == MARK) {
            text = text.substring(1);
        }
        List<Row> rows = text.stripLeading().startsWith("{") ? fromJson(text) : fromCsv(text);
        if (rows.size() > MOST_ROWS) {
            throw new SetupException(Saying.of("sheet.too-many", MOST_ROWS));
        }
        return rows;
    }

    private static List<Row> fromJson(String text) {
        JsonNode whole;
        try {
            whole = Wire.read(text, JsonNode.class);
        } catch (WireException e) {
            throw new SetupException(Saying.of("sheet.no-json", String.valueOf(e.getMessage())));
        }
        JsonNode all = whole.path("pairings");
        if (!all.isArray()) {
            throw new SetupException(Saying.of("sheet.no-pairings"));
        }
        List<Row> rows = new ArrayList<>();
        int line = 0;
        for (JsonNode p : all) {
            line++;
            JsonNode face = p.path("face");
            rows.add(new Row(
                    line,
                    text(p, "door"),
                    "",
                    text(p, "camera"),
                    "",
                    text(p, "side"),
                    text(p, "view"),
                    text(p, "leadInSeconds"),
                    text(face, "x"),
                    text(face, "y"),
                    text(face, "width"),
                    text(face, "height"),
                    p.path("faceAfterMillis").isNumber()
                            ? Double.toString(p.path("faceAfterMillis").asDouble() / 1_000)
                            : text(p, "faceAfterMillis")));
        }
        return rows;
    }

    private static String text(JsonNode node, String field) {
        return node.path(field).asText("");
    }

    private static List<Row> fromCsv(String text) {
        CSVFormat format = CSVFormat.RFC4180
                .builder()
                .setDelimiter(delimiter(text))
                .setHeader()
                .setSkipHeaderRecord(true)
                .setIgnoreHeaderCase(true)
                .setTrim(true)
                .setIgnoreEmptyLines(true)
                .setAllowMissingColumnNames(true)
                .build();
        try (CSVParser parser = CSVParser.parse(new StringReader(text), format)) {
            Map<String, Integer> there = parser.getHeaderMap();
            String missing = NEEDED.stream().filter(c -> !there.containsKey(c)).collect(Collectors.joining(", "));
            if (!missing.isEmpty()) {
                throw new SetupException(Saying.of("sheet.columns-missing", missing));
            }
            List<Row> rows = new ArrayList<>();
            for (CSVRecord r : parser) {
                List<String> c = COLUMNS.stream()
                        .map(column -> r.isSet(column) ? read(r.get(column)) : "")
                        .toList();
                rows.add(new Row(
                        (int) parser.getCurrentLineNumber(),
                        c.get(0),
                        c.get(1),
                        c.get(2),
                        c.get(3),
                        c.get(4),
                        c.get(5),
                        c.get(6),
                        c.get(7),
                        c.get(8),
                        c.get(9),
                        c.get(10),
                        c.get(11)));
                if (rows.size() > MOST_ROWS) {
                    break;
                }
            }
            return rows;
        } catch (IOException | UncheckedIOException | IllegalArgumentException | IllegalStateException e) {
            throw new SetupException(Saying.of("sheet.no-csv", String.valueOf(e.getMessage())));
        }
    }

    /** What stands between cells: spreadsheets write what is usual where they run. */
    private static char delimiter(String text) {
        String head = text.lines().findFirst().orElse("");
        char best = ',';
        for (char c : new char[] {';', '\t'}) {
            if (head.chars().filter(x -> x == c).count()
                    > head.chars().filter(x -> x == ',').count()) {
                best = c;
            }
        }
        return best;
    }
}
