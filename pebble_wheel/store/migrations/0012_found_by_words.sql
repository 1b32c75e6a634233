-- Yarns are found by words of theirs and of their log, a row of the index each, and by what was worked out of them: wraps,
-- what a plan is short of, colours. What was worked out falls away with what it rests on, and is worked out again.
UPDATE design SET words = words_of(CAST(name AS BLOB), CAST(body AS BLOB));
ALTER TABLE entry ADD COLUMN words TEXT NOT NULL DEFAULT '';
UPDATE entry SET words = words_of_entry(CAST(kind AS BLOB), CAST(body AS BLOB));
CREATE INDEX entry_of_kind ON entry (kind, noted_at);
CREATE INDEX entry_of_day ON entry (noted_at, design) WHERE deleted_at IS NULL;
CREATE INDEX entry_by ON entry (design, spinner) WHERE deleted_at IS NULL;
CREATE INDEX design_begun ON design (created_at);
CREATE INDEX design_on_the_shelf ON design (changed_at DESC, id DESC) WHERE deleted_at IS NULL;

CREATE VIRTUAL TABLE found USING fts5 (words, prefix = '1 2 3', tokenize = 'unicode61 remove_diacritics 2');
CREATE VIEW wording AS
SELECT id, words || coalesce(
    (SELECT ' ' || group_concat(entry.words, ' ') FROM entry WHERE design = design.id AND deleted_at IS NULL), ''
) AS words FROM design;
INSERT INTO found (rowid, words) SELECT id, words FROM wording;

CREATE TABLE fact (
    design      INTEGER PRIMARY KEY REFERENCES design (id),
    low         REAL NOT NULL,                            -- relaxed wraps per inch, finished: of eight in ten
    middle      REAL NOT NULL,
    high        REAL NOT NULL,
    short       REAL NOT NULL,                            -- grams of fibre that its plan wants and has not
    lots        TEXT NOT NULL                             -- uids of the lots that it rests on
) STRICT;
CREATE TABLE hue (
    design      INTEGER NOT NULL REFERENCES fact (design) ON DELETE CASCADE,
    light       REAL NOT NULL,                            -- OKLab
    a           REAL NOT NULL,
    b           REAL NOT NULL
) STRICT;
CREATE INDEX hue_of_design ON hue (design);

CREATE TRIGGER design_new AFTER INSERT ON design BEGIN
    INSERT INTO found (rowid, words) SELECT id, words FROM wording WHERE id = new.id;
END;
CREATE TRIGGER design_reworded AFTER UPDATE OF words ON design BEGIN
    UPDATE found SET words = (SELECT words FROM wording WHERE id = new.id) WHERE rowid = new.id;
END;
CREATE TRIGGER design_rebuilt AFTER UPDATE OF body ON design BEGIN
    DELETE FROM fact WHERE design = new.id;
END;
CREATE TRIGGER entry_new AFTER INSERT ON entry BEGIN
    UPDATE found SET words = (SELECT words FROM wording WHERE id = new.design) WHERE rowid = new.design;
    DELETE FROM fact WHERE (new.kind = 'plan' AND design = new.design) OR (new.kind = 'skein' AND lots <> '');
END;
CREATE TRIGGER entry_reworded AFTER UPDATE OF words, deleted_at ON entry BEGIN
    UPDATE found SET words = (SELECT words FROM wording WHERE id = new.design) WHERE rowid = new.design;
    DELETE FROM fact WHERE (new.kind = 'plan' AND design = new.design) OR (new.kind = 'skein' AND lots <> '');
END;
CREATE TRIGGER lot_other AFTER UPDATE ON lot BEGIN
    DELETE FROM fact WHERE instr(lots, new.uid);
END;
