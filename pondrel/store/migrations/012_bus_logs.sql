-- Logs of buses: what a logger wrote, kept as a file as it came; written once. ``channels`` are their names; ``frames`` how many,
-- ``seconds`` from the first to the last.
CREATE TABLE bus_log (
    id INTEGER PRIMARY KEY,
    digest TEXT NOT NULL REFERENCES file (digest),
    name TEXT NOT NULL,
    says TEXT NOT NULL,
    vehicle_id INTEGER REFERENCES vehicle (id),
    job_id INTEGER REFERENCES job (id),
    frames INTEGER NOT NULL,
    seconds REAL NOT NULL,
    channels TEXT NOT NULL CHECK (json_valid(channels)),
    person TEXT NOT NULL DEFAULT '',
    made_at TEXT NOT NULL
);
CREATE INDEX bus_log_job ON bus_log (job_id, id);
CREATE INDEX bus_log_vehicle ON bus_log (vehicle_id, id);
CREATE TRIGGER bus_log_unchanged BEFORE UPDATE ON bus_log BEGIN SELECT RAISE(ABORT, 'a log is never changed, only taken again'); END;
CREATE TRIGGER bus_log_stays BEFORE DELETE ON bus_log BEGIN SELECT RAISE(ABORT, 'a log is never deleted'); END;
-- What was done while it was taken, at which second of it; a mark in the wrong place is struck and set again.
CREATE TABLE bus_mark (
    id INTEGER PRIMARY KEY,
    log_id INTEGER NOT NULL REFERENCES bus_log (id),
    at REAL NOT NULL,
    says TEXT NOT NULL,
    person TEXT NOT NULL DEFAULT '',
    made_at TEXT NOT NULL
);
CREATE INDEX bus_mark_log ON bus_mark (log_id, id);
CREATE TRIGGER bus_mark_unchanged BEFORE UPDATE ON bus_mark BEGIN SELECT RAISE(ABORT, 'a mark is never changed, only struck'); END;
CREATE TRIGGER bus_mark_stays BEFORE DELETE ON bus_mark BEGIN SELECT RAISE(ABORT, 'a mark is never deleted, only struck'); END;
CREATE TABLE bus_mark_strike (
    mark_id INTEGER PRIMARY KEY REFERENCES bus_mark (id),
    person TEXT NOT NULL DEFAULT '',
    struck_at TEXT NOT NULL
) WITHOUT ROWID;
-- Signal databases that the workshop has, kept as files as they came. ``messages``: how many they know.
CREATE TABLE signal_database (
    id INTEGER PRIMARY KEY,
    digest TEXT NOT NULL REFERENCES file (digest),
    name TEXT NOT NULL,
    messages INTEGER NOT NULL,
    person TEXT NOT NULL DEFAULT '',
    made_at TEXT NOT NULL
);
CREATE TRIGGER signal_database_unchanged BEFORE UPDATE ON signal_database BEGIN SELECT RAISE(ABORT, 'a database is never changed, only taken in again'); END;
CREATE TRIGGER signal_database_stays BEFORE DELETE ON signal_database BEGIN SELECT RAISE(ABORT, 'a database is never deleted'); END;
-- Which databases read a log, each on one channel (by name) or on all (empty). The set that was written last for a log counts.
CREATE TABLE bus_log_database (
    id INTEGER PRIMARY KEY,
    log_id INTEGER NOT NULL REFERENCES bus_log (id),
    databases TEXT NOT NULL CHECK (json_valid(databases)),
    person TEXT NOT NULL DEFAULT '',
    made_at TEXT NOT NULL
);
CREATE INDEX bus_log_database_log ON bus_log_database (log_id, id);
CREATE TRIGGER bus_log_database_unchanged BEFORE UPDATE ON bus_log_database BEGIN SELECT RAISE(ABORT, 'a choice is never changed, only made again'); END;
CREATE TRIGGER bus_log_database_stays BEFORE DELETE ON bus_log_database BEGIN SELECT RAISE(ABORT, 'a choice is never deleted, only made again'); END;
-- What a flag that is set, or a sender that is silent, says of a circuit: a line of evidence on a sheet. ``frame`` is empty for a sender.
-- The newest one for a frame and signal counts; one with an empty line takes the link back.
CREATE TABLE bus_link (
    id INTEGER PRIMARY KEY,
    frame TEXT NOT NULL,
    signal TEXT NOT NULL,
    sheet_id INTEGER NOT NULL REFERENCES sheet (id),
    line TEXT NOT NULL,
    person TEXT NOT NULL DEFAULT '',
    made_at TEXT NOT NULL
);
CREATE INDEX bus_link_of ON bus_link (frame, signal, id);
CREATE TRIGGER bus_link_unchanged BEFORE UPDATE ON bus_link BEGIN SELECT RAISE(ABORT, 'a link is never changed, only written again'); END;
CREATE TRIGGER bus_link_stays BEFORE DELETE ON bus_link BEGIN SELECT RAISE(ABORT, 'a link is never deleted, only written again'); END;
