-- Times are microseconds since 1970-01-01T00:00:00Z.
CREATE TABLE event (
    position     INTEGER PRIMARY KEY,
    system       TEXT    NOT NULL,
    epoch        INTEGER NOT NULL,
    sequence     INTEGER NOT NULL,
    device_time  INTEGER NOT NULL,
    received     INTEGER NOT NULL,
    clock_ahead  INTEGER NOT NULL,
    time         INTEGER NOT NULL,
    late         INTEGER NOT NULL,
    kind         TEXT    NOT NULL,
    door         TEXT,
    controller   TEXT,
    reader       TEXT,
    side         TEXT,
    person       TEXT,
    credential   TEXT,
    operator     TEXT,
    reason       TEXT,
    code         TEXT,
    cause        TEXT,
    details      TEXT    NOT NULL,
    raw          TEXT    NOT NULL
);

CREATE UNIQUE INDEX event_key ON event (system, epoch, sequence);
CREATE INDEX event_time ON event (time);
CREATE INDEX event_door ON event (door, time) WHERE door IS NOT NULL;
CREATE INDEX event_person ON event (person, time) WHERE person IS NOT NULL;
-- Kinds that happen all the time are found by door or by time; this index is for asking after the others.
CREATE INDEX event_kind ON event (kind, time)
    WHERE kind NOT IN ('access.granted', 'door.opened', 'door.closed', 'exit.requested');

CREATE TABLE unread (
    id       INTEGER PRIMARY KEY,
    system   TEXT    NOT NULL,
    received INTEGER NOT NULL,
    raw      TEXT    NOT NULL,
    why      TEXT    NOT NULL
);

CREATE TABLE register (
    kind       TEXT    NOT NULL,
    id         TEXT    NOT NULL,
    version    INTEGER NOT NULL,
    valid_from INTEGER NOT NULL,
    valid_to   INTEGER,
    payload    TEXT    NOT NULL,
    PRIMARY KEY (kind, id, version)
);

CREATE INDEX register_current ON register (kind, id) WHERE valid_to IS NULL;

CREATE TABLE photo (
    person  TEXT NOT NULL PRIMARY KEY,
    version TEXT NOT NULL,
    jpeg    BLOB NOT NULL
);

CREATE TABLE clock_reading (
    system     TEXT    NOT NULL,
    at         INTEGER NOT NULL,
    ahead      INTEGER NOT NULL,
    round_trip INTEGER NOT NULL,
    PRIMARY KEY (system, at)
);
