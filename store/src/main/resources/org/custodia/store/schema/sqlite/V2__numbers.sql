-- Which numbers of a system are settled: held (stored, or kept unread) or missing (asked for again in vain).
CREATE TABLE number_range (
    system TEXT    NOT NULL,
    epoch  INTEGER NOT NULL,
    state  TEXT    NOT NULL,
    first  INTEGER NOT NULL,
    last   INTEGER NOT NULL,
    PRIMARY KEY (system, epoch, state, first)
) WITHOUT ROWID;

INSERT INTO number_range (system, epoch, state, first, last)
SELECT system, epoch, 'held', MIN(sequence), MAX(sequence)
FROM (SELECT system, epoch, sequence,
             sequence - ROW_NUMBER() OVER (PARTITION BY system, epoch ORDER BY sequence) AS island
      FROM event
      WHERE system <> 'custodia' AND sequence > 0)
GROUP BY system, epoch, island;

-- A system that was restored from a backup counts again within its epoch, from a number on.
CREATE TABLE counts_again (
    system TEXT    NOT NULL,
    epoch  INTEGER NOT NULL,
    times  INTEGER NOT NULL,
    base   INTEGER NOT NULL,
    PRIMARY KEY (system, epoch, times)
) WITHOUT ROWID;

-- What came under a key that was taken, with other content: each is logged once.
CREATE TABLE conflict (
    system   TEXT    NOT NULL,
    epoch    INTEGER NOT NULL,
    sequence INTEGER NOT NULL,
    content  BLOB    NOT NULL,
    PRIMARY KEY (system, epoch, sequence, content)
) WITHOUT ROWID;

-- What could not be understood is kept once, however often it comes.
ALTER TABLE unread RENAME TO unread_before;
CREATE TABLE unread (
    id       INTEGER PRIMARY KEY,
    system   TEXT    NOT NULL,
    epoch    INTEGER,
    sequence INTEGER,
    received INTEGER NOT NULL,
    raw      TEXT    NOT NULL,
    why      TEXT    NOT NULL,
    content  BLOB,
    times    INTEGER NOT NULL DEFAULT 1
);
INSERT INTO unread (system, received, raw, why) SELECT system, received, raw, why FROM unread_before;
DROP TABLE unread_before;
CREATE UNIQUE INDEX unread_content ON unread (system, content);

-- Names this log for good: a data directory remembers which one belongs to it.
CREATE TABLE identity (id TEXT NOT NULL);
INSERT INTO identity VALUES (lower(hex(randomblob(16))));

-- One measurement in ten minutes is enough for what is past.
DELETE FROM clock_reading WHERE rowid NOT IN
    (SELECT MIN(rowid) FROM clock_reading GROUP BY system, at / 600000000);
ALTER TABLE clock_reading ADD COLUMN uncertainty INTEGER NOT NULL DEFAULT 100000;
