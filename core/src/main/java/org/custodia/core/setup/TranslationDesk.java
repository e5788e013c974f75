package org.custodia.core.setup;

import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.CompletionException;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventField;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.EventKind;
import org.custodia.core.event.EventLog;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Filter;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.Provenance;
import org.custodia.core.event.SentWords;
import org.custodia.core.event.Translation;
import org.custodia.core.operator.Actor;
import org.custodia.core.operator.Permission;
import org.custodia.core.saying.Saying;
import org.custodia.core.saying.SayingException;
import org.custodia.core.site.SystemId;

/**
 * Where it is said what the kinds and codes of a system mean here. What a system sent stays as it was sent; a change of what
 * it means holds for all that is past as well.
 */
public final class TranslationDesk {
    /** Characters of a reason. */
    public static final int LONGEST_REASON = 100;

    private static final int EXAMPLES = 5;
    private static final int LOOKED_THROUGH = 400;

    private final SentWords words;
    private final EventLog log;
    private final EventIntake intake;

    public TranslationDesk(SentWords words, EventLog log, EventIntake intake) {
        this.words = words;
        this.log = log;
        this.intake = intake;
    }

    /**
     * What a system sent, and by which rules.
     *
     * @param version of the translation, by which a change says what it changes
     */
    public record Table(SystemId system, long version, List<Row> rows) {
        public Table {
            rows = List.copyOf(rows);
        }
    }

    /**
     * What was sent alike.
     *
     * @param rule what was said of just that, if anything was
     */
    public record Row(SentWords.Sent sent, Optional<Translation.Rule> rule) {}

    /**
     * What a system sent: what nobody here knows first, then by how often.
     *
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not see all that is set up
     */
    public Table table(SystemId system, Actor actor) {
        actor.requireToLookEverywhere(Permission.SET_UP);
        Translation translation = intake.translation(system);
        List<Row> rows = words.sent(system).stream()
                .map(s -> new Row(s, rule(translation, s)))
                .sorted(Comparator.comparing((Row r) -> r.sent().known())
                        .thenComparing(r -> r.sent().events(), Comparator.reverseOrder())
                        .thenComparing(r -> r.sent().kind()))
                .toList();
        return new Table(system, translation.version(), rows);
    }

    private static Optional<Translation.Rule> rule(Translation translation, SentWords.Sent sent) {
        return translation.rules().stream().filter(r -> isFor(r, sent)).findFirst();
    }

    private static boolean isFor(Translation.Rule rule, SentWords.Sent sent) {
        return rule.sentKind().equals(Optional.of(sent.kind())) && rule.code().equals(sent.code());
    }

    /** The latest events that were sent so. */
    public List<Event> examples(SystemId system, SentWords.Sent sent, Actor actor) {
        actor.requireToLookEverywhere(Permission.SET_UP);
        EventQuery query = EventQuery.all().system(system).kinds(sent.means()).newest(LOOKED_THROUGH);
        if (sent.code().isPresent()) {
            query = query.where(Filter.is(EventField.CODE, sent.code().get()));
        }
        return log.find(query).stream()
                .filter(e ->
                        Translation.sentKind(e).equals(sent.kind()) && e.code().equals(sent.code()))
                .limit(EXAMPLES)
                .toList();
    }

    /**
     * Says what something means that a system sends, for what is past as well. Waits until that is stored.
     *
     * @param means nothing to take it as it is sent
     * @param reason nothing to keep the one that is sent
     * @param basedOn the table that was looked at
     * @return the translation's new version
     * @throws SetupException if it cannot mean that
     * @throws org.custodia.core.event.EventLogException if somebody has changed the translation meanwhile, or it cannot be
     *     stored
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not set up everywhere
     */
    public long means(
            SentWords.Sent sent, Optional<String> means, Optional<String> reason, Table basedOn, Actor actor) {
        actor.requireEverywhere(Permission.SET_UP);
        List<Translation.Rule> rules =
                new ArrayList<>(intake.translation(basedOn.system()).rules());
        rules.removeIf(r -> isFor(r, sent));
        if (means.isPresent()) {
            Translation.Rule rule =
                    new Translation.Rule(Optional.of(sent.kind()), sent.code(), kind(means.get()), reason(reason));
            if (sent.code().isEmpty()) {
                // It applies to any code of that kind: what has a code and means something now goes on to mean that.
                keepOthers(sent, basedOn, rules);
                rules.add(rule);
            } else {
                rules.add(0, rule);
            }
        }
        if (rules.size() > Translation.MOST_RULES) {
            throw new SetupException(Saying.of("setup.rules-many", Translation.MOST_RULES));
        }
        return change(basedOn.system(), basedOn.version(), rules, actor);
    }

    private static void keepOthers(SentWords.Sent sent, Table table, List<Translation.Rule> rules) {
        for (Row row : table.rows()) {
            SentWords.Sent other = row.sent();
            if (other.kind().equals(sent.kind())
                    && other.code().isPresent()
                    && row.rule().isEmpty()
                    && !Provenance.own(other.means())) {
                rules.add(
                        new Translation.Rule(Optional.of(other.kind()), other.code(), other.means(), Optional.empty()));
            }
        }
    }

    private static EventKind kind(String id) {
        EventKind kind;
        try {
            kind = Kinds.of(id.strip());
        } catch (IllegalArgumentException e) {
            throw new SetupException(Saying.of("setup.kind-odd", EventKind.LONGEST));
        }
        if (Provenance.own(kind)) {
            throw new SetupException(Saying.of("setup.kind-own", kind.id()));
        }
        return kind;
    }

    private static Optional<String> reason(Optional<String> words) {
        Optional<String> reason = words.map(String::strip).filter(r -> !r.isEmpty());
        if (reason.filter(r -> r.length() > LONGEST_REASON || r.chars().anyMatch(Character::isISOControl))
                .isPresent()) {
            throw new SetupException(Saying.of("setup.words-odd", LONGEST_REASON));
        }
        return reason;
    }

    private long change(SystemId system, long basedOn, List<Translation.Rule> rules, Actor actor) {
        try {
            return intake.translate(system, basedOn, rules, actor).join().version();
        } catch (CompletionException e) {
            if (e.getCause() instanceof SayingException said) {
                throw said;
            }
            throw e;
        }
    }

    /** All versions of a system's translation, the newest first. */
    public List<SentWords.Made> versions(SystemId system, Actor actor) {
        actor.requireToLookEverywhere(Permission.SET_UP);
        return words.versions(system);
    }

    /**
     * Lets a translation be again what it was in a version; otherwise as {@link #means}.
     *
     * @param version 0 for the one without rules
     */
    public long putBack(SystemId system, long version, long basedOn, Actor actor) {
        actor.requireEverywhere(Permission.SET_UP);
        List<Translation.Rule> rules = version == 0
                ? List.of()
                : words.versions(system).stream()
                        .map(SentWords.Made::translation)
                        .filter(t -> t.version() == version)
                        .findFirst()
                        .orElseThrow(() -> new SetupException(Saying.of("setup.changed-since")))
                        .rules();
        return change(system, basedOn, rules, actor);
    }

    /** What of a system could not be understood at all. */
    public SentWords.NotUnderstood notUnderstood(SystemId system, int most, Actor actor) {
        actor.requireToLookEverywhere(Permission.SET_UP);
        return words.notUnderstood(system, most);
    }
}
