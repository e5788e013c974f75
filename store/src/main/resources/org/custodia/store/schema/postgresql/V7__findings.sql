-- What was found of which camera shows which door.
CREATE TABLE finding (
    door  TEXT   COLLATE "C" NOT NULL PRIMARY KEY,
    told  BIGINT NOT NULL,
    found TEXT   NOT NULL
);
