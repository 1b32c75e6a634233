-- Counts at the wheel: a run for each sitting, and every line that was answered for, in the order in which it came.
CREATE TABLE run (
    id          INTEGER PRIMARY KEY,
    uid         TEXT NOT NULL UNIQUE,
    design      INTEGER NOT NULL REFERENCES design (id),
    spinner     TEXT NOT NULL REFERENCES spinner (uid),
    strand      TEXT NOT NULL,                            -- address of what is made
    ratio       REAL NOT NULL CHECK (ratio > 0),
    draft_mm    REAL NOT NULL CHECK (draft_mm > 0),
    aside       INTEGER NOT NULL DEFAULT 0,               -- lines that could not be read
    begun_at    TEXT NOT NULL,
    ended_at    TEXT
) STRICT;

CREATE TABLE line (
    id          INTEGER PRIMARY KEY,
    run         INTEGER NOT NULL REFERENCES run (id),
    text        TEXT NOT NULL
) STRICT;

CREATE INDEX run_of_design ON run (design, id);
CREATE INDEX line_of_run ON line (run, id);
