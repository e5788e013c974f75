package org.custodia.app;

import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.function.Function;
import org.custodia.core.alarm.Escalation;
import org.custodia.core.alarm.Procedure;
import org.custodia.core.alarm.ProcedureDesk;
import org.custodia.core.alarm.Rule;
import org.custodia.core.alarm.RuleDesk;
import org.custodia.core.alarm.Versions;
import org.custodia.core.message.MailServer;
import org.custodia.core.message.MessageDesk;
import org.custodia.core.message.Receiver;
import org.custodia.core.operator.Actor;
import org.custodia.core.setup.ChangeBook;
import org.custodia.core.setup.ChangeBook.About;
import org.custodia.core.setup.ChangeBook.Change;
import org.custodia.core.setup.ChangeBook.Part;
import org.custodia.core.setup.ChangeDesk;
import org.custodia.store.Registers;
import org.custodia.store.VersionedRegister;

/** Changes of rules, procedures, receivers, the mail server and the times of calling, each taken back by its own desk. */
final class OtherChanges implements ChangeDesk.Others {
    private final List<Kept> all;

    /** One register, and what puts its records back. */
    private record Kept(About about, ChangeBook changes, Back back) {}

    private interface Back {
        void put(List<Part> parts, Actor actor);
    }

    OtherChanges(
            Registers registers,
            java.time.Clock clock,
            RuleDesk rules,
            ProcedureDesk procedures,
            MessageDesk messages) {
        this.all = List.of(
                new Kept(
                        About.RULE,
                        VersionedRegister.ofRules(registers, clock)
                                .changes(About.RULE, id -> of(id, Rule.shipped(), Rule::id)),
                        (parts, actor) -> rules.putBack(edits(parts, Rule.class), actor)),
                new Kept(
                        About.PROCEDURE,
                        VersionedRegister.ofProcedures(registers, clock)
                                .changes(About.PROCEDURE, id -> of(id, Procedure.shipped(), Procedure::id)),
                        (parts, actor) -> procedures.putBack(edits(parts, Procedure.class), actor)),
                new Kept(
                        About.RECIPIENT,
                        VersionedRegister.ofReceivers(registers, clock).changes(About.RECIPIENT),
                        (parts, actor) -> parts.forEach(p -> p.before()
                                .map(Receiver.class::cast)
                                .ifPresentOrElse(
                                        r -> messages.keep(r, p.version(), Optional.empty(), actor),
                                        () -> messages.takeOff(p.id(), p.version(), actor)))),
                new Kept(
                        About.MAIL_SERVER,
                        VersionedRegister.ofMailServers(registers, clock).changes(About.MAIL_SERVER),
                        (parts, actor) -> parts.forEach(p -> messages.keep(
                                (MailServer) p.before().orElseThrow(), p.version(), Optional.empty(), actor))),
                new Kept(
                        About.ESCALATION,
                        VersionedRegister.ofEscalations(registers, clock).changes(About.ESCALATION),
                        (parts, actor) -> parts.forEach(p -> messages.keep(
                                p.before().map(Escalation.class::cast).orElse(Escalation.USUAL), p.version(), actor))));
    }

    private static <T> Optional<T> of(String id, List<T> shipped, Function<T, String> idOf) {
        return shipped.stream().filter(s -> idOf.apply(s).equals(id)).findFirst();
    }

    private static <T> List<Versions.Edit<T>> edits(List<Part> parts, Class<T> kind) {
        return parts.stream()
                .map(p -> new Versions.Edit<>(p.id(), p.before().map(kind::cast), p.version()))
                .toList();
    }

    @Override
    public List<Change> changes(int most) {
        List<Change> found = new ArrayList<>();
        for (Kept kept : all) {
            for (Change change : kept.changes().changes(most)) {
                found.add(kept.about() == About.MAIL_SERVER ? withServer(change) : change);
            }
        }
        return found;
    }

    /** Mail needs some server, so that the first one cannot be taken back. */
    private static Change withServer(Change change) {
        return new Change(
                change.about(),
                change.when(),
                change.by(),
                change.parts().stream()
                        .map(p -> new Part(
                                p.id(), p.version(), p.newest() && p.before().isPresent(), p.before(), p.after()))
                        .toList());
    }

    @Override
    public boolean takesBack(Change change, Actor actor) {
        Optional<Kept> its =
                all.stream().filter(k -> k.about() == change.about()).findFirst();
        its.ifPresent(k -> k.back().put(change.parts(), actor));
        return its.isPresent();
    }
}
