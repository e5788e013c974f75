package org.custodia.core.workplace;

import java.time.Clock;
import org.custodia.core.access.PersonRegister;
import org.custodia.core.access.Verdicts;
import org.custodia.core.alarm.AlarmDesk;
import org.custodia.core.alarm.ProcedureDesk;
import org.custodia.core.alarm.RuleDesk;
import org.custodia.core.command.DoorDesk;
import org.custodia.core.door.DoorBoard;
import org.custodia.core.event.EventIntake;
import org.custodia.core.event.EventLog;
import org.custodia.core.message.MessageDesk;
import org.custodia.core.operator.Actor;
import org.custodia.core.setup.ChangeDesk;
import org.custodia.core.setup.DeviceDesk;
import org.custodia.core.setup.LookoutDesk;
import org.custodia.core.setup.PairDesk;
import org.custodia.core.setup.SetupDesk;
import org.custodia.core.setup.TransferDesk;
import org.custodia.core.setup.TranslationDesk;
import org.custodia.core.site.Sites;

/** All that one operator works with, each as far as is permitted to them. */
public final class Workplace {
    private final Permit permit;
    private final Sites sites;
    private final PermittedLog log;
    private final PermittedDoors doors;
    private final PersonRegister people;
    private final PermittedVerdicts verdicts;
    private final PermittedSetup setup;
    private final PermittedPairs pairs;
    private final PermittedDevices devices;
    private final PermittedTranslations translations;
    private final PermittedAlarms alarms;
    private final PermittedRules rules;
    private final PermittedProcedures procedures;
    private final PermittedMessages messages;

    /** All that there is, to be seen through somebody's permissions. */
    public record Behind(
            Sites sites,
            EventLog log,
            EventIntake intake,
            DoorBoard board,
            DoorDesk desk,
            PersonRegister people,
            Verdicts verdicts,
            SetupDesk setup,
            PairDesk pairs,
            DeviceDesk devices,
            LookoutDesk lookouts,
            TranslationDesk translations,
            ChangeDesk changes,
            TransferDesk transfer,
            AlarmDesk alarms,
            RuleDesk rules,
            ProcedureDesk procedures,
            MessageDesk messages,
            Clock clock) {}

    public Workplace(Actor actor, Behind behind) {
        this.permit = new Permit(actor, behind.sites(), behind.clock());
        this.sites = new PermittedPlaces(permit, behind.sites());
        this.log = new PermittedLog(permit, behind.log(), behind.intake());
        this.doors = new PermittedDoors(permit, behind.board(), behind.desk(), behind.clock());
        this.people = new PermittedPeople(permit, behind.people());
        this.setup = new PermittedSetup(permit, behind.setup(), behind.transfer());
        this.pairs = new PermittedPairs(permit, behind.pairs());
        this.devices = new PermittedDevices(permit, behind.devices(), behind.lookouts(), behind.changes());
        this.translations = new PermittedTranslations(permit, behind.translations());
        this.alarms = new PermittedAlarms(permit, behind.alarms());
        this.procedures = new PermittedProcedures(permit, behind.procedures());
        this.messages = new PermittedMessages(permit, behind.messages());
        this.rules = new PermittedRules(permit, behind.rules());
        this.verdicts = new PermittedVerdicts(permit, behind.verdicts());
    }

    /** Whose workplace it is. */
    public Actor actor() {
        return permit.actor();
    }

    /** What they may see where. */
    public Permit permit() {
        return permit;
    }

    public Sites sites() {
        return sites;
    }

    public PermittedLog log() {
        return log;
    }

    public PermittedDoors doors() {
        return doors;
    }

    public PersonRegister people() {
        return people;
    }

    public PermittedSetup setup() {
        return setup;
    }

    public PermittedPairs pairs() {
        return pairs;
    }

    public PermittedDevices devices() {
        return devices;
    }

    public PermittedTranslations translations() {
        return translations;
    }

    public PermittedAlarms alarms() {
        return alarms;
    }

    public PermittedProcedures procedures() {
        return procedures;
    }

    public PermittedMessages messages() {
        return messages;
    }

    public PermittedRules rules() {
        return rules;
    }

    public PermittedVerdicts verdicts() {
        return verdicts;
    }
}
