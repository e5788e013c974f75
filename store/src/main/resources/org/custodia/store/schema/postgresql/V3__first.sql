-- The log and the registers; the same tables as on SQLite, where their forms before the third one are too.
-- Times are microseconds since 1970-01-01T00:00:00Z. Texts are compared byte by byte, whatever the database's own rules are;
-- what may be of any length is found by hash, since other indexes bound it. Only one program writes, and looks before it adds.

-- A system in one of its epochs.
CREATE TABLE origin (
    id      BIGINT PRIMARY KEY,
    content TEXT   COLLATE "C" NOT NULL UNIQUE,
    system  TEXT   COLLATE "C" NOT NULL,
    epoch   BIGINT NOT NULL,
    newest  BIGINT
);

-- What sort of thing happened and where: all that is said of many events alike. What was sent is kept as it was sent;
-- kind and reason are ours, by the translation that holds.
CREATE TABLE occasion (
    id          BIGINT PRIMARY KEY,
    content     TEXT   COLLATE "C" NOT NULL,
    system      TEXT   COLLATE "C" NOT NULL,
    sent_kind   TEXT   COLLATE "C" NOT NULL,
    sent_reason TEXT   COLLATE "C",
    code        TEXT   COLLATE "C",
    kind        TEXT   COLLATE "C" NOT NULL,
    reason      TEXT   COLLATE "C",
    door        TEXT   COLLATE "C",
    controller  TEXT   COLLATE "C",
    reader      TEXT   COLLATE "C",
    side        TEXT   COLLATE "C",
    events      BIGINT NOT NULL DEFAULT 0
) WITH (fillfactor = 60); -- its counts change all the time
CREATE INDEX occasion_content ON occasion USING hash (content);
CREATE INDEX occasion_kind ON occasion USING hash (kind);
CREATE INDEX occasion_door ON occasion USING hash (door);
CREATE INDEX occasion_system ON occasion (system);

-- Who, with what was read.
CREATE TABLE bearer (
    id         BIGINT PRIMARY KEY,
    content    TEXT COLLATE "C" NOT NULL,
    person     TEXT COLLATE "C",
    credential TEXT COLLATE "C"
);
CREATE INDEX bearer_content ON bearer USING hash (content);
CREATE INDEX bearer_person ON bearer USING hash (person);
CREATE INDEX bearer_credential ON bearer USING hash (credential);

-- Operators and causes.
CREATE TABLE word (
    id   BIGINT PRIMARY KEY,
    text TEXT   COLLATE "C" NOT NULL
);
CREATE INDEX word_text ON word USING hash (text);

-- Message and details, without what stands in the event's row already; shared by all events that agree in the rest.
-- Erased where the content is absent: the hash remains.
CREATE TABLE payload (
    id         BIGINT PRIMARY KEY,
    hash       BYTEA  NOT NULL,
    dictionary BIGINT NOT NULL,
    content    BYTEA
);
-- It is compressed already.
ALTER TABLE payload ALTER COLUMN content SET STORAGE EXTERNAL;
CREATE TABLE payload_dictionary (
    id      BIGINT PRIMARY KEY,
    content BYTEA  NOT NULL
);

CREATE TABLE event (
    position BIGINT   PRIMARY KEY,
    origin   BIGINT   NOT NULL,
    sequence BIGINT   NOT NULL,
    time     BIGINT   NOT NULL,
    received BIGINT   NOT NULL, -- after the time
    ahead    BIGINT   NOT NULL, -- of the system's clock
    device   BIGINT   NOT NULL, -- what the device's time is after the time and the clock's offset
    occasion BIGINT   NOT NULL,
    bearer   BIGINT,
    operator BIGINT,
    cause    BIGINT,
    payload  BIGINT,
    late     SMALLINT NOT NULL,
    proof    BYTEA              -- for a chain over the log
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
    hour     BIGINT NOT NULL,
    occasion BIGINT NOT NULL,
    events   BIGINT NOT NULL,
    PRIMARY KEY (hour, occasion)
);
CREATE TABLE hour_total (
    hour   BIGINT PRIMARY KEY,
    events BIGINT NOT NULL
);
CREATE TABLE day_count (
    occasion BIGINT NOT NULL,
    day      BIGINT NOT NULL,
    events   BIGINT NOT NULL,
    PRIMARY KEY (occasion, day)
);

-- All that is known of a door after some event, so that nothing before it need be read; thrown away by whatever is stored
-- later and happened before it.
CREATE TABLE door_checkpoint (
    door   TEXT   COLLATE "C" NOT NULL,
    time   BIGINT NOT NULL,
    last   TEXT   COLLATE "C" NOT NULL,
    shape  TEXT   NOT NULL,
    course TEXT   NOT NULL,
    PRIMARY KEY (door, time)
);
-- The doors that have any, and what else concerns them.
CREATE TABLE door_scope (
    door       TEXT COLLATE "C" NOT NULL PRIMARY KEY,
    system     TEXT COLLATE "C" NOT NULL,
    controller TEXT COLLATE "C" NOT NULL
);

-- What is meant by what a system sends: each version, and who made it.
CREATE TABLE translation (
    system   TEXT   COLLATE "C" NOT NULL,
    version  BIGINT NOT NULL,
    rules    TEXT   NOT NULL,
    made     BIGINT NOT NULL,
    operator TEXT   NOT NULL,
    PRIMARY KEY (system, version)
);

-- Which numbers of a system are settled: held (stored, or kept unread) or missing (asked for again in vain).
CREATE TABLE number_range (
    system TEXT   COLLATE "C" NOT NULL,
    epoch  BIGINT NOT NULL,
    state  TEXT   COLLATE "C" NOT NULL,
    first  BIGINT NOT NULL,
    last   BIGINT NOT NULL,
    PRIMARY KEY (system, epoch, state, first)
);

-- A system that was restored from a backup counts again within its epoch, from a number on.
CREATE TABLE counts_again (
    system TEXT   COLLATE "C" NOT NULL,
    epoch  BIGINT NOT NULL,
    times  BIGINT NOT NULL,
    base   BIGINT NOT NULL,
    PRIMARY KEY (system, epoch, times)
);

-- What came under a key that was taken, with other content: each is logged once.
CREATE TABLE conflict (
    system   TEXT   COLLATE "C" NOT NULL,
    epoch    BIGINT NOT NULL,
    sequence BIGINT NOT NULL,
    content  BYTEA  NOT NULL,
    PRIMARY KEY (system, epoch, sequence, content)
);

-- What could not be understood is kept once, however often it comes.
CREATE TABLE unread (
    id       BIGINT GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    system   TEXT   COLLATE "C" NOT NULL,
    epoch    BIGINT,
    sequence BIGINT,
    received BIGINT NOT NULL,
    raw      TEXT   NOT NULL,
    why      TEXT   NOT NULL,
    content  BYTEA,
    times    BIGINT NOT NULL DEFAULT 1
);
CREATE UNIQUE INDEX unread_content ON unread (system, content);

CREATE TABLE register (
    kind       TEXT   COLLATE "C" NOT NULL,
    id         TEXT   COLLATE "C" NOT NULL,
    version    BIGINT NOT NULL,
    valid_from BIGINT NOT NULL,
    valid_to   BIGINT,
    payload    TEXT   NOT NULL,
    PRIMARY KEY (kind, id, version)
);
CREATE INDEX register_current ON register (kind, id) WHERE valid_to IS NULL;

CREATE TABLE photo (
    person  TEXT  COLLATE "C" NOT NULL PRIMARY KEY,
    version TEXT  NOT NULL,
    jpeg    BYTEA NOT NULL
);

CREATE TABLE clock_reading (
    system      TEXT   COLLATE "C" NOT NULL,
    at          BIGINT NOT NULL,
    ahead       BIGINT NOT NULL,
    round_trip  BIGINT NOT NULL,
    uncertainty BIGINT NOT NULL,
    PRIMARY KEY (system, at)
);

-- Names this log for good: a data directory remembers which one belongs to it.
CREATE TABLE identity (id TEXT NOT NULL);
INSERT INTO identity VALUES (replace(gen_random_uuid()::text, '-', ''));
