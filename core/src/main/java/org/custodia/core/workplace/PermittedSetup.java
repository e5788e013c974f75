package org.custodia.core.workplace;

import java.util.List;
import java.util.Optional;
import java.util.function.Consumer;
import org.custodia.core.link.ClockSource;
import org.custodia.core.link.Finding;
import org.custodia.core.operator.Permission;
import org.custodia.core.setup.Connections;
import org.custodia.core.setup.LinkBook;
import org.custodia.core.setup.LinkSetup;
import org.custodia.core.setup.SetupDesk;
import org.custodia.core.setup.SetupPlan;
import org.custodia.core.setup.TransferDesk;
import org.custodia.core.site.DoorId;
import org.custodia.core.site.SystemId;

/** Setting up, as far as an operator may. What is thrown is as {@link SetupDesk} and {@link TransferDesk} say; none of it is quick. */
public final class PermittedSetup {
    private final Permit permit;
    private final SetupDesk desk;
    private final TransferDesk transfer;

    PermittedSetup(Permit permit, SetupDesk desk, TransferDesk transfer) {
        this.permit = permit;
        this.desk = desk;
        this.transfer = transfer;
    }

    /** Whether the operator may see what is set up. */
    public boolean mayLook() {
        return permit.actor().mayLookEverywhere(Permission.SET_UP);
    }

    /** Whether the operator may change it. */
    public boolean may() {
        return permit.actor().mayEverywhere(Permission.SET_UP);
    }

    /** What can be connected to. */
    public List<Connections.Make> makes() {
        return desk.makes();
    }

    public List<LinkBook.Kept> links() {
        return desk.links(permit.actor());
    }

    public long add(LinkSetup link, String token) {
        return desk.add(link, token, permit.actor());
    }

    public long change(LinkSetup link, Optional<String> token, long basedOn) {
        return desk.change(link, token, basedOn, permit.actor());
    }

    public void remove(SystemId system, long basedOn) {
        desk.remove(system, basedOn, permit.actor());
    }

    public Connections.Answer whoAnswers(LinkSetup link, String token) throws InterruptedException {
        return desk.whoAnswers(link, token, permit.actor());
    }

    public Connections.Shown certificate(LinkSetup link) {
        return desk.certificate(link, permit.actor());
    }

    public Optional<ClockSource> clockSource(SystemId system) {
        return desk.clockSource(system, permit.actor());
    }

    public void syncClock(SystemId system) {
        desk.syncClock(system, permit.actor());
    }

    /** All that is set up as a file. */
    public byte[] write(String name, List<DoorId> watch) {
        return transfer.write(name, watch, permit.actor());
    }

    /** What a file would change. */
    public SetupPlan plan(byte[] file) {
        return transfer.plan(file, permit.actor());
    }

    /** Does what a plan says. */
    public void carryOut(SetupPlan plan) {
        transfer.carryOut(plan, permit.actor());
    }

    public void walk(LinkSetup link, Optional<String> token, Consumer<Finding> told) throws InterruptedException {
        desk.walk(link, token, permit.actor(), told);
    }
}
