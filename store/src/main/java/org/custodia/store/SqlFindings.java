package org.custodia.store;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.custodia.core.event.EventLogException;
import org.custodia.core.evidence.Candidate;
import org.custodia.core.evidence.EvidenceSearch.Outcome;
import org.custodia.core.evidence.EvidenceSearch.Result;
import org.custodia.core.evidence.Findings;
import org.custodia.core.evidence.KnownOpening;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.Pairing;
import org.custodia.core.site.Side;
import org.jooq.Field;
import org.jooq.Record;
import org.jooq.Table;
import org.jooq.exception.DataAccessException;
import org.jooq.impl.DSL;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * What was found of which camera shows which door, beside the log. What another version has written and this one cannot read
 * is passed over: it can be found again. Safe for use by several threads.
 */
public final class SqlFindings implements Findings {
    private static final Logger LOG = LoggerFactory.getLogger(SqlFindings.class);
    private static final Table<Record> FINDING = DSL.table("finding");
    private static final Field<String> DOOR = StoredText.column("door");
    private static final Field<Long> TOLD = DSL.field("told", Long.class);
    private static final Field<String> FOUND = StoredText.column("found");

    private final Database database;

    public SqlFindings(Database database) {
        this.database = database;
    }

    @Override
    public void keep(Map<DoorId, Result> found) {
        database.write(dsl -> found.forEach((door, result) -> dsl.insertInto(FINDING)
                .columns(DOOR, TOLD, FOUND)
                .values(door.value(), EventRows.micros(result.when()), write(result))
                .onConflict(DOOR)
                .doUpdate()
                .set(TOLD, EventRows.micros(result.when()))
                .set(FOUND, write(result))
                .execute()));
    }

    @Override
    public Map<DoorId, Result> all() {
        try {
            Map<DoorId, Result> all = new HashMap<>();
            database.reader().select(DOOR, TOLD, FOUND).from(FINDING).forEach(r -> read(
                            r.value3(), EventRows.instant(r.value2()))
                    .ifPresentOrElse(
                            result -> all.put(new DoorId(r.value1()), result),
                            () -> LOG.warn("What was found for the door {} cannot be read.", r.value1())));
            return all;
        } catch (DataAccessException e) {
            throw new EventLogException(database.words().notRead(e), e);
        }
    }

    private static String write(Result result) {
        ObjectNode o = PayloadText.JSON.createObjectNode();
        o.put("outcome", result.outcome().name())
                .put("asked", result.asked())
                .put("of", result.of())
                .put("openings", result.openings());
        ArrayNode cameras = o.putArray("cameras");
        result.cameras().forEach(c -> write(c, cameras.addObject()));
        return o.toString();
    }

    private static void write(Candidate c, ObjectNode o) {
        o.put("camera", c.camera().value())
                .put("confidence", c.confidence().name())
                .put("weight", c.weight())
                .put("moved", c.moved())
                .put("looked", c.looked())
                .put("elsewhereMoved", c.elsewhereMoved())
                .put("elsewhere", c.elsewhere());
        c.view().ifPresent(v -> o.put("view", v.name()));
        doors(c.together(), o.putArray("together"));
        ArrayNode openings = o.putArray("openings");
        for (KnownOpening opening : c.openings()) {
            ObjectNode one = openings.addObject()
                    .put("door", opening.door().value())
                    .put("at", opening.at().toString());
            opening.from().ifPresent(s -> one.put("from", s.name()));
            doors(opening.alongside(), one.putArray("alongside"));
        }
    }

    private static void doors(Set<DoorId> doors, ArrayNode to) {
        doors.stream().map(DoorId::value).sorted().forEach(to::add);
    }

    private static Optional<Result> read(String text, Instant when) {
        try {
            JsonNode o = PayloadText.JSON.readTree(text);
            List<Candidate> cameras = new ArrayList<>();
            for (JsonNode c : o.path("cameras")) {
                cameras.add(candidate(c));
            }
            return Optional.of(new Result(
                    Outcome.valueOf(o.path("outcome").asText()),
                    cameras,
                    o.path("asked").asInt(),
                    o.path("of").asInt(),
                    o.path("openings").asInt(),
                    List.of(),
                    when));
        } catch (JsonProcessingException | RuntimeException e) {
            return Optional.empty();
        }
    }

    private static Candidate candidate(JsonNode o) {
        List<KnownOpening> openings = new ArrayList<>();
        for (JsonNode one : o.path("openings")) {
            openings.add(new KnownOpening(
                    new DoorId(one.path("door").asText()),
                    Instant.parse(one.path("at").asText()),
                    Optional.ofNullable(one.path("from").textValue()).map(Side::valueOf),
                    doors(one.path("alongside"))));
        }
        return new Candidate(
                new CameraId(o.path("camera").asText()),
                Candidate.Confidence.valueOf(o.path("confidence").asText()),
                o.path("weight").asDouble(),
                o.path("moved").asInt(),
                o.path("looked").asInt(),
                o.path("elsewhereMoved").asInt(),
                o.path("elsewhere").asInt(),
                Optional.ofNullable(o.path("view").textValue()).map(Pairing.View::valueOf),
                doors(o.path("together")),
                openings);
    }

    private static Set<DoorId> doors(JsonNode ids) {
        Set<DoorId> doors = new LinkedHashSet<>();
        ids.forEach(id -> doors.add(new DoorId(id.asText())));
        return doors;
    }
}
