-- States folded from the log, as of a position of it.
CREATE TABLE snapshot (
    name     TEXT    COLLATE "C" NOT NULL PRIMARY KEY,
    version  INTEGER NOT NULL,
    position BIGINT  NOT NULL,
    state    BYTEA   NOT NULL
);

-- Mail that some addresses took and others did not goes to those again.
ALTER TABLE outbox ADD COLUMN remaining TEXT;
