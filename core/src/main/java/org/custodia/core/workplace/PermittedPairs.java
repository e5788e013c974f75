package org.custodia.core.workplace;

import java.util.Collection;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import org.custodia.core.event.Event;
import org.custodia.core.evidence.EvidenceSearch;
import org.custodia.core.operator.Permission;
import org.custodia.core.setup.PairBook;
import org.custodia.core.setup.PairDesk;
import org.custodia.core.setup.PairPlan;
import org.custodia.core.setup.PairSheets;
import org.custodia.core.setup.Trial;
import org.custodia.core.site.CameraId;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.PairId;
import org.custodia.core.site.Pairing;
import org.custodia.core.site.SiteId;

/** Pairing doors with cameras, as far as an operator may. What is thrown is as {@link PairDesk} says. */
public final class PermittedPairs {
    private final Permit permit;
    private final PairDesk desk;

    PermittedPairs(Permit permit, PairDesk desk) {
        this.permit = permit;
        this.desk = desk;
    }

    /** Whether the operator may pair doors of a site. */
    public boolean may(SiteId site) {
        return permit.actor().may(Permission.SET_UP, site);
    }

    public List<PairBook.Kept> of(DoorId door) {
        return desk.pairs(door, permit.actor());
    }

    public long pair(Pairing pairing) {
        return desk.pair(pairing, permit.actor());
    }

    public long change(Pairing pairing, long basedOn) {
        return desk.change(pairing, basedOn, permit.actor());
    }

    public void unpair(Pairing pairing, long basedOn) {
        desk.unpair(pairing, basedOn, permit.actor());
    }

    public void first(Pairing pairing) {
        desk.first(pairing, permit.actor());
    }

    /** Looks for the cameras of doors by evidence, in the background. */
    public void look(Collection<DoorId> doors) {
        desk.look(doors, permit.actor());
    }

    public void pauseLooking(boolean paused) {
        desk.pauseLooking(paused, permit.actor());
    }

    public void stopLooking() {
        desk.stopLooking(permit.actor());
    }

    /** How far looking has come. */
    public EvidenceSearch.Progress looking() {
        return desk.looking(permit.actor());
    }

    public Optional<EvidenceSearch.Result> found(DoorId door) {
        return desk.found(door, permit.actor());
    }

    /** Undecided proposals. */
    public List<PairDesk.Proposal> proposed() {
        return desk.proposed(permit.actor());
    }

    /** Pairs all of it that is sure; how many that were. */
    public int takeSure() {
        return desk.takeSure(permit.actor());
    }

    public CompletableFuture<Event> refuse(DoorId door, CameraId camera) {
        return desk.refuse(door, camera, permit.actor());
    }

    public CompletableFuture<Event> tried(DoorId door, Trial trial) {
        return desk.tried(door, trial, permit.actor());
    }

    /** What came of the latest trial of a door's pair, if it was ever tried. */
    public Optional<Trial> trial(DoorId door, PairId pair) {
        return desk.trial(door, pair, permit.actor());
    }

    public void check() {
        desk.check(permit.actor());
    }

    public boolean doubted(DoorId door, CameraId camera) {
        return desk.doubted(door, camera, permit.actor());
    }

    /** Whether a camera that should show a door does not seem to any more; false where its door cannot be seen. */
    public boolean inDoubt(DoorId door, CameraId camera) {
        return permit.sees(Sight.PLACES, door) && desk.doubted(door, camera);
    }

    public Optional<EvidenceSearch.Check> checked(DoorId door, CameraId camera) {
        return desk.checked(door, camera, permit.actor());
    }

    public void measureClocks() {
        desk.measureClocks(permit.actor());
    }

    public List<PairDesk.ClockLag> clockLags() {
        return desk.clockLags(permit.actor());
    }

    /** All pairs that the operator may see, as a sheet. */
    public byte[] sheet(PairSheets.Form form) {
        return desk.sheet(form, permit.actor());
    }

    public PairPlan plan(byte[] sheet) {
        return desk.plan(sheet, permit.actor());
    }

    public int carryOut(PairPlan plan, boolean alsoAbsent) {
        return desk.carryOut(plan, alsoAbsent, permit.actor());
    }
}
