package org.custodia.store;

import java.time.Clock;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.function.Function;
import java.util.function.Supplier;
import org.custodia.core.site.Camera;
import org.custodia.core.site.Door;
import org.custodia.core.site.Pairing;
import org.custodia.core.site.Site;
import org.custodia.core.site.SiteModel;
import org.custodia.core.site.SystemId;

/** Places as they are known now, kept over restarts and brought up to date by the links. Safe for several threads. */
public final class SiteRegister implements Supplier<SiteModel> {
    private final Registers registers;
    private final Clock clock;
    private final List<Runnable> listeners = new CopyOnWriteArrayList<>();
    private volatile SiteModel model;

    public SiteRegister(Registers registers, Clock clock) {
        this.registers = registers;
        this.clock = clock;
        this.model = load();
    }

    @Override
    public SiteModel get() {
        return model;
    }

    /** Told after a change, on the thread that made it. */
    public void listen(Runnable listener) {
        listeners.add(listener);
    }

    /** Takes over what an access system says of its sites and doors. */
    public void places(SystemId system, List<Site> sites, List<Door> doors) {
        // Two systems may serve one site: sites are only added or changed, never ended by one of them.
        Map<String, Site> all = new LinkedHashMap<>();
        model.sites().forEach(s -> all.put(s.id().value(), s));
        sites.forEach(s -> all.put(s.id().value(), s));
        int changes = registers.replace("site", "", all, clock.instant());
        changes += registers.replace("door", system.value() + "/", byId(doors, d -> d.id().value()), clock.instant());
        changed(changes);
    }

    /** Takes over what a recorder says of its cameras. */
    public void cameras(SystemId recorder, List<Camera> cameras) {
        changed(registers.replace(
                "camera", recorder.value() + "/", byId(cameras, c -> c.id().value()), clock.instant()));
    }

    /** Sets all pairings of doors and cameras. */
    public void pairings(List<Pairing> pairings) {
        Map<String, Pairing> numbered = new LinkedHashMap<>();
        for (int i = 0; i < pairings.size(); i++) {
            Pairing p = pairings.get(i);
            numbered.put(String.format("%05d %s %s", i, p.door(), p.camera()), p);
        }
        changed(registers.replace("pairing", "", numbered, clock.instant()));
    }

    private static <T> Map<String, T> byId(List<T> values, Function<T, String> id) {
        Map<String, T> result = new LinkedHashMap<>();
        values.forEach(v -> result.put(id.apply(v), v));
        return result;
    }

    private void changed(int changes) {
        if (changes > 0) {
            model = load();
            new ArrayList<>(listeners).forEach(Runnable::run);
        }
    }

    private SiteModel load() {
        return new SiteModel(
                registers.current("site", Site.class),
                registers.current("door", Door.class),
                registers.current("camera", Camera.class),
                registers.current("pairing", Pairing.class));
    }
}
