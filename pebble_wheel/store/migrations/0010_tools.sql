-- What yarn is made with: wheels, motor spinners, spindles and bobbins, each by itself; they stood in the settings
-- before. A run says what it was counted on, and each line which counter told it.
CREATE TABLE tool (
    id          INTEGER PRIMARY KEY,
    uid         TEXT NOT NULL UNIQUE,
    name        TEXT NOT NULL,
    body        TEXT NOT NULL CHECK (json_valid(body)),
    typed       TEXT NOT NULL CHECK (json_valid(typed)),   -- as the person typed it, by field
    created_at  TEXT NOT NULL,
    chosen_at   TEXT NOT NULL,                             -- the one chosen last is used where nothing else is said
    changed_at  TEXT NOT NULL,
    deleted_at  TEXT,
    mark        TEXT NOT NULL DEFAULT ''
) STRICT;

INSERT INTO tool (uid, name, body, typed, created_at, chosen_at, changed_at)
SELECT new_uid(), json_extract(told.typed, '$.name'), told.body, told.typed, told.noted, told.noted, told.noted
FROM (
    SELECT tool_before(kind.name, told.settings, 'body') AS body, tool_before(kind.name, told.settings, 'typed') AS typed,
           '1970-01-01T00:00:00.000+00:00' AS noted
    FROM (SELECT 'wheel' AS name UNION ALL SELECT 'bobbins') AS kind
    CROSS JOIN (SELECT json_group_object(name, value) AS settings FROM setting WHERE mark = mark_of(name, value)) AS told
) AS told
WHERE told.body IS NOT NULL;
UPDATE tool SET mark = mark_of(id, uid, name, body, typed, created_at, chosen_at, changed_at, deleted_at);

DELETE FROM setting WHERE name IN ('ratios', 'bobbins', 'bobbin', 'bobbin_empty', 'orifice');

ALTER TABLE run ADD COLUMN tool TEXT NOT NULL DEFAULT '';         -- uid of what it is counted on
ALTER TABLE run ADD COLUMN beat TEXT NOT NULL DEFAULT 'treadle';  -- what a tap counts
ALTER TABLE run ADD COLUMN laps REAL NOT NULL DEFAULT 0;          -- of a bobbin that leads, in a metre
ALTER TABLE run ADD COLUMN mark TEXT NOT NULL DEFAULT '';         -- of it and its lines, once it has ended
ALTER TABLE line ADD COLUMN source TEXT NOT NULL DEFAULT '';      -- which counter told it
