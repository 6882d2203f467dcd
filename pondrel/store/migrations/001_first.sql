CREATE TABLE vehicle (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL UNIQUE CHECK (name <> ''),
    make TEXT NOT NULL DEFAULT '',
    model TEXT NOT NULL DEFAULT '',
    year TEXT NOT NULL DEFAULT '',
    plate TEXT NOT NULL DEFAULT '',
    note TEXT NOT NULL DEFAULT ''
);

-- A sheet is its text: a changed text is another sheet, so that a job can be replayed on the one it was traced with.
CREATE TABLE sheet (
    id INTEGER PRIMARY KEY,
    title TEXT NOT NULL,
    family TEXT NOT NULL DEFAULT '',
    digest TEXT NOT NULL UNIQUE,
    text TEXT NOT NULL,
    added_at TEXT NOT NULL
);

CREATE TABLE job (
    id INTEGER PRIMARY KEY,
    vehicle_id INTEGER NOT NULL REFERENCES vehicle (id),
    sheet_id INTEGER NOT NULL REFERENCES sheet (id),
    complaint TEXT NOT NULL CHECK (complaint <> ''),
    conditions TEXT NOT NULL DEFAULT '',
    person TEXT NOT NULL DEFAULT '',
    opened_at TEXT NOT NULL
);
CREATE INDEX job_vehicle ON job (vehicle_id);

CREATE TABLE reading (
    id INTEGER PRIMARY KEY,
    job_id INTEGER NOT NULL REFERENCES job (id),
    state TEXT NOT NULL,
    instrument TEXT NOT NULL,
    red TEXT NOT NULL,
    black TEXT NOT NULL,
    typed TEXT NOT NULL,
    note TEXT NOT NULL DEFAULT '',
    taken_at TEXT NOT NULL
);
CREATE INDEX reading_job ON reading (job_id, id);

CREATE TABLE strike (
    id INTEGER PRIMARY KEY,
    reading_id INTEGER NOT NULL UNIQUE REFERENCES reading (id),
    reason TEXT NOT NULL CHECK (reason <> ''),
    struck_at TEXT NOT NULL
);

-- parts: names separated by line feeds, empty for "nothing on this sheet"; readings: ids in the same way.
CREATE TABLE conclusion (
    id INTEGER PRIMARY KEY,
    job_id INTEGER NOT NULL REFERENCES job (id),
    parts TEXT NOT NULL,
    says TEXT NOT NULL,
    probability REAL NOT NULL,
    proved INTEGER NOT NULL CHECK (proved IN (0, 1)),
    reason TEXT NOT NULL DEFAULT '',
    readings TEXT NOT NULL,
    concluded_at TEXT NOT NULL,
    CHECK (proved = 1 OR reason <> '')
);
CREATE INDEX conclusion_job ON conclusion (job_id, id);

CREATE TABLE reopening (
    id INTEGER PRIMARY KEY,
    conclusion_id INTEGER NOT NULL UNIQUE REFERENCES conclusion (id),
    reason TEXT NOT NULL CHECK (reason <> ''),
    reopened_at TEXT NOT NULL
);

CREATE TRIGGER reading_kept BEFORE UPDATE ON reading BEGIN SELECT RAISE(ABORT, 'a reading is never changed, only struck out'); END;
CREATE TRIGGER reading_stays BEFORE DELETE ON reading BEGIN SELECT RAISE(ABORT, 'a reading is never deleted, only struck out'); END;
CREATE TRIGGER strike_kept BEFORE UPDATE ON strike BEGIN SELECT RAISE(ABORT, 'a strike is never changed'); END;
CREATE TRIGGER strike_stays BEFORE DELETE ON strike BEGIN SELECT RAISE(ABORT, 'a strike is never deleted'); END;
CREATE TRIGGER conclusion_kept BEFORE UPDATE ON conclusion BEGIN SELECT RAISE(ABORT, 'a conclusion is never changed, only reopened'); END;
CREATE TRIGGER conclusion_stays BEFORE DELETE ON conclusion BEGIN SELECT RAISE(ABORT, 'a conclusion is never deleted, only reopened'); END;
