-- Of the conclusions of a job at most one stands. Where two did, the later one goes on standing and the earlier is reopened, saying so.
INSERT INTO reopening (conclusion_id, reason, reopened_at)
SELECT earlier.id, 'two conclusions stood at once: the later one stands', strftime('%Y-%m-%dT%H:%M:%SZ', 'now')
FROM conclusion AS earlier
WHERE NOT EXISTS (SELECT 1 FROM reopening WHERE reopening.conclusion_id = earlier.id)
  AND EXISTS (
    SELECT 1 FROM conclusion AS later
    WHERE later.job_id = earlier.job_id AND later.id > earlier.id
      AND NOT EXISTS (SELECT 1 FROM reopening WHERE reopening.conclusion_id = later.id)
  );

CREATE TABLE standing_conclusion (
    job_id INTEGER PRIMARY KEY REFERENCES job (id),
    conclusion_id INTEGER NOT NULL UNIQUE REFERENCES conclusion (id)
);
INSERT INTO standing_conclusion (job_id, conclusion_id)
SELECT job_id, id FROM conclusion
WHERE NOT EXISTS (SELECT 1 FROM reopening WHERE reopening.conclusion_id = conclusion.id);

-- Where each job stands in the Bay, so that a page of it is read without looking at every job.
CREATE TABLE bay (
    job_id INTEGER PRIMARY KEY REFERENCES job (id),
    done INTEGER NOT NULL CHECK (done IN (0, 1)),
    opened_at TEXT NOT NULL
);
CREATE INDEX bay_order ON bay (done, opened_at DESC, job_id DESC);
INSERT INTO bay (job_id, done, opened_at)
SELECT id, EXISTS (SELECT 1 FROM standing_conclusion WHERE standing_conclusion.job_id = job.id), opened_at FROM job;

CREATE TRIGGER job_opened AFTER INSERT ON job BEGIN
    INSERT INTO bay (job_id, done, opened_at) VALUES (NEW.id, 0, NEW.opened_at);
END;
CREATE TRIGGER conclusion_stands AFTER INSERT ON conclusion BEGIN
    INSERT INTO standing_conclusion (job_id, conclusion_id) VALUES (NEW.job_id, NEW.id);
    UPDATE bay SET done = 1 WHERE job_id = NEW.job_id;
END;
CREATE TRIGGER conclusion_withdrawn AFTER INSERT ON reopening BEGIN
    UPDATE bay SET done = 0 WHERE job_id = (SELECT job_id FROM conclusion WHERE conclusion.id = NEW.conclusion_id);
    DELETE FROM standing_conclusion WHERE conclusion_id = NEW.conclusion_id;
END;

-- Kept beside the record and made from it: what a list needs without working anything out. Both can be lost and made anew.
CREATE TABLE sheet_summary (
    sheet_id INTEGER PRIMARY KEY REFERENCES sheet (id),
    parts INTEGER NOT NULL,
    places INTEGER NOT NULL,
    states INTEGER NOT NULL,
    limits INTEGER NOT NULL,
    note TEXT NOT NULL,
    flaw TEXT NOT NULL DEFAULT ''
);
-- readings and last_id say which evidence it was worked out from.
CREATE TABLE outlook (
    job_id INTEGER PRIMARY KEY REFERENCES job (id),
    readings INTEGER NOT NULL,
    last_id INTEGER NOT NULL,
    ready INTEGER NOT NULL CHECK (ready IN (0, 1)),
    says TEXT NOT NULL
);

-- What a database was made as: 'demo' may be thrown away by a reset, anything else never.
CREATE TABLE depot (made_as TEXT NOT NULL);
