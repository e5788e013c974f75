-- References to what is said of many events fit into four bytes, and stand together, so that none of them is padded.
CREATE TABLE event_narrow (
    position BIGINT   NOT NULL,
    sequence BIGINT   NOT NULL,
    time     BIGINT   NOT NULL,
    received BIGINT   NOT NULL, -- after the time
    ahead    BIGINT   NOT NULL, -- of the system's clock
    device   BIGINT   NOT NULL, -- what the device's time is after the time and the clock's offset
    origin   INTEGER  NOT NULL,
    occasion INTEGER  NOT NULL,
    payload  INTEGER,
    bearer   INTEGER,
    operator INTEGER,
    cause    INTEGER,
    late     SMALLINT NOT NULL,
    proof    BYTEA              -- for a chain over the log
);
INSERT INTO event_narrow
    (position, sequence, time, received, ahead, device, origin, occasion, payload, bearer, operator, cause, late, proof)
SELECT position, sequence, time, received, ahead, device, origin, occasion, payload, bearer, operator, cause, late, proof
FROM event
ORDER BY position;
DROP TABLE event;
ALTER TABLE event_narrow RENAME TO event;
ALTER TABLE event ADD CONSTRAINT event_pkey PRIMARY KEY (position);
CREATE UNIQUE INDEX event_key ON event (origin, sequence);
CREATE INDEX event_time ON event (time, occasion);
CREATE INDEX event_occasion ON event (occasion, time);
CREATE INDEX event_bearer ON event (bearer, time, occasion) WHERE bearer IS NOT NULL;
CREATE INDEX event_operator ON event (operator, time) WHERE operator IS NOT NULL;
CREATE INDEX event_cause ON event (cause, time) WHERE cause IS NOT NULL;
CREATE INDEX event_late ON event (time) WHERE late = 1;
