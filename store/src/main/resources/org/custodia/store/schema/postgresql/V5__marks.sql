-- How far those have come who go through the log and must miss nothing.
CREATE TABLE log_mark (
    who      TEXT   COLLATE "C" NOT NULL PRIMARY KEY,
    position BIGINT NOT NULL
);
