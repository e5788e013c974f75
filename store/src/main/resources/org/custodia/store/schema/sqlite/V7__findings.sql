-- What was found of which camera shows which door.
CREATE TABLE finding (
    door  TEXT    NOT NULL PRIMARY KEY,
    told  INTEGER NOT NULL,
    found TEXT    NOT NULL
);
