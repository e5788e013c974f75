package org.custodia.core.access;

import java.time.Instant;
import java.time.ZonedDateTime;
import java.util.ArrayList;
import java.util.EnumSet;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.custodia.core.access.AccessRules.DoorRules;
import org.custodia.core.access.AccessRules.Request;
import org.custodia.core.access.Explanation.Lack;
import org.custodia.core.access.Explanation.Outcome;
import org.custodia.core.door.DoorState;
import org.custodia.core.door.LockMode;
import org.custodia.core.event.Event;
import org.custodia.core.event.Kinds;
import org.custodia.core.event.Reasons;
import org.custodia.core.site.Door;
import org.custodia.core.site.DoorAsk;
import org.custodia.core.site.Side;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.Sites;

/**
 * Explains past decisions by what was on file then. What is not known is not guessed: all that may follow is said, and what
 * would have to be known to tell which.
 */
public final class DecisionExplainer {
    private final RulesAsOf rules;
    private final Sites sites;

    public DecisionExplainer(RulesAsOf rules, Sites sites) {
        this.rules = rules;
        this.sites = sites;
    }

    /**
     * Explains a badge that was granted or refused.
     *
     * @param state of its door just before
     * @throws IllegalArgumentException if it is an event of another kind
     */
    public Explanation explain(Event event, DoorState state) {
        return explain(event, state, Instant.MAX);
    }

    /**
     * The same, by what was known at an instant: what was recorded later is left out.
     *
     * @throws IllegalArgumentException if it is an event of another kind
     */
    public Explanation explain(Event event, DoorState state, Instant knownAt) {
        boolean granted = event.kind().equals(Kinds.GRANTED);
        if (!granted && !event.kind().equals(Kinds.REFUSED)) {
            throw new IllegalArgumentException("no decision is made in an event of the kind " + event.kind());
        }
        Outcome theirs = granted ? Outcome.GRANTED : new Outcome(false, event.reason());
        SiteModel places = sites.at(event.time());
        Optional<Door> door = event.door().flatMap(places::door);
        OnFile<AccessRules> known = rules.at(event.key().system(), event.time(), knownAt);
        Set<Lack> lacks = EnumSet.noneOf(Lack.class);
        add(lacks, Lack.DOOR, door.isEmpty());
        add(lacks, Lack.NUMBER, event.credential().isEmpty());
        add(lacks, Lack.RULES, known.value().isEmpty());
        if (!lacks.isEmpty()) {
            return new Explanation(theirs, Optional.empty(), List.of(), lacks, Optional.empty());
        }
        add(lacks, Lack.RULES_OF_THEN, known.standing() == OnFile.Standing.AS_READ_LATER);
        AccessRules book = known.value().get();
        // A controller decides by its own clock, right or wrong.
        ZonedDateTime time = event.deviceTime().atZone(places.zoneOf(door.get().id()));
        Set<Outcome> possible = new LinkedHashSet<>();
        Optional<Decision> decision = Optional.empty();
        Optional<Request> asked = Optional.empty();
        List<Side> sides = event.side().map(List::of).orElse(List.of(Side.ENTRY, Side.EXIT));
        for (Side side : sides) {
            Request request = new Request(
                    door.get().id(),
                    side,
                    event.credential().get(),
                    event.detail("credential-kind").map(Credential.Kind::of),
                    Optional.empty(),
                    time,
                    standing(state));
            Decision base = book.decide(request);
            possible.addAll(follows(base, side, door.get(), state, book, lacks));
            if (base.result() == Decision.Result.NOT_CLEAR_WHOSE) {
                lacks.add(Lack.KIND);
                for (Decision one : book.each(request)) {
                    possible.addAll(follows(one, side, door.get(), state, book, lacks));
                }
            }
            decision = decision.or(() -> Optional.of(base));
            asked = asked.or(() -> Optional.of(request));
        }
        add(lacks, Lack.SIDE, sides.size() > 1 && possible.size() > 1);
        return new Explanation(
                theirs,
                decision,
                new ArrayList<>(possible),
                lacks,
                granted ? Optional.empty() : asked.flatMap(book::nearest));
    }

    private static void add(Set<Lack> lacks, Lack lack, boolean lacking) {
        if (lacking) {
            lacks.add(lack);
        }
    }

    private static DoorRules standing(DoorState state) {
        return new DoorRules(
                false, false, Optional.empty(), p -> false, state.lock() == LockMode.BLOCKED, state.readerOff());
    }

    /** All that may follow from a decision that takes in neither what the door asks for nor what is not known of it. */
    private static Set<Outcome> follows(
            Decision base, Side side, Door door, DoorState state, AccessRules book, Set<Lack> lacks) {
        Set<Outcome> all = new LinkedHashSet<>();
        if (state.lock() == LockMode.UNKNOWN) {
            lacks.add(Lack.STATE);
            all.add(Outcome.refused(Reasons.DOOR_BLOCKED));
            all.add(Outcome.refused(Reasons.READER_OFF));
        }
        switch (base.result()) {
            case REFUSED -> {
                String reason = base.reason().orElseThrow();
                all.add(Outcome.refused(reason));
                if (reason.equals(Reasons.UNKNOWN_CREDENTIAL) && !book.formatsAreKnown()) {
                    lacks.add(Lack.FORMATS);
                    all.add(Outcome.refused(Reasons.FORMAT_NOT_SET_UP));
                }
            }
            case NOT_CLEAR_WHOSE -> {
                // What follows is what follows for each of them.
            }
            case GRANTED, SECOND_PERSON_NEEDED -> {
                all.add(Outcome.GRANTED);
                if (side == Side.ENTRY) {
                    all.addAll(asked(door, lacks));
                }
            }
        }
        return all;
    }

    private static Set<Outcome> asked(Door door, Set<Lack> lacks) {
        Set<Outcome> all = new LinkedHashSet<>();
        add(lacks, Lack.ASKS, door.asks().isEmpty());
        Set<DoorAsk> asks = door.asks().orElse(EnumSet.allOf(DoorAsk.class));
        if (asks.contains(DoorAsk.PIN)) {
            lacks.add(Lack.PIN);
            all.add(Outcome.refused(Reasons.PIN_MISSING));
            all.add(Outcome.refused(Reasons.NO_PIN_SET));
            all.add(Outcome.refused(Reasons.WRONG_PIN));
        }
        if (asks.contains(DoorAsk.ONCE_INSIDE)) {
            lacks.add(Lack.INSIDE);
            all.add(Outcome.refused(Reasons.ALREADY_INSIDE));
        }
        if (asks.contains(DoorAsk.TWO_PERSONS)) {
            lacks.add(Lack.SECOND_PERSON);
            all.add(Outcome.refused(Reasons.SECOND_PERSON_MISSING));
        }
        return all;
    }
}
