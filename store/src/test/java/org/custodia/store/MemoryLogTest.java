package org.custodia.store;

import java.util.List;
import org.custodia.core.event.Event;
import org.custodia.core.event.EventLog;
import org.custodia.core.event.MemoryLog;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.TestInstance;

/** The log in memory, on which the tests of other modules stand, answers as the others do. */
@TestInstance(TestInstance.Lifecycle.PER_CLASS)
class MemoryLogTest extends EventLogContract {
    private final MemoryLog log = new MemoryLog();

    @BeforeAll
    void store() {
        log.store(new RandomEvents(30).events(1_500).toArray(Event[]::new));
    }

    @Override
    List<Event> stored() {
        return log.events;
    }

    @Override
    EventLog log() {
        return log;
    }
}
