CREATE TABLE design (
    id          INTEGER PRIMARY KEY,
    name        TEXT NOT NULL CHECK (length(name) BETWEEN 1 AND 120),
    body        TEXT NOT NULL CHECK (json_valid(body)),   -- the design file
    typed       TEXT NOT NULL CHECK (json_valid(typed)),  -- the entries as the person typed them
    created_at  TEXT NOT NULL,
    changed_at  TEXT NOT NULL,
    deleted_at  TEXT                                      -- put away, and can come back
) STRICT;

CREATE INDEX design_by_change ON design (deleted_at, changed_at DESC);

CREATE TABLE setting (
    name   TEXT PRIMARY KEY,
    value  TEXT NOT NULL
) STRICT, WITHOUT ROWID;
