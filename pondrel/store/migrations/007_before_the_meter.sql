-- A vehicle is more than a name. What it was called before is kept whenever that is changed.
ALTER TABLE vehicle ADD COLUMN vin TEXT NOT NULL DEFAULT '';
ALTER TABLE vehicle ADD COLUMN volts REAL;
ALTER TABLE vehicle ADD COLUMN unit TEXT NOT NULL DEFAULT 'km';
ALTER TABLE vehicle ADD COLUMN options TEXT NOT NULL DEFAULT '';

CREATE TABLE vehicle_before (
    id INTEGER PRIMARY KEY,
    vehicle_id INTEGER NOT NULL REFERENCES vehicle (id),
    facts TEXT NOT NULL CHECK (json_valid(facts)),
    changed_at TEXT NOT NULL
);
CREATE INDEX vehicle_before_vehicle ON vehicle_before (vehicle_id, id);
CREATE TRIGGER vehicle_changed BEFORE UPDATE ON vehicle BEGIN
    INSERT INTO vehicle_before (vehicle_id, facts, changed_at)
    VALUES (
        OLD.id,
        json_object('name', OLD.name, 'make', OLD.make, 'model', OLD.model, 'year', OLD.year, 'plate', OLD.plate, 'note', OLD.note,
                    'vin', OLD.vin, 'volts', OLD.volts, 'unit', OLD.unit, 'options', OLD.options),
        strftime('%Y-%m-%dT%H:%M:%SZ', 'now')
    );
END;
-- The Bay's words hold the vehicle's name and plate.
CREATE TRIGGER vehicle_renamed AFTER UPDATE ON vehicle BEGIN
    UPDATE bay SET known = 0 WHERE vehicle_id = NEW.id;
END;
CREATE TRIGGER vehicle_stays BEFORE DELETE ON vehicle BEGIN SELECT RAISE(ABORT, 'a vehicle is never deleted'); END;

-- Notes, mileages and parts fitted: a record of the vehicle's own, added to and never changed.
CREATE TABLE vehicle_entry (
    id INTEGER PRIMARY KEY,
    vehicle_id INTEGER NOT NULL REFERENCES vehicle (id),
    job_id INTEGER REFERENCES job (id),
    kind TEXT NOT NULL CHECK (kind <> ''),
    content TEXT NOT NULL CHECK (json_valid(content) AND json_type(content) = 'object'),
    person TEXT NOT NULL DEFAULT '',
    made_at TEXT NOT NULL
);
CREATE INDEX vehicle_entry_vehicle ON vehicle_entry (vehicle_id, id);
CREATE TABLE vehicle_strike (
    entry_id INTEGER PRIMARY KEY REFERENCES vehicle_entry (id),
    reason TEXT NOT NULL CHECK (reason <> ''),
    person TEXT NOT NULL DEFAULT '',
    struck_at TEXT NOT NULL
);
CREATE TRIGGER vehicle_entry_once BEFORE INSERT ON vehicle_entry WHEN EXISTS (SELECT 1 FROM vehicle_entry WHERE vehicle_entry.id = NEW.id)
BEGIN SELECT RAISE(ABORT, 'an entry is never replaced, only struck out'); END;
CREATE TRIGGER vehicle_entry_kept BEFORE UPDATE ON vehicle_entry
BEGIN SELECT RAISE(ABORT, 'an entry is never changed, only struck out'); END;
CREATE TRIGGER vehicle_entry_stays BEFORE DELETE ON vehicle_entry
BEGIN SELECT RAISE(ABORT, 'an entry is never deleted, only struck out'); END;
CREATE TRIGGER vehicle_strike_kept BEFORE UPDATE ON vehicle_strike BEGIN SELECT RAISE(ABORT, 'a strike is never changed'); END;
CREATE TRIGGER vehicle_strike_stays BEFORE DELETE ON vehicle_strike BEGIN SELECT RAISE(ABORT, 'a strike is never deleted'); END;

-- What a sheet says of itself in words, by where it says it, so that circuits can be proposed without reading every sheet. Made anew.
ALTER TABLE sheet_summary ADD COLUMN words TEXT NOT NULL DEFAULT '';
DELETE FROM sheet_summary;

-- A workshop's own lists of usual causes, by whose lists they are; the last table of an origin counts.
CREATE TABLE cause_table (
    id INTEGER PRIMARY KEY,
    origin TEXT NOT NULL CHECK (origin <> ''),
    lists TEXT NOT NULL CHECK (json_valid(lists)),
    person TEXT NOT NULL DEFAULT '',
    made_at TEXT NOT NULL
);
CREATE TRIGGER cause_table_kept BEFORE UPDATE ON cause_table BEGIN SELECT RAISE(ABORT, 'a table of causes is never changed'); END;
CREATE TRIGGER cause_table_stays BEFORE DELETE ON cause_table BEGIN SELECT RAISE(ABORT, 'a table of causes is never deleted'); END;

-- Where a job stands is reckoned anew: what is told of the complaint counts now.
UPDATE bay SET known = 0;
