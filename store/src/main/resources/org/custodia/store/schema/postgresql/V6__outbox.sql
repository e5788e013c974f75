-- Messages about alarms: those that are under way, and those that were.
CREATE TABLE outbox (
    number   BIGINT  GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    id       TEXT    COLLATE "C" NOT NULL,
    alarm    TEXT    COLLATE "C" NOT NULL,
    raised   BIGINT  NOT NULL,
    receiver TEXT    COLLATE "C" NOT NULL,
    occasion TEXT    COLLATE "C" NOT NULL,
    made     BIGINT  NOT NULL,
    state    TEXT    COLLATE "C" NOT NULL,
    attempts INTEGER NOT NULL,
    maybe    INTEGER NOT NULL,
    next     BIGINT  NOT NULL,
    said     TEXT,
    changed  BIGINT  NOT NULL,
    UNIQUE (alarm, receiver, occasion)
);
CREATE INDEX outbox_state ON outbox (state, receiver, next);
