package org.custodia.app;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Path;
import java.util.List;
import org.custodia.core.alarm.Alarm;
import org.custodia.core.alarm.Outcome;
import org.custodia.core.event.EventQuery;
import org.custodia.core.event.Kinds;
import org.custodia.core.workplace.PermittedAlarms;
import org.custodia.wire.WireEvent;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** What is done about an alarm here is known at the access system, and what is done there is known here, through a cut. */
class AlarmsPassBothWaysTest {
    @TempDir
    Path directory;

    private Rig rig;
    private PermittedAlarms alarms;

    @BeforeEach
    void open() throws Exception {
        rig = Rig.prepared(directory).withHub().connected();
        alarms = rig.hub.workplace(Rig.OPERATOR).alarms();
    }

    @AfterEach
    void close() {
        rig.close();
    }

    private List<WireEvent> atTheSystem(String kind) {
        return rig.site.timeline().system("tidewater").orElseThrow().after(0, Integer.MAX_VALUE / 2).stream()
                .filter(e -> e.kind().equals(kind))
                .toList();
    }

    private Alarm open(String rule) {
        return alarms.open().stream()
                .filter(a -> a.origin().rule().equals(rule))
                .findFirst()
                .orElseThrow();
    }

    private boolean isOpen(String rule) {
        return alarms.open().stream().anyMatch(a -> a.origin().rule().equals(rule));
    }

    @Test
    void acknowledged_here_finished_there_and_nothing_twice() {
        rig.happen("{'act':'force','door':'strongroom-corr','seconds':5}");
        Rig.await().until(() -> isOpen("forced"));
        Alarm forced = open("forced");
        alarms.acknowledge(List.of(forced.seen())).join();
        Rig.await().until(() -> !atTheSystem("event.acknowledged").isEmpty());
        WireEvent said = atTheSystem("event.acknowledged").get(0);
        assertThat(said.details())
                .containsEntry("by", Rig.OPERATOR.name())
                .containsEntry("of", "1:" + forced.origin().cause().sequence());
        // Its echo is in the log here.
        Rig.await().until(() -> !rig.hub
                .log()
                .find(EventQuery.all().kinds(Kinds.SEEN_THERE))
                .isEmpty());

        // The last step is possible once the door is closed again.
        Rig.await().until(() -> open("forced").condition() == Alarm.Condition.ENDED);
        // While the link is down it is finished here; the system hears of it once the link is back.
        rig.happen("{'act':'link-drop','target':'tidewater','seconds':3}");
        for (String step : alarms.procedure(forced).orElseThrow().steps().stream()
                .map(s -> s.text())
                .toList()) {
            alarms.tick(forced.id(), step, true).join();
        }
        alarms.finish(forced.seen(), Outcome.HARMLESS, "").join();
        Rig.await().until(() -> atTheSystem("event.finished").size() == 1);

        // At its own desk somebody is done with another.
        rig.happen("{'act':'trip','target':'panic-shop'}");
        Rig.await().until(() -> isOpen("panic"));
        rig.happen("{'act':'acknowledged','target':'tidewater/alarms','who':'Guard at Tidewater'}");
        Rig.await().until(() -> open("panic").acknowledged().isPresent());
        assertThat(open("panic").acknowledged().get().name()).isEqualTo("Guard at Tidewater");
        rig.happen("{'act':'finished','target':'tidewater/alarms','who':'Guard at Tidewater'}");
        // A step is left that has to be done first: only seen there, whatever the system says.
        Rig.await().until(() -> atTheSystem("event.finished").size() == 2);
        assertThat(isOpen("panic")).isTrue();

        // Where none is left it is finished here, too.
        rig.happen("{'act':'controller-lost','target':'c1'}");
        Rig.await().until(() -> isOpen("controller"));
        rig.happen("{'act':'finished','target':'tidewater/alarms','who':'Guard at Tidewater'}");
        Rig.await().until(() -> !isOpen("controller"));
        assertThat(isOpen("panic")).isTrue();

        assertThat(atTheSystem("event.acknowledged")).hasSize(2);
        assertThat(rig.hub.log().find(EventQuery.all().kinds(Kinds.ALARM_ACKNOWLEDGED)))
                .hasSize(2);
    }
}
