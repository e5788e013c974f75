package org.custodia.core.workplace;

import java.util.List;
import java.util.Optional;
import org.custodia.core.event.Event;
import org.custodia.core.event.SentWords;
import org.custodia.core.setup.TranslationDesk;
import org.custodia.core.site.SystemId;

/** Saying what systems mean, as far as an operator may. What is thrown is as {@link TranslationDesk} says. */
public final class PermittedTranslations {
    private final Permit permit;
    private final TranslationDesk desk;

    PermittedTranslations(Permit permit, TranslationDesk desk) {
        this.permit = permit;
        this.desk = desk;
    }

    public TranslationDesk.Table table(SystemId system) {
        return desk.table(system, permit.actor());
    }

    public List<Event> examples(SystemId system, SentWords.Sent sent) {
        return desk.examples(system, sent, permit.actor());
    }

    public long means(
            SentWords.Sent sent, Optional<String> means, Optional<String> reason, TranslationDesk.Table basedOn) {
        return desk.means(sent, means, reason, basedOn, permit.actor());
    }

    public List<SentWords.Made> versions(SystemId system) {
        return desk.versions(system, permit.actor());
    }

    public long putBack(SystemId system, long version, long basedOn) {
        return desk.putBack(system, version, basedOn, permit.actor());
    }

    public SentWords.NotUnderstood notUnderstood(SystemId system, int most) {
        return desk.notUnderstood(system, most, permit.actor());
    }
}
