-- Messages about alarms: those that are under way, and those that were.
CREATE TABLE outbox (
    number   INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT,
    id       TEXT    NOT NULL,
    alarm    TEXT    NOT NULL,
    raised   INTEGER NOT NULL,
    receiver TEXT    NOT NULL,
    occasion TEXT    NOT NULL,
    made     INTEGER NOT NULL,
    state    TEXT    NOT NULL,
    attempts INTEGER NOT NULL,
    maybe    INTEGER NOT NULL,
    next     INTEGER NOT NULL,
    said     TEXT,
    changed  INTEGER NOT NULL,
    UNIQUE (alarm, receiver, occasion)
);
CREATE INDEX outbox_state ON outbox (state, receiver, next);
