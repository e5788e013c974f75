package org.custodia.store;

import java.time.Clock;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collections;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Function;
import org.custodia.core.alarm.Escalation;
import org.custodia.core.alarm.Procedure;
import org.custodia.core.alarm.Rule;
import org.custodia.core.alarm.Versions;
import org.custodia.core.event.Event;
import org.custodia.core.message.MailServer;
import org.custodia.core.message.Receiver;
import org.custodia.core.operator.Actor;
import org.custodia.core.setup.ChangeBook;

/**
 * Something that a site has of its own, as a register. Safe for use by several threads.
 *
 * @param <T> a rule, a procedure
 */
public final class VersionedRegister<T> implements Versions<T> {
    private final Registers registers;
    private final Clock clock;
    private final RegisterForm<T> form;
    private final Numbering<T> numbering;

    /** Gives a record the number of its version. */
    private interface Numbering<T> {
        T version(T value, long version);
    }

    private VersionedRegister(Registers registers, Clock clock, RegisterForm<T> form, Numbering<T> numbering) {
        this.registers = registers;
        this.clock = clock;
        this.form = form;
        this.numbering = numbering;
    }

    /** The rules of alarms. */
    public static VersionedRegister<Rule> ofRules(Registers registers, Clock clock) {
        return new VersionedRegister<>(registers, clock, RegisterForm.ALARM_RULE, Rule::version);
    }

    /** What is to be done about alarms. */
    public static VersionedRegister<Procedure> ofProcedures(Registers registers, Clock clock) {
        return new VersionedRegister<>(registers, clock, RegisterForm.PROCEDURE, Procedure::version);
    }

    /** Who is told of alarms. */
    public static VersionedRegister<Receiver> ofReceivers(Registers registers, Clock clock) {
        return new VersionedRegister<>(registers, clock, RegisterForm.RECEIVER, Receiver::version);
    }

    /** The server that takes mail. */
    public static VersionedRegister<MailServer> ofMailServers(Registers registers, Clock clock) {
        return new VersionedRegister<>(registers, clock, RegisterForm.MAIL_SERVER, MailServer::version);
    }

    /** After how long alarms call louder. */
    public static VersionedRegister<Escalation> ofEscalations(Registers registers, Clock clock) {
        return new VersionedRegister<>(registers, clock, RegisterForm.ESCALATION, Escalation::version);
    }

    /** What operators have said in it, change by change. */
    public ChangeBook changes(ChangeBook.About about) {
        return changes(about, id -> Optional.empty());
    }

    /**
     * What operators have said in it, change by change.
     *
     * @param shipped the record that ships under an id, which was there before the first change
     */
    public ChangeBook changes(ChangeBook.About about, Function<String, Optional<T>> shipped) {
        return most -> registers.timeline(form).changes(about, r -> r).stream()
                .map(c -> new ChangeBook.Change(
                        c.about(),
                        c.when(),
                        c.by(),
                        c.parts().stream().map(p -> sinceShipped(p, shipped)).toList()))
                .sorted(Comparator.comparing(ChangeBook.Change::when).reversed())
                .limit(most)
                .toList();
    }

    private ChangeBook.Part sinceShipped(ChangeBook.Part part, Function<String, Optional<T>> shipped) {
        boolean first = registers.timeline(form).versions(part.id()).get(0).version() == part.version();
        return first && part.before().isEmpty()
                ? new ChangeBook.Part(
                        part.id(),
                        part.version(),
                        part.newest(),
                        shipped.apply(part.id()).map(r -> r),
                        part.after())
                : part;
    }

    private Said<T> said(Registers.Version<T> v) {
        return new Said<>(v.value().map(r -> numbering.version(r, v.version())), v.version(), v.recorded(), v.madeBy());
    }

    @Override
    public Map<String, Said<T>> newest() {
        Map<String, Said<T>> all = new LinkedHashMap<>();
        registers.timeline(form).newestVersions().forEach(v -> all.put(v.id(), said(v)));
        return all;
    }

    @Override
    public Map<String, List<Said<T>>> all() {
        Map<String, List<Said<T>>> all = new LinkedHashMap<>();
        Timeline<T> timeline = registers.timeline(form);
        for (String id : timeline.ids()) {
            all.put(id, timeline.versions(id).stream().map(this::said).toList());
        }
        return all;
    }

    @Override
    public List<Said<T>> versions(String id) {
        List<Said<T>> all = new ArrayList<>();
        registers.timeline(form).versions(id).forEach(v -> all.add(said(v)));
        Collections.reverse(all);
        return all;
    }

    @Override
    public void keep(List<Edit<T>> edits, Actor by, List<Event.Builder> facts) {
        Instant now = clock.instant();
        registers.editAll(
                form,
                edits.stream()
                        .map(e -> new Registers.Edit<>(e.id(), e.basedOn(), e.value()))
                        .toList(),
                by,
                now,
                facts);
    }
}
