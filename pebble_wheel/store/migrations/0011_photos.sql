-- Photos of yarn: a web-sized copy without what a camera tells of place and person, the original only where that was
-- wanted, and what was measured in it, by hand and by looking, apart from each other.
CREATE TABLE photo (
    id          INTEGER PRIMARY KEY,
    uid         TEXT NOT NULL UNIQUE,
    design      INTEGER NOT NULL REFERENCES design (id),
    strand      TEXT NOT NULL,                             -- its address in the design
    spinner     TEXT NOT NULL,
    picture     BLOB NOT NULL,
    original    BLOB,
    body        TEXT NOT NULL CHECK (json_valid(body)),    -- size, marks by hand, marks found, which of them count
    noted_at    TEXT NOT NULL,
    changed_at  TEXT NOT NULL,
    deleted_at  TEXT,
    mark        TEXT NOT NULL DEFAULT ''
) STRICT;
CREATE INDEX photos_of ON photo (design, noted_at);
