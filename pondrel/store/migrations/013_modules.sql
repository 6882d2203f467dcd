-- Rosters: what a workshop knows of the modules of a kind of vehicle, as its text was; a newer one of the same title goes before an older.
CREATE TABLE roster (
    id INTEGER PRIMARY KEY,
    title TEXT NOT NULL,
    text TEXT NOT NULL,
    person TEXT NOT NULL DEFAULT '',
    made_at TEXT NOT NULL
);
CREATE INDEX roster_title ON roster (title, id);
CREATE TRIGGER roster_unchanged BEFORE UPDATE ON roster BEGIN SELECT RAISE(ABORT, 'a roster is never changed, only taken in again'); END;
CREATE TRIGGER roster_stays BEFORE DELETE ON roster BEGIN SELECT RAISE(ABORT, 'a roster is never deleted'); END;
-- A talk with the modules of a vehicle: by which roster, at which ``address`` of a bus or K-line.
CREATE TABLE talk (
    id INTEGER PRIMARY KEY,
    vehicle_id INTEGER NOT NULL REFERENCES vehicle (id),
    job_id INTEGER REFERENCES job (id),
    roster_id INTEGER NOT NULL REFERENCES roster (id),
    address TEXT NOT NULL,
    person TEXT NOT NULL DEFAULT '',
    made_at TEXT NOT NULL
);
CREATE INDEX talk_vehicle ON talk (vehicle_id, id);
CREATE INDEX talk_job ON talk (job_id, id);
CREATE TRIGGER talk_unchanged BEFORE UPDATE ON talk BEGIN SELECT RAISE(ABORT, 'a talk is never changed'); END;
CREATE TRIGGER talk_stays BEFORE DELETE ON talk BEGIN SELECT RAISE(ABORT, 'a talk is never deleted'); END;
-- What was said in it, in its order: ``at`` seconds from its beginning, a request and its answer as bytes; ``fault`` says why none came.
-- A line without a request is what the person did: what was made safe, what was commanded, that control went back.
CREATE TABLE exchange (
    id INTEGER PRIMARY KEY,
    talk_id INTEGER NOT NULL REFERENCES talk (id),
    at REAL NOT NULL,
    module TEXT NOT NULL,
    request BLOB NOT NULL,
    answer BLOB NOT NULL,
    seconds REAL NOT NULL,
    fault TEXT NOT NULL DEFAULT ''
);
CREATE INDEX exchange_talk ON exchange (talk_id, id);
CREATE TRIGGER exchange_unchanged BEFORE UPDATE ON exchange BEGIN SELECT RAISE(ABORT, 'what was said is never changed'); END;
CREATE TRIGGER exchange_stays BEFORE DELETE ON exchange BEGIN SELECT RAISE(ABORT, 'what was said is never deleted'); END;
