-- Registers know two times, from when to when something was so and when that was learned, and who said so. Nothing in them
-- is ever changed: a later version holds instead of an earlier one for as long as it says.
ALTER TABLE register RENAME TO register_before;
DROP INDEX register_current;
CREATE TABLE register (
    kind       TEXT    NOT NULL,
    id         TEXT    NOT NULL,
    version    INTEGER NOT NULL,
    valid_from INTEGER NOT NULL,
    valid_to   INTEGER,          -- not included; absent where no end is known
    recorded   INTEGER NOT NULL,
    source     TEXT    NOT NULL, -- the system that says so, or 'custodia'
    made_by    TEXT,             -- the operator who says so
    form       INTEGER NOT NULL, -- in which the payload is written
    payload    TEXT,             -- absent where there was nothing from then on
    PRIMARY KEY (kind, id, version)
);

-- Badges are named with their kind, since a card and a phone may bear one number; pairs by what they pair.
INSERT INTO register (kind, id, version, valid_from, valid_to, recorded, source, form, payload)
SELECT kind,
       CASE WHEN kind = 'credential' AND json_valid(payload) THEN id || ' ' || COALESCE(lower(json_extract(payload, '$.kind')), 'card') ELSE id END,
       version, valid_from, valid_to, valid_from,
       CASE WHEN instr(id, '/') > 0 THEN substr(id, 1, instr(id, '/') - 1) ELSE 'custodia' END,
       1, payload
FROM register_before
WHERE kind <> 'pairing';

INSERT INTO register (kind, id, version, valid_from, valid_to, recorded, source, form, payload)
SELECT 'pair', pair, ROW_NUMBER() OVER (PARTITION BY pair ORDER BY valid_from, id, version),
       valid_from, valid_to, valid_from, 'custodia', 1,
       json_set(payload, '$.order', CAST(substr(id, 1, 5) AS INTEGER))
FROM (SELECT *, COALESCE(json_extract(payload, '$.door.value') || ' ' || json_extract(payload, '$.camera.value') || ' '
                || lower(json_extract(payload, '$.side')) || ' ' || lower(json_extract(payload, '$.view')), id) AS pair
      FROM register_before
      WHERE kind = 'pairing' AND json_valid(payload));

DROP TABLE register_before;
CREATE INDEX register_source ON register (kind, source);
