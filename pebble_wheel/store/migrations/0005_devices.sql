-- Devices that may see the notebook beyond this machine, and links by which one more may. Only marks of their secrets are
-- kept. They belong to this store: they are never written out with the notebook.
CREATE TABLE device (
    id          INTEGER PRIMARY KEY,
    name        TEXT NOT NULL CHECK (length(name) BETWEEN 1 AND 60),
    secret      TEXT NOT NULL UNIQUE,
    paired_at   TEXT NOT NULL,
    seen_at     TEXT NOT NULL
) STRICT;

CREATE TABLE pairing (
    code        TEXT PRIMARY KEY,
    made_at     TEXT NOT NULL
) STRICT, WITHOUT ROWID;
