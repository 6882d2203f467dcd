-- Captures: what a scope or a recorder wrote, kept as a file as it came; written once. ``full_scale`` is what the largest sample of a WAV
-- stands for; ``channels`` are their names and units.
CREATE TABLE capture (
    id INTEGER PRIMARY KEY,
    digest TEXT NOT NULL REFERENCES file (digest),
    name TEXT NOT NULL,
    says TEXT NOT NULL,
    vehicle_id INTEGER REFERENCES vehicle (id),
    job_id INTEGER REFERENCES job (id),
    full_scale REAL,
    count INTEGER NOT NULL,
    step REAL NOT NULL,
    channels TEXT NOT NULL CHECK (json_valid(channels)),
    person TEXT NOT NULL DEFAULT '',
    made_at TEXT NOT NULL
);
CREATE INDEX capture_job ON capture (job_id, id);
CREATE INDEX capture_vehicle ON capture (vehicle_id, id);
CREATE TRIGGER capture_unchanged BEFORE UPDATE ON capture BEGIN SELECT RAISE(ABORT, 'a capture is never changed, only taken again'); END;
CREATE TRIGGER capture_stays BEFORE DELETE ON capture BEGIN SELECT RAISE(ABORT, 'a capture is never deleted'); END;
-- What was done while it was taken, at which time of it in seconds; a mark in the wrong place is struck and set again.
CREATE TABLE capture_mark (
    id INTEGER PRIMARY KEY,
    capture_id INTEGER NOT NULL REFERENCES capture (id),
    at REAL NOT NULL,
    says TEXT NOT NULL,
    person TEXT NOT NULL DEFAULT '',
    made_at TEXT NOT NULL
);
CREATE INDEX capture_mark_capture ON capture_mark (capture_id, id);
CREATE TRIGGER capture_mark_unchanged BEFORE UPDATE ON capture_mark BEGIN SELECT RAISE(ABORT, 'a mark is never changed, only struck'); END;
CREATE TRIGGER capture_mark_stays BEFORE DELETE ON capture_mark BEGIN SELECT RAISE(ABORT, 'a mark is never deleted, only struck'); END;
CREATE TABLE capture_mark_strike (
    mark_id INTEGER PRIMARY KEY REFERENCES capture_mark (id),
    person TEXT NOT NULL DEFAULT '',
    struck_at TEXT NOT NULL
) WITHOUT ROWID;
-- Where a channel of a capture was taken: on which circuit of its job, between which places, in which state. The newest one counts.
CREATE TABLE capture_laid (
    id INTEGER PRIMARY KEY,
    capture_id INTEGER NOT NULL REFERENCES capture (id),
    channel INTEGER NOT NULL,
    trace_number INTEGER NOT NULL,
    state TEXT NOT NULL,
    red TEXT NOT NULL,
    black TEXT NOT NULL,
    person TEXT NOT NULL DEFAULT '',
    made_at TEXT NOT NULL
);
CREATE INDEX capture_laid_capture ON capture_laid (capture_id, id);
CREATE TRIGGER capture_laid_unchanged BEFORE UPDATE ON capture_laid BEGIN SELECT RAISE(ABORT, 'a place is never changed, only said again'); END;
CREATE TRIGGER capture_laid_stays BEFORE DELETE ON capture_laid BEGIN SELECT RAISE(ABORT, 'a place is never deleted, only said again'); END;
-- What can be unplugged one after the other while it is watched, as it was typed. The newest one counts.
CREATE TABLE capture_plan (
    id INTEGER PRIMARY KEY,
    capture_id INTEGER NOT NULL REFERENCES capture (id),
    things TEXT NOT NULL,
    person TEXT NOT NULL DEFAULT '',
    made_at TEXT NOT NULL
);
CREATE INDEX capture_plan_capture ON capture_plan (capture_id, id);
CREATE TRIGGER capture_plan_unchanged BEFORE UPDATE ON capture_plan BEGIN SELECT RAISE(ABORT, 'a list is never changed, only written again'); END;
CREATE TRIGGER capture_plan_stays BEFORE DELETE ON capture_plan BEGIN SELECT RAISE(ABORT, 'a list is never deleted, only written again'); END;
-- What a capture came to by a pattern: ``given`` is what was set, limited and which channels, as it was typed. The newest one counts.
CREATE TABLE capture_judged (
    id INTEGER PRIMARY KEY,
    capture_id INTEGER NOT NULL REFERENCES capture (id),
    pattern TEXT NOT NULL,
    given TEXT NOT NULL CHECK (json_valid(given)),
    verdict TEXT NOT NULL,
    says TEXT NOT NULL DEFAULT '',
    person TEXT NOT NULL DEFAULT '',
    made_at TEXT NOT NULL
);
CREATE INDEX capture_judged_capture ON capture_judged (capture_id, id);
CREATE TRIGGER capture_judged_unchanged BEFORE UPDATE ON capture_judged BEGIN SELECT RAISE(ABORT, 'a verdict is never changed, only given again'); END;
CREATE TRIGGER capture_judged_stays BEFORE DELETE ON capture_judged BEGIN SELECT RAISE(ABORT, 'a verdict is never deleted'); END;
