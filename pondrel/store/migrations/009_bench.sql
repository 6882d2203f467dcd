-- Checks of a component by itself: written once. ``given`` is what was set, read and limited, as it was typed; a check of the new part
-- before it goes in names the old one's.
CREATE TABLE bench_check (
    id INTEGER PRIMARY KEY,
    family TEXT NOT NULL,
    title TEXT NOT NULL,
    vehicle_id INTEGER REFERENCES vehicle (id),
    job_id INTEGER REFERENCES job (id),
    part TEXT NOT NULL DEFAULT '',
    before_id INTEGER REFERENCES bench_check (id),
    given TEXT NOT NULL CHECK (json_valid(given)),
    verdict TEXT NOT NULL,
    says TEXT NOT NULL DEFAULT '',
    number REAL,
    unit TEXT NOT NULL DEFAULT '',
    person TEXT NOT NULL DEFAULT '',
    made_at TEXT NOT NULL
);
CREATE INDEX bench_check_alike ON bench_check (family, title, unit, id);
CREATE INDEX bench_check_vehicle ON bench_check (vehicle_id, id);
CREATE INDEX bench_check_job ON bench_check (job_id, id);
CREATE TRIGGER bench_check_unchanged BEFORE UPDATE ON bench_check BEGIN SELECT RAISE(ABORT, 'a check is never changed, only repeated'); END;
CREATE TRIGGER bench_check_stays BEFORE DELETE ON bench_check BEGIN SELECT RAISE(ABORT, 'a check is never deleted'); END;
-- The meters of the workshop: the newest row of a name counts, a row that is ``gone`` takes it off the list.
CREATE TABLE meter (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL,
    words TEXT NOT NULL DEFAULT '',
    accuracy TEXT NOT NULL CHECK (json_valid(accuracy)),
    ranges TEXT NOT NULL DEFAULT '[]' CHECK (json_valid(ranges)),
    lead_ohms REAL NOT NULL DEFAULT 0,
    thermometer_c REAL NOT NULL DEFAULT 0,
    address TEXT NOT NULL DEFAULT '',
    gone INTEGER NOT NULL DEFAULT 0,
    made_at TEXT NOT NULL
);
CREATE INDEX meter_name ON meter (name, id);
-- The workshop's own limits: the newest version of a number counts, one that is ``gone`` takes it off the list.
CREATE TABLE own_limit (
    id INTEGER PRIMARY KEY,
    number INTEGER NOT NULL,
    version INTEGER NOT NULL,
    family TEXT NOT NULL,
    what TEXT NOT NULL,
    line TEXT NOT NULL,
    note TEXT NOT NULL DEFAULT '',
    person TEXT NOT NULL DEFAULT '',
    gone INTEGER NOT NULL DEFAULT 0,
    made_at TEXT NOT NULL,
    UNIQUE (number, version)
);
CREATE INDEX own_limit_family ON own_limit (family, what);
CREATE TRIGGER own_limit_unchanged BEFORE UPDATE ON own_limit BEGIN SELECT RAISE(ABORT, 'a limit is never changed, only versioned'); END;
CREATE TRIGGER own_limit_stays BEFORE DELETE ON own_limit BEGIN SELECT RAISE(ABORT, 'a limit is never deleted, only taken off the list'); END;
