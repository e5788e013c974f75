-- Events as narrow rows. What repeats is named by number; times are microseconds since 1970-01-01T00:00:00Z.
-- A log with events in the wide rows of before is converted into a new file, never here.
DROP TABLE event;

-- A system in one of its epochs.
CREATE TABLE origin (
    id      INTEGER PRIMARY KEY,
    content TEXT    NOT NULL UNIQUE,
    system  TEXT    NOT NULL,
    epoch   INTEGER NOT NULL,
    newest  INTEGER
);

-- What sort of thing happened and where: all that is said of many events alike. What was sent is kept as it was sent;
-- kind and reason are ours, by the translation that holds.
CREATE TABLE occasion (
    id          INTEGER PRIMARY KEY,
    content     TEXT    NOT NULL UNIQUE,
    system      TEXT    NOT NULL,
    sent_kind   TEXT    NOT NULL,
    sent_reason TEXT,
    code        TEXT,
    kind        TEXT    NOT NULL,
    reason      TEXT,
    door        TEXT,
    controller  TEXT,
    reader      TEXT,
    side        TEXT,
    events      INTEGER NOT NULL DEFAULT 0
);
CREATE INDEX occasion_kind ON occasion (kind);
CREATE INDEX occasion_door ON occasion (door) WHERE door IS NOT NULL;

-- Who, with what was read.
CREATE TABLE bearer (
    id         INTEGER PRIMARY KEY,
    content    TEXT NOT NULL UNIQUE,
    person     TEXT,
    credential TEXT
);
CREATE INDEX bearer_person ON bearer (person) WHERE person IS NOT NULL;
CREATE INDEX bearer_credential ON bearer (credential) WHERE credential IS NOT NULL;

-- Operators and causes.
CREATE TABLE word (
    id   INTEGER PRIMARY KEY,
    text TEXT NOT NULL UNIQUE
);

-- Message and details, without what stands in the event's row already; shared by all events that agree in the rest.
-- Erased where the content is absent: the hash remains.
CREATE TABLE payload (
    id         INTEGER PRIMARY KEY,
    hash       BLOB    NOT NULL,
    dictionary INTEGER NOT NULL,
    content    BLOB
);
CREATE TABLE payload_dictionary (
    id      INTEGER PRIMARY KEY,
    content BLOB NOT NULL
);

CREATE TABLE event (
    position INTEGER PRIMARY KEY,
    origin   INTEGER NOT NULL,
    sequence INTEGER NOT NULL,
    time     INTEGER NOT NULL,
    received INTEGER NOT NULL, -- after the time
    ahead    INTEGER NOT NULL, -- of the system's clock
    device   INTEGER NOT NULL, -- what the device's time is after the time and the clock's offset
    late     INTEGER NOT NULL,
    occasion INTEGER NOT NULL,
    bearer   INTEGER,
    operator INTEGER,
    cause    INTEGER,
    payload  INTEGER,
    proof    BLOB              -- for a chain over the log
);
CREATE UNIQUE INDEX event_key ON event (origin, sequence);
-- What sort of thing it was is there to be asked for without going to the row.
CREATE INDEX event_time ON event (time, occasion);
CREATE INDEX event_occasion ON event (occasion, time);
CREATE INDEX event_bearer ON event (bearer, time, occasion) WHERE bearer IS NOT NULL;
CREATE INDEX event_operator ON event (operator, time) WHERE operator IS NOT NULL;
CREATE INDEX event_cause ON event (cause, time) WHERE cause IS NOT NULL;
CREATE INDEX event_late ON event (time) WHERE late = 1;

-- How many events of each sort fell into each hour and each day since 1970-01-01T00:00Z.
CREATE TABLE hour_count (
    hour     INTEGER NOT NULL,
    occasion INTEGER NOT NULL,
    events   INTEGER NOT NULL,
    PRIMARY KEY (hour, occasion)
) WITHOUT ROWID;
CREATE TABLE hour_total (
    hour   INTEGER PRIMARY KEY,
    events INTEGER NOT NULL
);
CREATE TABLE day_count (
    occasion INTEGER NOT NULL,
    day      INTEGER NOT NULL,
    events   INTEGER NOT NULL,
    PRIMARY KEY (occasion, day)
) WITHOUT ROWID;

-- All that is known of a door after some event, so that nothing before it need be read; thrown away by whatever is stored
-- later and happened before it.
CREATE TABLE door_checkpoint (
    door   TEXT    NOT NULL,
    time   INTEGER NOT NULL,
    last   TEXT    NOT NULL,
    shape  TEXT    NOT NULL,
    course TEXT    NOT NULL,
    PRIMARY KEY (door, time)
) WITHOUT ROWID;
-- The doors that have any, and what else concerns them.
CREATE TABLE door_scope (
    door       TEXT NOT NULL PRIMARY KEY,
    system     TEXT NOT NULL,
    controller TEXT NOT NULL
) WITHOUT ROWID;

-- What is meant by what a system sends: each version, and who made it.
CREATE TABLE translation (
    system   TEXT    NOT NULL,
    version  INTEGER NOT NULL,
    rules    TEXT    NOT NULL,
    made     INTEGER NOT NULL,
    operator TEXT    NOT NULL,
    PRIMARY KEY (system, version)
) WITHOUT ROWID;
CREATE INDEX occasion_system ON occasion (system);
