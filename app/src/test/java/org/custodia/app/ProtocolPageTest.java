package org.custodia.app;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.networknt.schema.JsonSchema;
import com.networknt.schema.JsonSchemaFactory;
import com.networknt.schema.SpecVersion;
import com.networknt.schema.ValidationMessage;
import java.io.BufferedReader;
import java.io.IOException;
import java.io.InputStream;
import java.io.InputStreamReader;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.custodia.practice.PracticeClock;
import org.custodia.practice.PracticeSite;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** What docs/link-protocol says of messages, held against what the practice site really says, and against its own examples. */
class ProtocolPageTest {
    private static final Path PAGE = Path.of("..", "docs", "link-protocol.md");
    private static final Path SCHEMAS = Path.of("..", "docs", "link-protocol");
    private static final ObjectMapper JSON = new ObjectMapper();

    @TempDir
    Path directory;

    private final HttpClient client = HttpClient.newHttpClient();
    private PracticeSite site;

    @AfterEach
    void close() {
        if (site != null) {
            site.close();
        }
    }

    private static JsonSchema schema(String name) throws IOException {
        return JsonSchemaFactory.getInstance(SpecVersion.VersionFlag.V202012)
                .getSchema(Files.readString(SCHEMAS.resolve(name + ".schema.json")));
    }

    private static void fits(String name, String json) throws IOException {
        Set<ValidationMessage> problems = schema(name).validate(JSON.readTree(json));
        assertThat(problems)
                .as(name + ": " + json.substring(0, Math.min(300, json.length())))
                .isEmpty();
    }

    private static void doesNotFit(String name, String json) throws IOException {
        assertThat(schema(name).validate(JSON.readTree(json)))
                .as(name + ": " + json)
                .isNotEmpty();
    }

    private String token() throws IOException {
        return JSON.readTree(site.linksFile().toFile()).at("/links/0/token").asText();
    }

    private HttpRequest.Builder request(String path) throws IOException {
        return HttpRequest.newBuilder(URI.create(site.address() + path)).header("Authorization", "Bearer " + token());
    }

    private String get(String path) throws IOException, InterruptedException {
        return client.send(request(path).build(), HttpResponse.BodyHandlers.ofString())
                .body();
    }

    @Test
    void what_the_practice_site_says_fits_the_schemas() throws IOException, InterruptedException {
        site = new PracticeSite(
                directory, PracticeClock.starting(java.time.Clock.systemUTC(), java.util.Optional.empty()), 0);
        fits("links-file", Files.readString(site.linksFile()));
        for (String system : List.of("tidewater", "larkspur")) {
            String base = "/access/" + system + "/";
            fits("hello", get(base + "hello"));
            fits("time", get(base + "time"));
            fits("places", get(base + "inventory/places"));
            fits("people", get(base + "inventory/people?after=&limit=500"));
            fits("rules", get(base + "inventory/rules"));
            fits("snapshot", get(base + "snapshot"));
            fits("problem", get(base + "events?after=x"));
            String page = get(base + "events?after=0&limit=3000");
            assertThat(page.lines()).hasSizeGreaterThan(2_000);
            JsonSchema event = schema("event");
            for (String line : page.lines().toList()) {
                assertThat(event.validate(JSON.readTree(line))).as(line).isEmpty();
            }
            stream(base);
            HttpRequest command = request(base + "commands")
                    .POST(HttpRequest.BodyPublishers.ofString(
                            "{\"key\":\"k\",\"door\":\"vault-ante\",\"command\":\"let-through\"}"))
                    .build();
            HttpResponse<String> reply = client.send(command, HttpResponse.BodyHandlers.ofString());
            fits(reply.statusCode() == 200 ? "command-reply" : "problem", reply.body());
        }
        fits("recorder-hello", get("/recorder/quayside/hello"));
        fits("cameras", get("/recorder/quayside/cameras"));
    }

    private void stream(String base) throws IOException, InterruptedException {
        HttpResponse<InputStream> stream = client.send(
                request(base + "stream").header("Last-Event-ID", "1:5").build(),
                HttpResponse.BodyHandlers.ofInputStream());
        try (BufferedReader in = new BufferedReader(new InputStreamReader(stream.body(), StandardCharsets.UTF_8))) {
            String kind = "";
            String line;
            Set<String> seen = new HashSet<>();
            while (seen.size() < 2 && (line = in.readLine()) != null) {
                if (line.startsWith("event: ")) {
                    kind = line.substring(7);
                } else if (line.startsWith("data: ") && seen.add(kind)) {
                    fits(kind, line.substring(6));
                }
            }
        }
    }

    @Test
    void the_examples_on_the_page_fit_the_schemas() throws IOException {
        String page = Files.readString(PAGE);
        Map<String, String> byFirstWord = Map.of(
                "\"site\"", "links-file",
                "\"protocol\"", "hello",
                "\"epoch\": 1, \"seq\": 20417, \"time\": \"2026-11-24T14:31:12", "event",
                "\"epoch\": 1, \"seq\": 20417, \"time\": \"2026-11-24T14:31:14", "snapshot",
                "\"sites\"", "places",
                "\"people\"", "people",
                "\"levels\"", "rules",
                "\"cameras\"", "cameras",
                "\"key\"", "handling");
        Matcher blocks = Pattern.compile("```json\n(.*?)```", Pattern.DOTALL).matcher(page);
        List<String> matched = new ArrayList<>();
        while (blocks.find()) {
            String block = blocks.group(1);
            String schema = byFirstWord.entrySet().stream()
                    .filter(e -> block.replaceAll("\\s+", " ").startsWith("{" + e.getKey())
                            || block.replaceAll("\\s+", " ").startsWith("{ " + e.getKey()))
                    .map(Map.Entry::getValue)
                    .findFirst()
                    .orElseThrow(() -> new AssertionError("no schema for " + block));
            fits(schema, block.replace("\"…\"", "\"token\""));
            matched.add(schema);
        }
        assertThat(matched).containsExactlyInAnyOrderElementsOf(byFirstWord.values());
    }

    @Test
    void schemas_refuse_what_the_page_refuses() throws IOException {
        doesNotFit("event", "{\"epoch\":1,\"seq\":0,\"time\":\"2026-11-24T14:31:12Z\",\"kind\":\"x\"}");
        doesNotFit("event", "{\"epoch\":1,\"seq\":1,\"time\":\"2026-11-24T14:31:12Z\",\"kind\":\"operator.verdict\"}");
        doesNotFit("event", "{\"seq\":1,\"time\":\"2026-11-24T14:31:12Z\",\"kind\":\"x\"}");
        doesNotFit("hello", "{\"protocol\":2,\"system\":\"a\",\"epoch\":1}");
        doesNotFit("places", "{\"sites\":[]}");
        doesNotFit("people", "{\"people\":[{\"name\":\"x\"}]}");
        doesNotFit("command-reply", "{\"result\":\"perhaps\"}");
        doesNotFit("links-file", "{\"links\":[]}");
        doesNotFit(
                "snapshot",
                "{\"epoch\":1,\"seq\":1,\"time\":\"2026-11-24T14:31:12Z\",\"doors\":[{\"door\":\"a\",\"details\":{}}]}");
    }

    @Test
    void the_page_names_every_schema_it_has_and_every_kind() throws IOException {
        String page = Files.readString(PAGE);
        for (String kind : List.of("door.released", "controller.lost", "exit.requested", "reader.off")) {
            assertThat(page).contains("`" + kind + "`");
        }
        try (var files = Files.list(SCHEMAS)) {
            for (Path file : files.toList()) {
                JsonNode schema = JSON.readTree(file.toFile());
                assertThat(schema.path("title").asText()).as(file.toString()).isNotBlank();
            }
        }
    }
}
