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
