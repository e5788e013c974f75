package org.custodia.core.workplace;

import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.custodia.core.alarm.Alarm;
import org.custodia.core.alarm.Escalation;
import org.custodia.core.message.MailServer;
import org.custodia.core.message.MessageDesk;
import org.custodia.core.message.NotSentException;
import org.custodia.core.message.Receiver;
import org.custodia.core.operator.Permission;
import org.custodia.core.saying.Saying;

/** Who is told of alarms, as far as an operator may see and change it. What is thrown is as {@link MessageDesk} says. */
public final class PermittedMessages {
    private final Permit permit;
    private final MessageDesk desk;

    PermittedMessages(Permit permit, MessageDesk desk) {
        this.permit = permit;
        this.desk = desk;
    }

    /** Whether the operator may see who is told, and what was sent. */
    public boolean mayLook() {
        return permit.actor().mayLookSomewhere(Permission.HANDLE_ALARMS)
                || permit.actor().mayLookEverywhere(Permission.EDIT_RULES);
    }

    /** Whether the operator may change who is told, and when. */
    public boolean mayChange() {
        return permit.actor().mayEverywhere(Permission.EDIT_RULES);
    }

    /** Whether the operator may have what waits tried at once. */
    public boolean mayTry() {
        return permit.actor().maySomewhere(Permission.HANDLE_ALARMS) || mayChange();
    }

    /** Whether the operator may set up the server that takes mail. */
    public boolean maySetUp() {
        return permit.actor().mayEverywhere(Permission.SET_UP);
    }

    public List<MessageDesk.Standing> receivers() {
        return desk.receivers(permit.actor());
    }

    public Map<String, String> names() {
        return desk.names(permit.actor());
    }

    public void keep(Receiver receiver, long basedOn, Optional<String> key) {
        desk.keep(receiver, basedOn, key, permit.actor());
    }

    public void takeOff(String id, long basedOn) {
        desk.takeOff(id, basedOn, permit.actor());
    }

    public Optional<Saying> trial(String id) throws NotSentException {
        return desk.trial(id, permit.actor());
    }

    public Optional<MailServer> server() {
        return desk.server(permit.actor());
    }

    public void keep(MailServer server, long basedOn, Optional<String> password) {
        desk.keep(server, basedOn, password, permit.actor());
    }

    public Escalation escalation() {
        return desk.escalation(permit.actor());
    }

    public void keep(Escalation escalation, long basedOn) {
        desk.keep(escalation, basedOn, permit.actor());
    }

    public List<MessageDesk.Sent> messages(int most) {
        return desk.messages(most, permit.actor());
    }

    public List<MessageDesk.Sent> about(Alarm alarm) {
        return desk.about(alarm, permit.actor());
    }

    public void confirm(String receiver, String fingerprint) {
        desk.confirm(receiver, fingerprint, permit.actor());
    }

    public void tryNow() {
        desk.tryNow(permit.actor());
    }

    public void drop(long number) {
        desk.drop(number, permit.actor());
    }
}
