-- What was measured of a yarn, beside its design. What is struck out stays, and can come back.
CREATE TABLE skein (
    id          INTEGER PRIMARY KEY,
    design      INTEGER NOT NULL REFERENCES design (id),
    moment      TEXT NOT NULL CHECK (moment IN ('plied', 'finished')),
    wet         INTEGER NOT NULL CHECK (wet IN (0, 1)),
    metres      REAL CHECK (metres > 0),
    grams       REAL CHECK (grams > 0),
    wraps       REAL CHECK (wraps > 0),                    -- per inch, as counted by the method
    method      TEXT NOT NULL CHECK (method IN ('relaxed', 'snug', 'card')),
    loop_turns  REAL,                                      -- of 30 cm hung up, Z positive
    note        TEXT NOT NULL CHECK (length(note) <= 500),
    noted_at    TEXT NOT NULL,
    deleted_at  TEXT
) STRICT;

CREATE INDEX skein_of_design ON skein (design, noted_at);

CREATE TABLE swatch (
    id               INTEGER PRIMARY KEY,
    design           INTEGER NOT NULL REFERENCES design (id),
    needle_mm        REAL CHECK (needle_mm > 0),
    stitches_before  REAL NOT NULL CHECK (stitches_before > 0),  -- in 10 cm, as the others
    stitches_after   REAL NOT NULL CHECK (stitches_after > 0),
    rows_before      REAL CHECK (rows_before > 0),
    rows_after       REAL CHECK (rows_after > 0),
    garment_mm       REAL CHECK (garment_mm > 0),
    bloomed          TEXT NOT NULL CHECK (bloomed IN ('yes', 'no', 'unsure')),
    note             TEXT NOT NULL CHECK (length(note) <= 500),
    noted_at         TEXT NOT NULL,
    deleted_at       TEXT
) STRICT;

CREATE INDEX swatch_of_design ON swatch (design, noted_at);
