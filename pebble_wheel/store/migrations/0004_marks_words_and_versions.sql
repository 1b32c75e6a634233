-- Every row carries a mark of what it holds, so that a byte that has flipped is noticed; a name of its own, by which it is
-- known in another store; and of a design the words by which it is found. What a design was before stays, as versions.
ALTER TABLE design ADD COLUMN uid TEXT NOT NULL DEFAULT '';
ALTER TABLE design ADD COLUMN words TEXT NOT NULL DEFAULT '';
ALTER TABLE design ADD COLUMN mark TEXT NOT NULL DEFAULT '';
UPDATE design SET uid = new_uid(), words = words_of(name, body);
UPDATE design SET mark = mark_of(id, uid, name, body, typed, created_at, changed_at, deleted_at);
CREATE UNIQUE INDEX design_by_uid ON design (uid);

ALTER TABLE skein ADD COLUMN uid TEXT NOT NULL DEFAULT '';
ALTER TABLE skein ADD COLUMN mark TEXT NOT NULL DEFAULT '';
UPDATE skein SET uid = new_uid();
UPDATE skein SET mark = mark_of(
    id, uid, design, moment, wet, metres, grams, wraps, method, loop_turns, note, noted_at, deleted_at
);
CREATE UNIQUE INDEX skein_by_uid ON skein (uid);

ALTER TABLE swatch ADD COLUMN uid TEXT NOT NULL DEFAULT '';
ALTER TABLE swatch ADD COLUMN mark TEXT NOT NULL DEFAULT '';
UPDATE swatch SET uid = new_uid();
UPDATE swatch SET mark = mark_of(
    id, uid, design, needle_mm, stitches_before, stitches_after, rows_before, rows_after, garment_mm, bloomed, note,
    noted_at, deleted_at
);
CREATE UNIQUE INDEX swatch_by_uid ON swatch (uid);

ALTER TABLE setting ADD COLUMN mark TEXT NOT NULL DEFAULT '';
UPDATE setting SET mark = mark_of(name, value);

CREATE TABLE version (
    id          INTEGER PRIMARY KEY,
    uid         TEXT NOT NULL UNIQUE,
    design      INTEGER NOT NULL REFERENCES design (id),
    name        TEXT NOT NULL,
    body        TEXT NOT NULL,                            -- as it stood, even where that could not be read
    typed       TEXT NOT NULL,
    changed_at  TEXT NOT NULL,                            -- when the design was made so
    mark        TEXT NOT NULL DEFAULT ''
) STRICT;

CREATE INDEX version_of_design ON version (design, changed_at);
