package org.custodia.core.workplace;

import java.util.List;
import org.custodia.core.alarm.Procedure;
import org.custodia.core.alarm.ProcedureDesk;
import org.custodia.core.operator.Permission;

/** What is to be done about alarms, as far as an operator may see and change it. What is thrown is as {@link ProcedureDesk} says. */
public final class PermittedProcedures {
    private final Permit permit;
    private final ProcedureDesk desk;

    PermittedProcedures(Permit permit, ProcedureDesk desk) {
        this.permit = permit;
        this.desk = desk;
    }

    /** Whether the operator may see procedures. */
    public boolean mayLook() {
        return permit.actor().mayLookSomewhere(Permission.HANDLE_ALARMS)
                || permit.actor().mayLookEverywhere(Permission.EDIT_RULES);
    }

    /** Whether the operator may change them. */
    public boolean mayChange() {
        return permit.actor().mayEverywhere(Permission.EDIT_RULES);
    }

    public List<ProcedureDesk.Standing> procedures() {
        return desk.procedures(permit.actor());
    }

    public void keep(Procedure procedure, long basedOn) {
        desk.keep(procedure, basedOn, permit.actor());
    }

    public void takeOff(String id, long basedOn) {
        desk.takeOff(id, basedOn, permit.actor());
    }

    public byte[] write() {
        return desk.write(permit.actor());
    }

    public int take(byte[] file) {
        return desk.take(file, permit.actor());
    }
}
