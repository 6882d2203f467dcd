-- A changed text is another sheet that replaces the one before; the note says what changed.
ALTER TABLE sheet ADD COLUMN replaces_id INTEGER REFERENCES sheet (id);
ALTER TABLE sheet ADD COLUMN note TEXT NOT NULL DEFAULT '';
CREATE UNIQUE INDEX sheet_replaces ON sheet (replaces_id) WHERE replaces_id IS NOT NULL;

-- What was found different from a sheet on one vehicle: kept with who and when, withdrawn with a reason and never changed.
CREATE TABLE correction (
    id INTEGER PRIMARY KEY,
    sheet_id INTEGER NOT NULL REFERENCES sheet (id),
    vehicle_id INTEGER REFERENCES vehicle (id),
    part TEXT NOT NULL DEFAULT '',
    says TEXT NOT NULL CHECK (says <> ''),
    person TEXT NOT NULL DEFAULT '',
    made_at TEXT NOT NULL
);
CREATE INDEX correction_sheet ON correction (sheet_id, id);
CREATE TRIGGER correction_kept BEFORE UPDATE ON correction BEGIN SELECT RAISE(ABORT, 'a correction is never changed'); END;
CREATE TRIGGER correction_stays BEFORE DELETE ON correction BEGIN SELECT RAISE(ABORT, 'a correction is never deleted'); END;
