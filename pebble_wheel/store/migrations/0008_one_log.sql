-- One log of every yarn: skeins and swatches become its entries, and samples, notes and rests stand beside them. Each
-- keeps the design as it was then, and who spun it.
CREATE TABLE spinner (
    id          INTEGER PRIMARY KEY,
    uid         TEXT NOT NULL UNIQUE,
    name        TEXT NOT NULL CHECK (length(name) BETWEEN 1 AND 60),
    created_at  TEXT NOT NULL,
    mark        TEXT NOT NULL DEFAULT ''
) STRICT;

INSERT INTO spinner (uid, name, created_at) VALUES ('first', 'Me', '1970-01-01T00:00:00.000+00:00');
UPDATE spinner SET mark = mark_of(id, uid, name, created_at);

CREATE TABLE entry (
    id          INTEGER PRIMARY KEY,
    uid         TEXT NOT NULL UNIQUE,
    design      INTEGER NOT NULL REFERENCES design (id),
    spinner     TEXT NOT NULL REFERENCES spinner (uid),
    kind        TEXT NOT NULL,
    body        TEXT NOT NULL CHECK (json_valid(body)),    -- what was noted
    typed       TEXT NOT NULL CHECK (json_valid(typed)),   -- as the person typed it, by field
    plan        TEXT NOT NULL,                             -- the design file as it was then
    noted_at    TEXT NOT NULL,
    struck      TEXT NOT NULL DEFAULT '[]' CHECK (json_valid(struck)),  -- readings of it that do not count
    sure        INTEGER NOT NULL DEFAULT 0 CHECK (sure IN (0, 1)),      -- asked whether it is a slip: it is really so
    reference   INTEGER NOT NULL DEFAULT 0 CHECK (reference IN (0, 1)), -- the sample to match
    changed_at  TEXT NOT NULL,
    deleted_at  TEXT,
    mark        TEXT NOT NULL DEFAULT ''
) STRICT;

INSERT INTO entry (uid, design, spinner, kind, body, typed, plan, noted_at, changed_at, deleted_at, mark)
SELECT old.uid, old.design, 'first', old.kind, old.body, '{}', design.body, old.noted_at,
       coalesce(old.deleted_at, old.noted_at), old.deleted_at, old.sound
FROM (
    SELECT uid, design, 'skein' AS kind, noted_at, deleted_at, json_object(
            'stage', moment, 'wet', json(iif(wet, 'true', 'false')), 'metres', metres, 'grams', grams, 'wraps', wraps,
            'method', method, 'loop_turns', loop_turns, 'note', note
        ) AS body,
        iif(mark = mark_of(
            id, uid, design, moment, wet, metres, grams, wraps, method, loop_turns, note, noted_at, deleted_at
        ), 'sound', '') AS sound
    FROM skein
    UNION ALL
    SELECT uid, design, 'swatch', noted_at, deleted_at, json_object(
            'needle_mm', needle_mm, 'stitches_before', stitches_before, 'stitches_after', stitches_after,
            'rows_before', rows_before, 'rows_after', rows_after, 'garment_mm', garment_mm, 'bloomed', bloomed,
            'note', note
        ),
        iif(mark = mark_of(
            id, uid, design, needle_mm, stitches_before, stitches_after, rows_before, rows_after, garment_mm, bloomed,
            note, noted_at, deleted_at
        ), 'sound', '')
    FROM swatch
) AS old
JOIN design ON design.id = old.design
ORDER BY old.noted_at, old.uid;

UPDATE entry SET mark = mark_of(
    id, uid, design, spinner, kind, body, typed, plan, noted_at, struck, sure, reference, changed_at, deleted_at
) WHERE mark = 'sound';

DROP TABLE skein;
DROP TABLE swatch;

CREATE INDEX entry_of_design ON entry (design, noted_at);
CREATE INDEX entry_of_spinner ON entry (spinner, changed_at);
CREATE UNIQUE INDEX reference_of_design ON entry (design, json_extract(body, '$.strand')) WHERE reference = 1;
