-- What was answered when the eye was practised, and whether that may count as how the eye reads.
CREATE TABLE answer (
    id           INTEGER PRIMARY KEY,
    uid          TEXT NOT NULL UNIQUE,
    spinner      TEXT NOT NULL REFERENCES spinner (uid),
    kind         TEXT NOT NULL,
    fine         INTEGER NOT NULL CHECK (fine IN (0, 1)),
    question     TEXT NOT NULL,                            -- by which the yarn is drawn again
    truth        TEXT NOT NULL,
    given        TEXT NOT NULL,
    answered_at  TEXT NOT NULL,
    mark         TEXT NOT NULL DEFAULT ''
) STRICT;
CREATE INDEX answer_of ON answer (spinner, answered_at);
CREATE TABLE leave (
    id           INTEGER PRIMARY KEY,
    uid          TEXT NOT NULL UNIQUE,
    spinner      TEXT NOT NULL UNIQUE REFERENCES spinner (uid),
    given        INTEGER NOT NULL CHECK (given IN (0, 1)),
    changed_at   TEXT NOT NULL,
    mark         TEXT NOT NULL DEFAULT ''
) STRICT;
