package org.custodia.store;

import java.time.Clock;
import java.util.Collection;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.custodia.core.event.Event;
import org.custodia.core.operator.Actor;
import org.custodia.core.setup.ChangeBook;
import org.custodia.core.setup.LinkBook;
import org.custodia.core.setup.LinkSetup;
import org.custodia.core.site.SystemId;

/** Which connections are set up, as a register. Safe for use by several threads. */
public final class LinkRegister implements LinkBook, ChangeBook {
    private final Registers registers;
    private final Clock clock;

    public LinkRegister(Registers registers, Clock clock) {
        this.registers = registers;
        this.clock = clock;
    }

    @Override
    public List<Kept> all() {
        Timeline<LinkSetup> all = registers.timeline(RegisterForm.LINK);
        return all.all(clock.instant()).entrySet().stream()
                .map(e -> new Kept(e.getValue(), all.newest(e.getKey())))
                .sorted(Comparator.comparing((Kept k) -> k.link().kind())
                        .thenComparing(k -> k.link().name())
                        .thenComparing(k -> k.link().id()))
                .toList();
    }

    @Override
    public long version(SystemId system) {
        return registers.timeline(RegisterForm.LINK).newest(system.value());
    }

    @Override
    public long keep(LinkSetup link, long basedOn, Actor by, Event.Builder fact) {
        return edit(link.system(), Optional.of(link), basedOn, by, fact);
    }

    @Override
    public long end(SystemId system, long basedOn, Actor by, Event.Builder fact) {
        return edit(system, Optional.empty(), basedOn, by, fact);
    }

    private long edit(SystemId system, Optional<LinkSetup> link, long basedOn, Actor by, Event.Builder fact) {
        var now = clock.instant();
        return registers.edit(
                RegisterForm.LINK, system.value(), basedOn, link, now, Optional.empty(), by, now, List.of(fact));
    }

    @Override
    public void take(Collection<LinkSetup> ofFile) {
        Map<String, LinkSetup> values = new LinkedHashMap<>();
        ofFile.forEach(l -> values.put(l.id(), l));
        registers.replace(RegisterForm.LINK, Registers.LINKS_FILE, values, true, clock.instant());
    }

    @Override
    public List<Change> changes(int most) {
        return registers.timeline(RegisterForm.LINK).changes(About.LINK, l -> l).stream()
                .sorted(Comparator.comparing(Change::when).reversed())
                .limit(most)
                .toList();
    }
}
