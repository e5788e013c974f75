package org.custodia.desktop.inventory;

import java.util.List;
import java.util.Optional;
import java.util.function.Consumer;
import org.custodia.core.event.Event;
import org.custodia.core.setup.Trial;
import org.custodia.core.site.Device;
import org.custodia.core.site.DeviceId;
import org.custodia.core.site.Lookout;
import org.custodia.core.site.Pairing;
import org.custodia.desktop.trial.Tried;

/** A device whose cameras are tried: it is tripped, rung or shown a badge. */
record TriedDevice(InventoryModel model, Device device) implements Tried {
    @Override
    public String name() {
        return device.name();
    }

    @Override
    public boolean isDoor() {
        return false;
    }

    private static Optional<String> unit(Event event) {
        return event.detail("unit").map(u -> event.key().system() + "/" + u);
    }

    @Override
    public boolean happened(Event event) {
        return unit(event).filter(device.id().value()::equals).isPresent();
    }

    @Override
    public boolean moved(Event event) {
        return false;
    }

    /** Inputs that are numbered one off are found by what comes from another. */
    @Override
    public boolean elsewhere(Event event) {
        return !happened(event) && unit(event).filter(DeviceId::fits).isPresent();
    }

    @Override
    public List<Pairing> pairs() {
        return model.lookouts(new Lookout.OfDevice(device.id())).stream()
                .map(Lookout::asPair)
                .toList();
    }

    @Override
    public void keep(Pairing pairing, Trial trial, Runnable done, Consumer<String> failed) {
        model.lookouts(new Lookout.OfDevice(device.id())).stream()
                .filter(l -> l.camera().equals(pairing.camera()))
                .findFirst()
                .ifPresent(l -> model.tried(l, trial, done, failed));
    }
}
