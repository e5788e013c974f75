-- Registers know two times, from when to when something was so and when that was learned, and who said so. Nothing in them
-- is ever changed: a later version holds instead of an earlier one for as long as it says.
ALTER TABLE register RENAME TO register_before;
ALTER INDEX register_pkey RENAME TO register_before_pkey;
DROP INDEX register_current;
CREATE TABLE register (
    kind       TEXT   COLLATE "C" NOT NULL,
    id         TEXT   COLLATE "C" NOT NULL,
    version    BIGINT NOT NULL,
    valid_from BIGINT NOT NULL,
    valid_to   BIGINT,          -- not included; absent where no end is known
    recorded   BIGINT NOT NULL,
    source     TEXT   COLLATE "C" NOT NULL, -- the system that says so, or 'custodia'
    made_by    TEXT,            -- the operator who says so
    form       BIGINT NOT NULL, -- in which the payload is written
    payload    TEXT,            -- absent where there was nothing from then on
    PRIMARY KEY (kind, id, version)
);

-- Badges are named with their kind, since a card and a phone may bear one number; pairs by what they pair.
INSERT INTO register (kind, id, version, valid_from, valid_to, recorded, source, form, payload)
SELECT kind,
       CASE WHEN kind = 'credential' THEN id || ' ' || lower(payload::jsonb ->> 'kind') ELSE id END,
       version, valid_from, valid_to, valid_from,
       CASE WHEN strpos(id, '/') > 0 THEN substr(id, 1, strpos(id, '/') - 1) ELSE 'custodia' END,
       1, payload
FROM register_before
WHERE kind <> 'pairing';

INSERT INTO register (kind, id, version, valid_from, valid_to, recorded, source, form, payload)
SELECT 'pair', pair, ROW_NUMBER() OVER (PARTITION BY pair ORDER BY valid_from, id, version),
       valid_from, valid_to, valid_from, 'custodia', 1,
       (payload::jsonb || jsonb_build_object('order', substr(id, 1, 5)::bigint))::text
FROM (SELECT *, (payload::jsonb #>> '{door,value}') || ' ' || (payload::jsonb #>> '{camera,value}') || ' '
                || lower(payload::jsonb ->> 'side') || ' ' || lower(payload::jsonb ->> 'view') AS pair
      FROM register_before
      WHERE kind = 'pairing') AS pairs;

DROP TABLE register_before;
CREATE INDEX register_source ON register (kind, source);
