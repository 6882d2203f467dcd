-- A job holds no sheet any more: a trace joins it to a version of one, and all that is done or learned is an entry of one log.
CREATE TABLE job_new (
    id INTEGER PRIMARY KEY,
    vehicle_id INTEGER NOT NULL REFERENCES vehicle (id),
    complaint TEXT NOT NULL CHECK (complaint <> ''),
    conditions TEXT NOT NULL DEFAULT '',
    person TEXT NOT NULL DEFAULT '',
    opened_at TEXT NOT NULL
);
CREATE INDEX job_new_vehicle ON job_new (vehicle_id);

-- number: of the traces of a job, from 1.
CREATE TABLE trace (
    id INTEGER PRIMARY KEY,
    job_id INTEGER NOT NULL REFERENCES job_new (id),
    number INTEGER NOT NULL CHECK (number > 0),
    sheet_id INTEGER NOT NULL REFERENCES sheet (id),
    person TEXT NOT NULL DEFAULT '',
    opened_at TEXT NOT NULL,
    UNIQUE (job_id, number),
    UNIQUE (job_id, id)
);

CREATE TABLE entry (
    id INTEGER PRIMARY KEY,
    job_id INTEGER NOT NULL REFERENCES job_new (id),
    trace_id INTEGER,
    kind TEXT NOT NULL CHECK (kind <> ''),
    content TEXT NOT NULL CHECK (json_valid(content) AND json_type(content) = 'object'),
    person TEXT NOT NULL DEFAULT '',
    made_at TEXT NOT NULL,
    FOREIGN KEY (job_id, trace_id) REFERENCES trace (job_id, id),
    CHECK (kind <> 'conclusion' OR json_extract(content, '$.proved') OR json_extract(content, '$.reason') <> '')
);
CREATE INDEX entry_job ON entry (job_id, id);

CREATE TABLE entry_strike (
    entry_id INTEGER PRIMARY KEY REFERENCES entry (id),
    reason TEXT NOT NULL CHECK (reason <> ''),
    person TEXT NOT NULL DEFAULT '',
    struck_at TEXT NOT NULL
);

-- The parts that a conclusion names, none for "nothing on this sheet", and the entries that it stands on.
CREATE TABLE conclusion_part (
    entry_id INTEGER NOT NULL REFERENCES entry (id),
    place INTEGER NOT NULL,
    part TEXT NOT NULL CHECK (part <> ''),
    PRIMARY KEY (entry_id, place)
) WITHOUT ROWID;
CREATE TABLE conclusion_basis (
    entry_id INTEGER NOT NULL REFERENCES entry (id),
    basis_id INTEGER NOT NULL REFERENCES entry (id),
    PRIMARY KEY (entry_id, basis_id)
) WITHOUT ROWID;
-- Of the conclusions on one trace (0: on the job itself) at most one stands.
CREATE TABLE conclusion_standing (
    job_id INTEGER NOT NULL REFERENCES job_new (id),
    trace_id INTEGER NOT NULL,
    entry_id INTEGER NOT NULL UNIQUE REFERENCES entry (id),
    PRIMARY KEY (job_id, trace_id)
) WITHOUT ROWID;

-- Files by the SHA-256 of what they hold; where they lie is the data folder's business.
CREATE TABLE file (
    digest TEXT PRIMARY KEY CHECK (length(digest) = 64),
    media TEXT NOT NULL,
    bytes INTEGER NOT NULL CHECK (bytes > 0),
    added_at TEXT NOT NULL
) WITHOUT ROWID;
CREATE TABLE entry_file (
    entry_id INTEGER NOT NULL REFERENCES entry (id),
    place INTEGER NOT NULL,
    digest TEXT NOT NULL REFERENCES file (digest),
    name TEXT NOT NULL,
    PRIMARY KEY (entry_id, place)
) WITHOUT ROWID;
CREATE INDEX entry_file_digest ON entry_file (digest);

-- Keys of forms that have been written, and what was answered: the same form sent twice writes once.
CREATE TABLE written (
    key TEXT PRIMARY KEY,
    answer TEXT NOT NULL,
    written_at TEXT NOT NULL
) WITHOUT ROWID;

-- What was there before. A job's readings keep their order, whatever the clock said; a conclusion comes after all that it stands on.
CREATE TEMP TABLE moved AS
WITH dated AS (
    SELECT id, job_id, max(taken_at) OVER (PARTITION BY job_id ORDER BY id) AS told_at FROM reading
), concluded AS (
    SELECT conclusion.id, conclusion.job_id,
           max(concluded_at, coalesce((
               SELECT max(dated.told_at) FROM dated
               WHERE dated.job_id = conclusion.job_id AND instr(char(10) || conclusion.readings || char(10), char(10) || dated.id || char(10))
           ), '')) AS told_at
    FROM conclusion
), told AS (
    SELECT 0 AS concludes, id, job_id, told_at FROM dated
    UNION ALL
    SELECT 1, id, job_id, max(told_at) OVER (PARTITION BY job_id ORDER BY id) FROM concluded
)
SELECT concludes, id AS old_id, job_id, row_number() OVER (ORDER BY told_at, job_id, concludes, id) AS entry_id FROM told;
CREATE INDEX temp.moved_old ON moved (concludes, old_id);

INSERT INTO job_new (id, vehicle_id, complaint, conditions, person, opened_at)
SELECT id, vehicle_id, complaint, conditions, person, opened_at FROM job;
INSERT INTO trace (id, job_id, number, sheet_id, person, opened_at)
SELECT id, id, 1, sheet_id, person, opened_at FROM job;

INSERT INTO entry (id, job_id, trace_id, kind, content, made_at)
SELECT moved.entry_id, reading.job_id, reading.job_id,
       CASE WHEN instrument IN ('see', 'code', 'wiggle', 'heat', 'cool', 'knock', 'swap', 'look', 'history', 'test', 'when', 'suspect', 'skip')
            THEN instrument WHEN instrument LIKE 'good %' THEN 'good' ELSE 'reading' END,
       CASE WHEN instrument IN ('see', 'code', 'wiggle', 'heat', 'cool', 'knock', 'swap', 'look', 'history', 'test', 'when', 'suspect', 'skip')
            THEN json_object('state', state, 'subject', red, 'outcome', typed, 'note', note)
            ELSE json_object('state', state, 'instrument', CASE WHEN instrument LIKE 'good %' THEN substr(instrument, 6) ELSE instrument END,
                             'red', red, 'black', black, 'value', typed, 'note', note) END,
       taken_at
FROM reading JOIN moved ON moved.concludes = 0 AND moved.old_id = reading.id
ORDER BY moved.entry_id;
INSERT INTO entry (id, job_id, trace_id, kind, content, made_at)
SELECT moved.entry_id, conclusion.job_id, conclusion.job_id, 'conclusion',
       json_object('says', says, 'reason', reason, 'faulty', json(iif(parts = '', 'false', 'true')), 'proved', json(iif(proved, 'true', 'false')),
                   'probability', json(iif(worked_out, real_text(probability), 'null'))),
       concluded_at
FROM conclusion JOIN moved ON moved.concludes = 1 AND moved.old_id = conclusion.id
ORDER BY moved.entry_id;

INSERT INTO entry_strike (entry_id, reason, struck_at)
SELECT moved.entry_id, reason, struck_at FROM strike JOIN moved ON moved.concludes = 0 AND moved.old_id = strike.reading_id;
INSERT INTO entry_strike (entry_id, reason, struck_at)
SELECT moved.entry_id, reason, reopened_at FROM reopening JOIN moved ON moved.concludes = 1 AND moved.old_id = reopening.conclusion_id;

WITH RECURSIVE named (conclusion_id, place, part, rest) AS (
    SELECT id, 0, '', parts || char(10) FROM conclusion WHERE parts <> ''
    UNION ALL
    SELECT conclusion_id, place + 1, substr(rest, 1, instr(rest, char(10)) - 1), substr(rest, instr(rest, char(10)) + 1) FROM named WHERE rest <> ''
)
INSERT INTO conclusion_part (entry_id, place, part)
SELECT moved.entry_id, place, part FROM named JOIN moved ON moved.concludes = 1 AND moved.old_id = named.conclusion_id WHERE place > 0;
INSERT INTO conclusion_basis (entry_id, basis_id)
SELECT found.entry_id, told.entry_id
FROM conclusion
JOIN moved AS found ON found.concludes = 1 AND found.old_id = conclusion.id
JOIN moved AS told ON told.concludes = 0 AND told.job_id = conclusion.job_id
WHERE instr(char(10) || conclusion.readings || char(10), char(10) || told.old_id || char(10));
INSERT INTO conclusion_standing (job_id, trace_id, entry_id)
SELECT standing_conclusion.job_id, standing_conclusion.job_id, moved.entry_id
FROM standing_conclusion JOIN moved ON moved.concludes = 1 AND moved.old_id = standing_conclusion.conclusion_id;

DROP TABLE temp.moved;
DROP TABLE outlook;
DROP TABLE bay;
DROP TABLE standing_conclusion;
DROP TABLE reopening;
DROP TABLE conclusion;
DROP TABLE strike;
DROP TABLE reading;
DROP TABLE job;
ALTER TABLE job_new RENAME TO job;
DROP INDEX job_new_vehicle;
CREATE INDEX job_vehicle ON job (vehicle_id);
ALTER TABLE entry_strike RENAME TO strike;

-- Kept beside the record and made from it: what a list needs without working anything out. All of it can be lost and made anew.
-- entries and last_id say which evidence of a trace its outlook was worked out from.
CREATE TABLE outlook (
    trace_id INTEGER PRIMARY KEY REFERENCES trace (id),
    entries INTEGER NOT NULL,
    last_id INTEGER NOT NULL,
    ready INTEGER NOT NULL CHECK (ready IN (0, 1)),
    says TEXT NOT NULL
);
-- party: whose move it is, in the order of the Bay; words: what a search looks through, in lower case; known: 0 where something has been
-- written since.
CREATE TABLE bay (
    job_id INTEGER PRIMARY KEY REFERENCES job (id),
    known INTEGER NOT NULL DEFAULT 0 CHECK (known IN (0, 1)),
    party INTEGER NOT NULL DEFAULT 0,
    stage TEXT NOT NULL DEFAULT '',
    stages TEXT NOT NULL DEFAULT '',
    waits_for TEXT NOT NULL DEFAULT '',
    found TEXT NOT NULL DEFAULT '',
    outlook TEXT NOT NULL DEFAULT '',
    words TEXT NOT NULL DEFAULT '',
    entries INTEGER NOT NULL DEFAULT 0,
    last_at TEXT,
    person TEXT NOT NULL DEFAULT '',
    vehicle_id INTEGER NOT NULL REFERENCES vehicle (id),
    opened_at TEXT NOT NULL
);
CREATE INDEX bay_order ON bay (party, opened_at DESC, job_id DESC);
CREATE INDEX bay_person ON bay (person, party, opened_at DESC, job_id DESC);
CREATE INDEX bay_vehicle ON bay (vehicle_id, party, opened_at DESC, job_id DESC);
CREATE INDEX bay_unknown ON bay (known) WHERE known = 0;
INSERT INTO bay (job_id, person, vehicle_id, opened_at) SELECT id, person, vehicle_id, opened_at FROM job;

CREATE TRIGGER job_opened AFTER INSERT ON job BEGIN
    INSERT INTO bay (job_id, person, vehicle_id, opened_at) VALUES (NEW.id, NEW.person, NEW.vehicle_id, NEW.opened_at);
END;
CREATE TRIGGER trace_opened AFTER INSERT ON trace BEGIN
    UPDATE bay SET known = 0 WHERE job_id = NEW.job_id;
END;
CREATE TRIGGER entry_written AFTER INSERT ON entry BEGIN
    UPDATE bay SET known = 0 WHERE job_id = NEW.job_id;
END;
CREATE TRIGGER entry_withdrawn AFTER INSERT ON strike BEGIN
    UPDATE bay SET known = 0 WHERE job_id = (SELECT job_id FROM entry WHERE entry.id = NEW.entry_id);
    DELETE FROM conclusion_standing WHERE entry_id = NEW.entry_id;
END;
CREATE TRIGGER conclusion_stands AFTER INSERT ON entry WHEN NEW.kind = 'conclusion' BEGIN
    INSERT INTO conclusion_standing (job_id, trace_id, entry_id) VALUES (NEW.job_id, coalesce(NEW.trace_id, 0), NEW.id);
END;

CREATE TRIGGER entry_once BEFORE INSERT ON entry WHEN EXISTS (SELECT 1 FROM entry WHERE entry.id = NEW.id)
BEGIN SELECT RAISE(ABORT, 'an entry is never replaced, only struck out'); END;
CREATE TRIGGER entry_kept BEFORE UPDATE ON entry BEGIN SELECT RAISE(ABORT, 'an entry is never changed, only struck out'); END;
CREATE TRIGGER entry_stays BEFORE DELETE ON entry BEGIN SELECT RAISE(ABORT, 'an entry is never deleted, only struck out'); END;
CREATE TRIGGER strike_kept BEFORE UPDATE ON strike BEGIN SELECT RAISE(ABORT, 'a strike is never changed'); END;
CREATE TRIGGER strike_stays BEFORE DELETE ON strike BEGIN SELECT RAISE(ABORT, 'a strike is never deleted'); END;
CREATE TRIGGER trace_kept BEFORE UPDATE ON trace BEGIN SELECT RAISE(ABORT, 'a trace is never changed'); END;
CREATE TRIGGER trace_stays BEFORE DELETE ON trace BEGIN SELECT RAISE(ABORT, 'a trace is never deleted'); END;
CREATE TRIGGER conclusion_part_kept BEFORE UPDATE ON conclusion_part BEGIN SELECT RAISE(ABORT, 'a conclusion is never changed'); END;
CREATE TRIGGER conclusion_part_stays BEFORE DELETE ON conclusion_part BEGIN SELECT RAISE(ABORT, 'a conclusion is never deleted'); END;
CREATE TRIGGER conclusion_basis_kept BEFORE UPDATE ON conclusion_basis BEGIN SELECT RAISE(ABORT, 'a conclusion is never changed'); END;
CREATE TRIGGER conclusion_basis_stays BEFORE DELETE ON conclusion_basis BEGIN SELECT RAISE(ABORT, 'a conclusion is never deleted'); END;
CREATE TRIGGER entry_file_kept BEFORE UPDATE ON entry_file BEGIN SELECT RAISE(ABORT, 'a file of an entry is never changed'); END;
CREATE TRIGGER entry_file_stays BEFORE DELETE ON entry_file BEGIN SELECT RAISE(ABORT, 'a file of an entry is never deleted'); END;
