-- States folded from the log, as of a position of it.
CREATE TABLE snapshot (
    name     TEXT    NOT NULL PRIMARY KEY,
    version  INTEGER NOT NULL,
    position INTEGER NOT NULL,
    state    BLOB    NOT NULL
);

-- Mail that some addresses took and others did not goes to those again.
ALTER TABLE outbox ADD COLUMN remaining TEXT;
