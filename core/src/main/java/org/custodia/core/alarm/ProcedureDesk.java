package org.custodia.core.alarm;

import java.time.Clock;
import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.custodia.core.event.OnRecord;
import org.custodia.core.operator.Actor;
import org.custodia.core.operator.Permission;
import org.custodia.core.saying.Saying;

/** Where it is written down what is to be done about alarms. */
public final class ProcedureDesk {
    /** Procedures that a site can have. */
    public static final int MOST = 500;

    private final Versions<Procedure> versions;
    private final AlarmDesk alarms;
    private final ProcedureSheets sheets;
    private final Clock clock;

    /**
     * @param alarms told of each change
     */
    public ProcedureDesk(Versions<Procedure> versions, AlarmDesk alarms, ProcedureSheets sheets, Clock clock) {
        this.versions = versions;
        this.alarms = alarms;
        this.sheets = sheets;
        this.clock = clock;
        alarms.procedures(all());
    }

    /**
     * A procedure as it stands.
     *
     * @param version by which an edit says what it changes
     * @param since when it was made so; nothing for one that ships
     * @param by who made it so; nothing for one that ships
     */
    public record Standing(Procedure procedure, long version, Optional<Instant> since, Optional<String> by) {}

    private List<Standing> standing() {
        Map<String, Standing> all = new LinkedHashMap<>();
        for (Procedure shipped : Procedure.shipped()) {
            all.put(shipped.id(), new Standing(shipped, 0, Optional.empty(), Optional.empty()));
        }
        versions.newest().forEach((id, said) -> {
            if (said.value().isPresent()) {
                all.put(id, new Standing(said.value().get(), said.version(), Optional.of(said.since()), said.by()));
            } else {
                all.remove(id);
            }
        });
        return List.copyOf(all.values());
    }

    private List<Procedure> all() {
        return standing().stream().map(Standing::procedure).toList();
    }

    private static void maySee(Actor actor) {
        if (!actor.mayLookSomewhere(Permission.HANDLE_ALARMS)) {
            actor.requireToLookEverywhere(Permission.EDIT_RULES);
        }
    }

    /**
     * All procedures.
     *
     * @throws org.custodia.core.operator.NotPermittedException if the operator may neither handle alarms nor see rules
     */
    public List<Standing> procedures(Actor actor) {
        maySee(actor);
        return standing();
    }

    /**
     * Keeps a new version of one, which holds from now on.
     *
     * @param basedOn the version that was looked at
     * @throws AlarmException if there would be too many
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not edit rules everywhere
     * @throws org.custodia.core.event.EventLogException if somebody has changed it meanwhile, or it cannot be written
     */
    public void keep(Procedure procedure, long basedOn, Actor actor) {
        edit(List.of(new Versions.Edit<>(procedure.id(), Optional.of(procedure), basedOn)), "kept", actor);
    }

    /** Takes one off; otherwise as {@link #keep}. */
    public void takeOff(String id, long basedOn, Actor actor) {
        edit(List.of(new Versions.Edit<>(id, Optional.empty(), basedOn)), "taken-off", actor);
    }

    /**
     * Has procedures as they were again, all or none; of one that ships and of which nothing had been said, as it ships. Otherwise
     * as {@link #keep}.
     */
    public void putBack(List<Versions.Edit<Procedure>> edits, Actor actor) {
        edit(
                edits.stream()
                        .map(e -> new Versions.Edit<>(
                                e.id(),
                                e.value().or(() -> Procedure.shipped().stream()
                                        .filter(p -> p.id().equals(e.id()))
                                        .findFirst()),
                                e.basedOn()))
                        .toList(),
                "taken-back",
                actor);
    }

    private void edit(List<Versions.Edit<Procedure>> edits, String change, Actor actor) {
        actor.requireEverywhere(Permission.EDIT_RULES);
        if (standing().size() + edits.size() > MOST) {
            throw new AlarmException(Saying.of("procedure.too-many", MOST));
        }
        Instant now = clock.instant();
        versions.keep(
                edits,
                actor,
                edits.stream()
                        .map(e -> OnRecord.setUp("procedure", change, actor, now)
                                .detail("procedure", e.id())
                                .detail("name", e.value().map(Procedure::name).orElse(e.id())))
                        .toList());
        alarms.procedures(all());
    }

    /**
     * All procedures as a file.
     *
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not see rules everywhere
     */
    public byte[] write(Actor actor) {
        actor.requireToLookEverywhere(Permission.EDIT_RULES);
        return sheets.write(all());
    }

    /**
     * Takes over what of a file is new or different here, all or none.
     *
     * @return how many that were
     * @throws AlarmException if it is no file of procedures
     * @throws org.custodia.core.operator.NotPermittedException if the operator may not edit rules everywhere
     * @throws org.custodia.core.event.EventLogException if somebody changes one meanwhile, or it cannot be written
     */
    public int take(byte[] file, Actor actor) {
        actor.requireEverywhere(Permission.EDIT_RULES);
        Map<String, Versions.Said<Procedure>> said = versions.newest();
        Map<String, Procedure> there = new LinkedHashMap<>();
        all().forEach(p -> there.put(p.id(), p.version(0)));
        List<Versions.Edit<Procedure>> edits = new ArrayList<>();
        for (Procedure procedure : sheets.read(file)) {
            if (!procedure.version(0).equals(there.get(procedure.id()))) {
                long basedOn = Optional.ofNullable(said.get(procedure.id()))
                        .map(Versions.Said::version)
                        .orElse(0L);
                edits.add(new Versions.Edit<>(procedure.id(), Optional.of(procedure), basedOn));
            }
        }
        if (!edits.isEmpty()) {
            edit(edits, "imported", actor);
        }
        return edits.size();
    }
}
