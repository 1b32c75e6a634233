-- Fibre in hand: a lot is kept once, and yarns name it by its uid.
CREATE TABLE lot (
    id          INTEGER PRIMARY KEY,
    uid         TEXT NOT NULL UNIQUE,
    name        TEXT NOT NULL,
    body        TEXT NOT NULL,                            -- what it is, as JSON
    typed       TEXT NOT NULL,                            -- as the person typed it, by field, as JSON
    created_at  TEXT NOT NULL,
    changed_at  TEXT NOT NULL,
    deleted_at  TEXT,
    mark        TEXT NOT NULL DEFAULT ''
) STRICT;
