package org.custodia.store;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventLogException;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.Translation;
import org.custodia.core.event.Translation.Meaning;
import org.custodia.core.event.Translation.Rule;
import org.custodia.core.saying.Saying;
import org.custodia.core.site.SystemId;

/**
 * The translations of all systems, with all their versions. Since events are named by number what they are, a new
 * translation is a matter of few rows, however many events there are. Used on the writing connection, in its turn.
 */
final class TranslationRows {
    private static final ObjectMapper JSON = new ObjectMapper();

    private final Connection connection;
    private final Dialect dialect;
    private final Map<SystemId, Translation> known = new HashMap<>();

    TranslationRows(Connection connection, Dialect dialect) {
        this.dialect = dialect;
        this.connection = connection;
    }

    /** The translation that holds for a system other than Custodia itself. */
    Translation of(SystemId system) throws SQLException {
        Translation translation = known.get(system);
        if (translation == null) {
            translation = load(system);
            known.put(system, translation);
        }
        return translation;
    }

    /** An event as it was sent, in our terms. */
    Event translate(Event sent) throws SQLException {
        SystemId system = sent.key().system();
        return system.equals(SystemId.CUSTODIA) ? sent : of(system).translate(sent);
    }

    private Translation load(SystemId system) throws SQLException {
        String sql = "SELECT version, rules FROM translation WHERE system = ? ORDER BY version DESC LIMIT 1";
        try (PreparedStatement select = connection.prepareStatement(sql)) {
            select.setString(1, system.value());
            try (ResultSet row = select.executeQuery()) {
                return row.next()
                        ? new Translation(system, row.getLong(1), read(row.getString(2)))
                        : Translation.none(system);
            }
        }
    }

    Translation change(SystemId system, long basedOn, List<Rule> rules, String operator, Instant at)
            throws SQLException {
        Translation before = of(system);
        if (before.version() != basedOn) {
            throw new EventLogException(
                    Saying.of("store.translation-changed", system.value(), before.version(), basedOn), null);
        }
        Translation translation = new Translation(system, basedOn + 1, rules);
        String sql = "INSERT INTO translation (system, version, rules, made, operator) VALUES (?, ?, ?, ?, ?)";
        try (PreparedStatement insert = connection.prepareStatement(sql)) {
            insert.setString(1, system.value());
            insert.setLong(2, translation.version());
            insert.setString(3, write(rules));
            insert.setLong(4, EventRows.micros(at));
            insert.setString(5, dialect.stored(operator));
            insert.executeUpdate();
        }
        project(translation);
        known.put(system, translation);
        return translation;
    }

    /** Gives everything that was ever sent its new meaning. */
    private void project(Translation translation) throws SQLException {
        String system = translation.system().value();
        try (PreparedStatement select = connection.prepareStatement(
                        "SELECT id, sent_kind, sent_reason, code, kind, reason FROM occasion WHERE system = ?");
                PreparedStatement update =
                        connection.prepareStatement("UPDATE occasion SET kind = ?, reason = ? WHERE id = ?")) {
            select.setString(1, system);
            try (ResultSet row = select.executeQuery()) {
                while (row.next()) {
                    Meaning meaning = translation.of(
                            Kinds.of(dialect.read(row.getString(2))),
                            Optional.ofNullable(dialect.read(row.getString(3))),
                            Optional.ofNullable(dialect.read(row.getString(4))));
                    boolean same = meaning.kind().id().equals(dialect.read(row.getString(5)))
                            && meaning.reason().equals(Optional.ofNullable(dialect.read(row.getString(6))));
                    if (!same) {
                        update.setString(1, dialect.stored(meaning.kind().id()));
                        update.setString(2, dialect.stored(meaning.reason().orElse(null)));
                        update.setLong(3, row.getLong(1));
                        update.addBatch();
                    }
                }
            }
            update.executeBatch();
        }
        // What is known of its doors was made of what things meant before.
        try (PreparedStatement delete = connection.prepareStatement(
                "DELETE FROM door_checkpoint WHERE door IN (SELECT d.door FROM door_scope d WHERE d.system = ?)")) {
            delete.setString(1, system);
            delete.executeUpdate();
        }
    }

    private static String write(List<Rule> rules) {
        ArrayNode all = JSON.createArrayNode();
        for (Rule rule : rules) {
            ObjectNode one = all.addObject();
            rule.sentKind().ifPresent(k -> one.put("sentKind", k));
            rule.code().ifPresent(c -> one.put("code", c));
            one.put("kind", rule.kind().id());
            rule.reason().ifPresent(r -> one.put("reason", r));
        }
        return all.toString();
    }

    static List<Rule> read(String text) {
        try {
            List<Rule> rules = new ArrayList<>();
            for (JsonNode one : JSON.readTree(text)) {
                rules.add(new Rule(
                        Optional.ofNullable(one.path("sentKind").textValue()),
                        Optional.ofNullable(one.path("code").textValue()),
                        Kinds.of(one.path("kind").asText()),
                        Optional.ofNullable(one.path("reason").textValue())));
            }
            return rules;
        } catch (JsonProcessingException e) {
            throw new DataDirectoryException(
                    "A translation in the log's file is damaged. Restore the data directory from a backup.", e);
        }
    }

    /** After a rollback: what is in memory is not what is stored. */
    void forget() {
        known.clear();
    }
}
