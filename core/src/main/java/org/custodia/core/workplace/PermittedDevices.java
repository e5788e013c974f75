package org.custodia.core.workplace;

import java.util.Collection;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import org.custodia.core.event.Cancellation;
import org.custodia.core.event.Event;
import org.custodia.core.operator.Permission;
import org.custodia.core.setup.ChangeBook;
import org.custodia.core.setup.ChangeDesk;
import org.custodia.core.setup.DeviceDesk;
import org.custodia.core.setup.Found;
import org.custodia.core.setup.LookoutDesk;
import org.custodia.core.setup.Neighbours;
import org.custodia.core.setup.Trial;
import org.custodia.core.site.Lookout;
import org.custodia.core.site.Placing;
import org.custodia.core.site.Site;
import org.custodia.core.site.SiteId;
import org.custodia.core.site.Walk;

/**
 * Putting what systems have in its place, and taking back what was set up, as far as an operator may. What is thrown is as
 * {@link DeviceDesk} and {@link ChangeDesk} say.
 */
public final class PermittedDevices {
    private final Permit permit;
    private final DeviceDesk desk;
    private final ChangeDesk changes;
    private final LookoutDesk lookouts;

    PermittedDevices(Permit permit, DeviceDesk desk, LookoutDesk lookouts, ChangeDesk changes) {
        this.lookouts = lookouts;
        this.permit = permit;
        this.desk = desk;
        this.changes = changes;
    }

    /** Whether the operator may set up what is at a site. */
    public boolean may(SiteId site) {
        return permit.actor().may(Permission.SET_UP, site);
    }

    /** Whether the operator may see what is set up at some site. */
    public boolean mayLookSomewhere() {
        return permit.actor().mayLookSomewhere(Permission.SET_UP);
    }

    public List<Found> found() {
        return desk.found(permit.actor());
    }

    public void place(List<Placing> placings, Collection<Found> basedOn) {
        desk.place(placings, basedOn, permit.actor());
    }

    public void seen(Collection<Found> all) {
        desk.seen(all, permit.actor());
    }

    public Site addSite(String name, String timeZone) {
        return desk.addSite(name, timeZone, permit.actor());
    }

    public List<Neighbours.Proposal> proposedNeighbours(DeviceDesk.Told told, Cancellation cancellation) {
        return desk.proposedNeighbours(told, cancellation, permit.actor());
    }

    public void neighbours(Collection<Walk> walks) {
        desk.neighbours(walks, permit.actor());
    }

    public void noNeighbours(Walk walk) {
        desk.noNeighbours(walk, permit.actor());
    }

    public void shows(Lookout lookout) {
        lookouts.shows(lookout, permit.actor());
    }

    public void showsNoMore(Lookout lookout) {
        lookouts.showsNoMore(lookout, permit.actor());
    }

    public CompletableFuture<Event> tried(Lookout lookout, Trial trial) {
        return lookouts.tried(lookout, trial, permit.actor());
    }

    public Optional<Trial> trial(Lookout lookout) {
        return lookouts.trial(lookout, permit.actor());
    }

    /** What was set up lately, the newest first. */
    public List<ChangeBook.Change> changes(int most) {
        return changes.changes(most, permit.actor());
    }

    public void takeBack(ChangeBook.Change change) {
        changes.takeBack(change, permit.actor());
    }
}
