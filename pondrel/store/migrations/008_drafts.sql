-- A circuit that is being drawn: every step is kept with the whole text that it led to, and the draft stands at one of them.
CREATE TABLE draft (
    id INTEGER PRIMARY KEY,
    sheet_id INTEGER REFERENCES sheet (id),
    job_id INTEGER REFERENCES job (id),
    person TEXT NOT NULL DEFAULT '',
    made_at TEXT NOT NULL
);
CREATE TABLE draft_step (
    id INTEGER PRIMARY KEY,
    draft_id INTEGER NOT NULL REFERENCES draft (id),
    before_id INTEGER REFERENCES draft_step (id),
    text TEXT NOT NULL,
    words TEXT NOT NULL DEFAULT '',
    made_at TEXT NOT NULL
);
CREATE INDEX draft_step_draft ON draft_step (draft_id, id);
-- Where a draft stands: the last move counts. A step forward, back or forward again is a move.
CREATE TABLE draft_move (
    id INTEGER PRIMARY KEY,
    draft_id INTEGER NOT NULL REFERENCES draft (id),
    step_id INTEGER NOT NULL REFERENCES draft_step (id),
    made_at TEXT NOT NULL
);
CREATE INDEX draft_move_draft ON draft_move (draft_id, id);
-- A draft that was kept as a sheet.
CREATE TABLE draft_kept (
    draft_id INTEGER PRIMARY KEY REFERENCES draft (id),
    sheet_id INTEGER NOT NULL REFERENCES sheet (id),
    kept_at TEXT NOT NULL
);
CREATE TRIGGER draft_unchanged BEFORE UPDATE ON draft BEGIN SELECT RAISE(ABORT, 'a draft is never changed, only moved on'); END;
CREATE TRIGGER draft_step_unchanged BEFORE UPDATE ON draft_step BEGIN SELECT RAISE(ABORT, 'a step is never changed'); END;
CREATE TRIGGER draft_step_stays BEFORE DELETE ON draft_step BEGIN SELECT RAISE(ABORT, 'a step is never deleted, only undone'); END;
-- The step that was taken, so that it can be taken on another version too; empty for what was written as text.
ALTER TABLE draft_step ADD COLUMN step TEXT NOT NULL DEFAULT '' CHECK (step = '' OR json_valid(step));
-- The trace whose drawing a draft corrects, NULL for none.
ALTER TABLE draft ADD COLUMN trace_id INTEGER REFERENCES trace (id);
-- A vehicle's own drawing of a circuit of the library.
CREATE TABLE own_drawing (
    sheet_id INTEGER PRIMARY KEY REFERENCES sheet (id),
    library_id INTEGER NOT NULL REFERENCES sheet (id),
    vehicle_id INTEGER NOT NULL REFERENCES vehicle (id),
    made_at TEXT NOT NULL
);
CREATE INDEX own_drawing_vehicle ON own_drawing (vehicle_id, library_id);
-- How a correction is made on the drawing, so that the library's next version can have it.
CREATE TABLE correction_step (
    correction_id INTEGER PRIMARY KEY REFERENCES correction (id),
    step TEXT NOT NULL CHECK (json_valid(step))
);
