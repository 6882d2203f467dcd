BEGIN TRANSACTION;
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
INSERT INTO "bay" VALUES(1,1,0,'Remedy','dddhaa','found: waits for the repair','ground stud in the step well (G3)','','all three door lamps dim bus 4 mw 2217 step lights with a shared ground ground stud in the step well (g3)',10,'2026-11-20T09:05:00Z','Oda',2,'2026-11-20T07:40:00Z');
INSERT INTO "bay" VALUES(2,1,0,'Trace','dphaaa','waits for the next reading','','','tail-lift does not rise, lowers normally library 2 mw 4410 tail-lift pump and lowering valve ',10,'2026-11-23T08:11:00Z','Wim',1,'2026-11-23T08:05:00Z');
INSERT INTO "bay" VALUES(3,1,0,'Trace','dphaaa','waits for the next reading','','','rear glass clears slowly and unevenly yard van mw 0903 heated rear glass ',3,'2026-11-23T13:28:00Z','Oda',3,'2026-11-23T13:20:00Z');
INSERT INTO "bay" VALUES(4,1,0,'Look','dhaaaa','waits for a look, or the first reading','','','no light at the door at all bus 4 mw 2217 step lights with a shared ground ',0,NULL,'',2,'2026-11-24T06:50:00Z');
INSERT INTO "bay" VALUES(5,1,3,'Report','dpdddd','handed over','alternator bracket (G1)','','battery flat after a day of short rounds yard van mw 0903 charging circuit of the yard van alternator bracket (g1)',15,'2026-11-18T08:25:00Z','Wim',3,'2026-11-18T07:15:00Z');
INSERT INTO "bay" VALUES(6,1,1,'Remedy','dddhaa','waits for a part: left vent valve, ordered Thursday, promised for Friday week','left vent valve (Y1)','','left front does not kneel bus 4 mw 2217 kneeling valves at the front axle left vent valve (y1)',6,'2026-11-19T13:35:00Z','Wim',2,'2026-11-19T13:05:00Z');
INSERT INTO "bay" VALUES(7,1,0,'Complaint','haaaaa','ask when it is there, and what was done before','','','reversing bleeper silent library 2 mw 4410 ',1,'2026-11-24T08:32:00Z','',1,'2026-11-24T08:30:00Z');
INSERT INTO "bay" VALUES(8,1,2,'Trace','dphaaa','put aside: The lorry is on its round until the 30th; it cannot be looked at before.','','','reading-room light goes out too soon library 2 mw 4410 reading-room light with delayed switch-off ',2,'2026-11-17T15:49:00Z','Oda',1,'2026-11-17T15:40:00Z');
INSERT INTO "bay" VALUES(9,1,0,'Look','dhaaaa','make it show itself: move one thing at a time, and watch','','','cart stops under the pedal yard cart  ',4,'2026-11-25T09:30:00Z','Wim',5,'2026-11-25T09:10:00Z');
INSERT INTO "bay" VALUES(10,1,0,'Trace','ddhaaa','waits for the next reading','','','temperature gauge stays low, fuel gauge too old van mw 118 fuel and temperature gauge on a pulsing regulator ',9,'2026-11-24T10:51:00Z','Oda',4,'2026-11-24T10:15:00Z');
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
INSERT INTO "bench_check" VALUES(1,'coil','Roof unit clutch',2,NULL,'',NULL,'{"settings": [["sort", "compressor clutch"]], "reads": [["ohms", "3.58 @20C"]], "limits": ["ohms 3.40..3.70 @20C (maker: Hollin data sheet 12, demo)"], "points": "", "meter": "Yellow meter"}','within limits','3.58 Ω at 20 °C, within 3.40 Ω to 3.70 Ω.',3.58,'Ω','Oda','2026-03-12T09:10:00Z');
INSERT INTO "bench_check" VALUES(2,'coil','Roof unit clutch',3,NULL,'',NULL,'{"settings": [["sort", "compressor clutch"]], "reads": [["ohms", "3.61 @24C"]], "limits": ["ohms 3.40..3.70 @20C (maker: Hollin data sheet 12, demo)"], "points": "", "meter": "Yellow meter"}','within limits','3.61 Ω at 24 °C is 3.55 Ω at 20 °C, within 3.40 Ω to 3.70 Ω.',3.55412909069428550878e+00,'Ω','Wim','2026-04-02T11:40:00Z');
INSERT INTO "bench_check" VALUES(3,'coil','Roof unit clutch',4,NULL,'',NULL,'{"settings": [["sort", "compressor clutch"]], "reads": [["ohms", "3.72 @38C"]], "limits": ["ohms 3.40..3.70 @20C (maker: Hollin data sheet 12, demo)"], "points": "", "meter": "Yellow meter"}','within limits','3.72 Ω at 38 °C is 3.47 Ω at 20 °C, within 3.40 Ω to 3.70 Ω.',3.47423277359583071444e+00,'Ω','Oda','2026-05-20T15:05:00Z');
INSERT INTO "bench_check" VALUES(4,'coil','Roof unit clutch',5,NULL,'',NULL,'{"settings": [["sort", "compressor clutch"]], "reads": [["ohms", "3.55 @19C"]], "limits": ["ohms 3.40..3.70 @20C (maker: Hollin data sheet 12, demo)"], "points": "", "meter": "Yellow meter"}','within limits','3.55 Ω at 19 °C is 3.56 Ω at 20 °C, within 3.40 Ω to 3.70 Ω.',3.56400654572469788305e+00,'Ω','Oda','2026-06-11T08:20:00Z');
INSERT INTO "bench_check" VALUES(5,'coil','Roof unit clutch',1,NULL,'',NULL,'{"settings": [["sort", "compressor clutch"], ["hot", "90"], ["supply", "12.1"], ["joint", "0.25"], ["gap", "0.5"], ["gap_read", "0.5"]], "reads": [["ohms", "4.28 @38C"], ["pull_in", "8.90 @38C"], ["click", "yes"], ["twin", "3.58 @20C"]], "limits": ["ohms 3.40..3.70 @20C (maker: Hollin data sheet 12, demo)"], "points": "", "meter": "Yellow meter"}','outside limits','4.28 Ω at 38 °C is 4.00 Ω at 20 °C, above 3.70 Ω. A bad joint or a break inside, or the wrong coil; not shorted turns.',3.9972355567177841884e+00,'Ω','Wim','2026-11-25T10:15:00Z');
INSERT INTO "bench_check" VALUES(6,'coil','Roof unit clutch',1,NULL,'',5,'{"settings": [["sort", "compressor clutch"], ["hot", "90"], ["supply", "12.1"], ["joint", "0.25"]], "reads": [["ohms", "3.57 @21C"], ["pull_in", "7.60 @21C"], ["click", "yes"]], "limits": ["ohms 3.40..3.70 @20C (maker: Hollin data sheet 12, demo)"], "points": "", "meter": "Yellow meter"}','within limits','3.57 Ω at 21 °C is 3.56 Ω at 20 °C, within 3.40 Ω to 3.70 Ω.',3.55602482244778039799e+00,'Ω','Wim','2026-11-25T10:40:00Z');
INSERT INTO "bench_check" VALUES(7,'valve','Tank vent valve',3,NULL,'',NULL,'{"settings": [["rest", "closed"]], "reads": [["ohms", "26.4"], ["click", "yes"], ["holds", "no"], ["passes", "yes"]], "limits": [], "points": "", "meter": "Yellow meter"}','outside limits','It holds where it must be shut: no. It leaks by: it has failed whatever its ohms are.',26.4,'Ω','Oda','2026-11-24T16:30:00Z');
CREATE TABLE cause_table (
    id INTEGER PRIMARY KEY,
    origin TEXT NOT NULL CHECK (origin <> ''),
    lists TEXT NOT NULL CHECK (json_valid(lists)),
    person TEXT NOT NULL DEFAULT '',
    made_at TEXT NOT NULL
);
CREATE TABLE conclusion_basis (
    entry_id INTEGER NOT NULL REFERENCES entry (id),
    basis_id INTEGER NOT NULL REFERENCES entry (id),
    PRIMARY KEY (entry_id, basis_id)
) WITHOUT ROWID;
INSERT INTO "conclusion_basis" VALUES(10,9);
INSERT INTO "conclusion_basis" VALUES(34,32);
INSERT INTO "conclusion_basis" VALUES(44,41);
INSERT INTO "conclusion_basis" VALUES(44,42);
INSERT INTO "conclusion_basis" VALUES(44,43);
CREATE TABLE conclusion_part (
    entry_id INTEGER NOT NULL REFERENCES entry (id),
    place INTEGER NOT NULL,
    part TEXT NOT NULL CHECK (part <> ''),
    PRIMARY KEY (entry_id, place)
) WITHOUT ROWID;
INSERT INTO "conclusion_part" VALUES(10,1,'G3');
INSERT INTO "conclusion_part" VALUES(34,1,'G1');
INSERT INTO "conclusion_part" VALUES(44,1,'Y1');
CREATE TABLE conclusion_standing (
    job_id INTEGER NOT NULL REFERENCES "job" (id),
    trace_id INTEGER NOT NULL,
    entry_id INTEGER NOT NULL UNIQUE REFERENCES entry (id),
    PRIMARY KEY (job_id, trace_id)
) WITHOUT ROWID;
INSERT INTO "conclusion_standing" VALUES(1,1,10);
INSERT INTO "conclusion_standing" VALUES(5,5,34);
INSERT INTO "conclusion_standing" VALUES(6,6,44);
CREATE TABLE correction (
    id INTEGER PRIMARY KEY,
    sheet_id INTEGER NOT NULL REFERENCES sheet (id),
    vehicle_id INTEGER REFERENCES vehicle (id),
    part TEXT NOT NULL DEFAULT '',
    says TEXT NOT NULL CHECK (says <> ''),
    person TEXT NOT NULL DEFAULT '',
    made_at TEXT NOT NULL
);
INSERT INTO "correction" VALUES(1,6,3,'C20.1','Plug C20 has a third pin since the camera was fitted; pins 1 and 2 are as drawn.','Oda','2026-11-02T15:10:00Z');
INSERT INTO "correction" VALUES(2,10,1,'W10','W10 runs over the chassis rail here, about a metre longer than drawn.','Wim','2026-10-14T09:30:00Z');
CREATE TABLE correction_step (
    correction_id INTEGER PRIMARY KEY REFERENCES correction (id),
    step TEXT NOT NULL CHECK (json_valid(step))
);
CREATE TABLE depot (made_as TEXT NOT NULL);
INSERT INTO "depot" VALUES('demo');
CREATE TABLE draft (
    id INTEGER PRIMARY KEY,
    sheet_id INTEGER REFERENCES sheet (id),
    job_id INTEGER REFERENCES job (id),
    person TEXT NOT NULL DEFAULT '',
    made_at TEXT NOT NULL
, trace_id INTEGER REFERENCES trace (id));
CREATE TABLE draft_kept (
    draft_id INTEGER PRIMARY KEY REFERENCES draft (id),
    sheet_id INTEGER NOT NULL REFERENCES sheet (id),
    kept_at TEXT NOT NULL
);
CREATE TABLE draft_move (
    id INTEGER PRIMARY KEY,
    draft_id INTEGER NOT NULL REFERENCES draft (id),
    step_id INTEGER NOT NULL REFERENCES draft_step (id),
    made_at TEXT NOT NULL
);
CREATE TABLE draft_step (
    id INTEGER PRIMARY KEY,
    draft_id INTEGER NOT NULL REFERENCES draft (id),
    before_id INTEGER REFERENCES draft_step (id),
    text TEXT NOT NULL,
    words TEXT NOT NULL DEFAULT '',
    made_at TEXT NOT NULL
, step TEXT NOT NULL DEFAULT '' CHECK (step = '' OR json_valid(step)));
CREATE TABLE entry (
    id INTEGER PRIMARY KEY,
    job_id INTEGER NOT NULL REFERENCES "job" (id),
    trace_id INTEGER,
    kind TEXT NOT NULL CHECK (kind <> ''),
    content TEXT NOT NULL CHECK (json_valid(content) AND json_type(content) = 'object'),
    person TEXT NOT NULL DEFAULT '',
    made_at TEXT NOT NULL,
    FOREIGN KEY (job_id, trace_id) REFERENCES trace (job_id, id),
    CHECK (kind <> 'conclusion' OR json_extract(content, '$.proved') OR json_extract(content, '$.reason') <> '')
);
INSERT INTO "entry" VALUES(1,1,NULL,'complaint','{"often": "always", "tries": "", "under": "", "minutes": "", "since": "last month", "before": "The step well was washed out last month. The driver put in another rear lamp.", "text": "Also with the engine running."}','Oda','2026-11-20T07:42:00Z');
INSERT INTO "entry" VALUES(2,1,1,'when','{"state": "", "subject": "", "outcome": "always", "note": "as the customer told it"}','Oda','2026-11-20T07:44:00Z');
INSERT INTO "entry" VALUES(3,1,1,'renewed','{"state": "", "subject": "LA2", "outcome": "no help", "note": "from the parts fitted"}','Oda','2026-11-20T07:44:00Z');
INSERT INTO "entry" VALUES(4,1,1,'look','{"state": "", "subject": "G3", "outcome": "corroded", "note": "green crust under the ring terminal"}','Oda','2026-11-20T07:44:00Z');
INSERT INTO "entry" VALUES(5,1,NULL,'marks','{"file": "c757ef0ecba71a079dd885e4803c72ff7e292e2705a76c0f2fc0ad16ee76df0c", "marks": "[[0.4, 0.62, \"green crust\"], [0.6, 0.48, \"ring terminal\"]]"}','Oda','2026-11-20T07:44:00Z');
INSERT INTO "entry" VALUES(6,1,1,'reading','{"state": "open", "instrument": "volts", "red": "batt+", "black": "batt-", "value": "12.47", "note": "", "unplugged": ""}','Oda','2026-11-20T07:45:00Z');
INSERT INTO "entry" VALUES(7,1,1,'reading','{"state": "open", "instrument": "volts", "red": "la2.feed", "black": "batt-", "value": "12.15", "note": "", "unplugged": ""}','Oda','2026-11-20T07:46:00Z');
INSERT INTO "entry" VALUES(8,1,1,'reading','{"state": "open", "instrument": "volts", "red": "la2.gnd", "black": "batt-", "value": "3.81", "note": "", "unplugged": ""}','Oda','2026-11-20T07:47:00Z');
INSERT INTO "entry" VALUES(9,1,1,'reading','{"state": "open", "instrument": "volts", "red": "g3", "black": "batt-", "value": "3.76", "note": "", "unplugged": ""}','Oda','2026-11-20T07:48:00Z');
INSERT INTO "entry" VALUES(10,1,1,'conclusion','{"says": "ground stud in the step well (G3)", "reason": "", "faulty": true, "proved": true, "probability": 0.9999977135583361}','Oda','2026-11-20T09:05:00Z');
INSERT INTO "entry" VALUES(11,2,NULL,'complaint','{"often": "sometimes", "tries": "4 of 5", "under": "load,bumps", "minutes": "", "since": "Tuesday", "before": "", "text": "At first only with a full load of crates."}','Wim','2026-11-23T08:07:00Z');
INSERT INTO "entry" VALUES(12,2,2,'when','{"state": "", "subject": "", "outcome": "sometimes", "note": "as the customer told it"}','Wim','2026-11-23T08:08:00Z');
INSERT INTO "entry" VALUES(13,2,2,'during','{"state": "", "subject": "", "outcome": "bumps", "note": "as the customer told it"}','Wim','2026-11-23T08:08:00Z');
INSERT INTO "entry" VALUES(14,2,2,'during','{"state": "", "subject": "", "outcome": "load", "note": "as the customer told it"}','Wim','2026-11-23T08:08:00Z');
INSERT INTO "entry" VALUES(15,2,2,'said','{"state": "raise", "subject": "pump", "outcome": "stopped", "note": "as the customer told it"}','Wim','2026-11-23T08:08:00Z');
INSERT INTO "entry" VALUES(16,2,2,'said','{"state": "raise", "subject": "contactor", "outcome": "silent", "note": "as the customer told it"}','Wim','2026-11-23T08:08:00Z');
INSERT INTO "entry" VALUES(17,2,2,'said','{"state": "lower", "subject": "platform", "outcome": "moves", "note": "as the customer told it"}','Wim','2026-11-23T08:08:00Z');
INSERT INTO "entry" VALUES(18,2,NULL,'authorised','{"minutes": "45", "who": "the librarian"}','Wim','2026-11-23T08:09:00Z');
INSERT INTO "entry" VALUES(19,2,2,'reading','{"state": "raise", "instrument": "volts", "red": "f21.out", "black": "batt-", "value": "12.49", "note": "", "unplugged": ""}','Wim','2026-11-23T08:10:00Z');
INSERT INTO "entry" VALUES(20,2,2,'reading','{"state": "lower", "instrument": "volts", "red": "y3.feed", "black": "batt-", "value": "12.35", "note": "", "unplugged": ""}','Wim','2026-11-23T08:11:00Z');
INSERT INTO "entry" VALUES(21,3,3,'reading','{"state": "on", "instrument": "volts", "red": "batt+", "black": "batt-", "value": "12.42", "note": "", "unplugged": ""}','Oda','2026-11-23T13:25:00Z');
INSERT INTO "entry" VALUES(22,3,3,'reading','{"state": "on", "instrument": "volts", "red": "tab.feed", "black": "batt-", "value": "5.57", "note": "read off upside down", "unplugged": ""}','Oda','2026-11-23T13:26:00Z');
INSERT INTO "entry" VALUES(23,3,3,'reading','{"state": "on", "instrument": "volts", "red": "tab.feed", "black": "batt-", "value": "9.57", "note": "", "unplugged": ""}','Oda','2026-11-23T13:27:00Z');
INSERT INTO "entry" VALUES(24,3,3,'reading','{"state": "on", "instrument": "volts", "red": "tab.gnd", "black": "batt-", "value": "0.11", "note": "", "unplugged": ""}','Oda','2026-11-23T13:28:00Z');
INSERT INTO "entry" VALUES(25,5,NULL,'roll_call','{"answered": "engine module, dash module", "silent": ""}','Wim','2026-11-18T07:19:00Z');
INSERT INTO "entry" VALUES(26,5,NULL,'scan','{"codes": "[{\"code\":\"P0562\",\"failure\":\"16\",\"status\":\"stored\",\"module\":\"engine module\",\"text\":\"system voltage low\",\"frame\":[[\"rpm\",\"780\"],[\"volts\",\"12.6\"]]},{\"code\":\"U0140\",\"failure\":\"87\",\"status\":\"history\",\"module\":\"engine module\"}]", "text": "engine running"}','Wim','2026-11-18T07:21:00Z');
INSERT INTO "entry" VALUES(27,5,NULL,'code_note','{"code": "U0140-87", "self_made": true, "text": "the battery was off for the belt in October"}','Wim','2026-11-18T07:22:00Z');
INSERT INTO "entry" VALUES(28,5,NULL,'caution','{"text": "The engine turns: sleeves, hair and leads away from belt and fan, gear out, brake on. A fan may start by itself.", "by": ""}','Wim','2026-11-18T07:24:00Z');
INSERT INTO "entry" VALUES(29,5,5,'reading','{"state": "charging loaded", "instrument": "volts", "red": "batt+", "black": "batt-", "value": "13.09", "note": "", "unplugged": ""}','Wim','2026-11-18T07:27:00Z');
INSERT INTO "entry" VALUES(30,5,5,'reading','{"state": "charging loaded", "instrument": "volts", "red": "block", "black": "batt-", "value": "0.04", "note": "", "unplugged": ""}','Wim','2026-11-18T07:29:00Z');
INSERT INTO "entry" VALUES(31,5,5,'reading','{"state": "charging loaded", "instrument": "volts", "red": "alt.case", "black": "batt-", "value": "-0.75", "note": "", "unplugged": ""}','Wim','2026-11-18T07:39:00Z');
INSERT INTO "entry" VALUES(32,5,5,'reading','{"state": "charging loaded", "instrument": "volts", "red": "block", "black": "alt.case", "value": "0.71", "note": "", "unplugged": ""}','Wim','2026-11-18T07:40:00Z');
INSERT INTO "entry" VALUES(33,5,5,'wiggle','{"state": "charging loaded", "subject": "G1", "outcome": "changed", "note": ""}','Wim','2026-11-18T07:41:00Z');
INSERT INTO "entry" VALUES(34,5,5,'conclusion','{"says": "alternator bracket (G1)", "reason": "", "faulty": true, "proved": true, "probability": 0.9999974389090814}','Wim','2026-11-18T07:46:00Z');
INSERT INTO "entry" VALUES(35,5,NULL,'remedy','{"text": "Bracket faces cleaned to bare metal, bolts to the torque of the workshop''s table, greased outside.", "part": "G1"}','Wim','2026-11-18T08:10:00Z');
INSERT INTO "entry" VALUES(36,5,NULL,'proof','{"works": "yes", "text": "Charging, lights and blower on: 13.81 V at the battery, 0.04 V from alternator case to battery minus."}','Wim','2026-11-18T08:16:00Z');
INSERT INTO "entry" VALUES(37,5,NULL,'cleared','{"text": "to see whether the low voltage comes back"}','Wim','2026-11-18T08:18:00Z');
INSERT INTO "entry" VALUES(38,5,NULL,'scan','{"codes": "[]", "text": "engine running, lights on"}','Wim','2026-11-18T08:21:00Z');
INSERT INTO "entry" VALUES(39,5,NULL,'report','{"text": "To the morning driver. Battery charged overnight, to be tested again in two weeks."}','Wim','2026-11-18T08:25:00Z');
INSERT INTO "entry" VALUES(40,6,6,'caution','{"text": "The left front sinks - nobody under or beside it", "by": ""}','Wim','2026-11-19T13:11:00Z');
INSERT INTO "entry" VALUES(41,6,6,'see','{"state": "kneel left", "subject": "left valve", "outcome": "still", "note": ""}','Wim','2026-11-19T13:13:00Z');
INSERT INTO "entry" VALUES(42,6,6,'reading','{"state": "ready", "instrument": "volts", "red": "y1.1", "black": "batt-", "value": "24.9", "note": "", "unplugged": ""}','Wim','2026-11-19T13:22:00Z');
INSERT INTO "entry" VALUES(43,6,6,'reading','{"state": "parked", "instrument": "ohms", "red": "y1.1", "black": "y1.2", "value": "OL", "note": "", "unplugged": ""}','Wim','2026-11-19T13:24:00Z');
INSERT INTO "entry" VALUES(44,6,6,'conclusion','{"says": "left vent valve (Y1)", "reason": "coil open on the bench as well", "faulty": true, "proved": false, "probability": 0.9927555533143056}','Wim','2026-11-19T13:26:00Z');
INSERT INTO "entry" VALUES(45,6,NULL,'waits','{"for": "a part", "text": "left vent valve, ordered Thursday, promised for Friday week"}','Wim','2026-11-19T13:35:00Z');
INSERT INTO "entry" VALUES(46,7,NULL,'note','{"text": "Driver says it came back by itself once after a bump."}','','2026-11-24T08:32:00Z');
INSERT INTO "entry" VALUES(47,8,7,'reading','{"state": "open", "instrument": "volts", "red": "batt+", "black": "batt-", "value": "12.05", "note": "", "unplugged": ""}','Oda','2026-11-17T15:44:00Z');
INSERT INTO "entry" VALUES(48,8,NULL,'aside','{"text": "The lorry is on its round until the 30th; it cannot be looked at before."}','Oda','2026-11-17T15:49:00Z');
INSERT INTO "entry" VALUES(49,9,NULL,'complaint','{"often": "sometimes", "tries": "3 of 10", "under": "load,bumps", "minutes": "", "since": "the autumn sale", "before": "The driver lets go and presses again, then it goes on. Nobody has opened anything.", "text": "It never stops on the flat without a load."}','Wim','2026-11-25T09:14:00Z');
INSERT INTO "entry" VALUES(50,9,NULL,'scan','{"codes": "[{\"code\":\"flash 3-1\",\"status\":\"history\",\"module\":\"drive unit\",\"text\":\"throttle\"}]", "text": "key on, wheels off the ground"}','Wim','2026-11-25T09:19:00Z');
INSERT INTO "entry" VALUES(51,9,NULL,'note','{"text": "Two of the floor screws are seized."}','Wim','2026-11-25T09:22:00Z');
INSERT INTO "entry" VALUES(52,9,NULL,'flexed','{"moved": "each plug in turn", "did": "no change", "text": "the hum of the contactor"}','Wim','2026-11-25T09:30:00Z');
INSERT INTO "entry" VALUES(53,10,NULL,'complaint','{"often": "always", "tries": "", "under": "", "minutes": "", "since": "the weekend", "before": "The driver put in another temperature sender on Saturday.", "text": ""}','Oda','2026-11-24T10:18:00Z');
INSERT INTO "entry" VALUES(54,10,8,'when','{"state": "", "subject": "", "outcome": "always", "note": "as the customer told it"}','Oda','2026-11-24T10:21:00Z');
INSERT INTO "entry" VALUES(55,10,8,'renewed','{"state": "", "subject": "R2", "outcome": "no help", "note": "from the parts fitted"}','Oda','2026-11-24T10:21:00Z');
INSERT INTO "entry" VALUES(56,10,8,'said','{"state": "warm and full", "subject": "fuel", "outcome": "low", "note": "as the customer told it"}','Oda','2026-11-24T10:23:00Z');
INSERT INTO "entry" VALUES(57,10,8,'said','{"state": "warm and full", "subject": "temperature", "outcome": "low", "note": "as the customer told it"}','Oda','2026-11-24T10:23:00Z');
INSERT INTO "entry" VALUES(58,10,8,'reading','{"state": "warm and full", "instrument": "volts", "red": "s1.out", "black": "batt-", "value": "12.31", "note": "", "unplugged": ""}','Oda','2026-11-24T10:29:00Z');
INSERT INTO "entry" VALUES(59,10,8,'look','{"state": "", "subject": "G31", "outcome": "corroded", "note": "the strap to the tank is green at the frame"}','Oda','2026-11-24T10:35:00Z');
INSERT INTO "entry" VALUES(60,10,8,'action','{"text": "strap off, cleaned to bare metal, bolted on again", "deed": "cleaned", "part": "G31"}','Oda','2026-11-24T10:46:00Z');
INSERT INTO "entry" VALUES(61,10,8,'see','{"state": "warm and full", "subject": "fuel", "outcome": "low", "note": ""}','Oda','2026-11-24T10:51:00Z');
CREATE TABLE entry_file (
    entry_id INTEGER NOT NULL REFERENCES entry (id),
    place INTEGER NOT NULL,
    digest TEXT NOT NULL REFERENCES file (digest),
    name TEXT NOT NULL,
    PRIMARY KEY (entry_id, place)
) WITHOUT ROWID;
INSERT INTO "entry_file" VALUES(4,0,'c757ef0ecba71a079dd885e4803c72ff7e292e2705a76c0f2fc0ad16ee76df0c','ground_stud.jpg');
INSERT INTO "entry_file" VALUES(60,0,'c757ef0ecba71a079dd885e4803c72ff7e292e2705a76c0f2fc0ad16ee76df0c','ground_stud.jpg');
CREATE TABLE file (
    digest TEXT PRIMARY KEY CHECK (length(digest) = 64),
    media TEXT NOT NULL,
    bytes INTEGER NOT NULL CHECK (bytes > 0),
    added_at TEXT NOT NULL
) WITHOUT ROWID;
INSERT INTO "file" VALUES('c757ef0ecba71a079dd885e4803c72ff7e292e2705a76c0f2fc0ad16ee76df0c','image/jpeg',28224,'2026-11-27T11:50:45Z');
CREATE TABLE "job" (
    id INTEGER PRIMARY KEY,
    vehicle_id INTEGER NOT NULL REFERENCES vehicle (id),
    complaint TEXT NOT NULL CHECK (complaint <> ''),
    conditions TEXT NOT NULL DEFAULT '',
    person TEXT NOT NULL DEFAULT '',
    opened_at TEXT NOT NULL
);
INSERT INTO "job" VALUES(1,2,'All three door lamps dim','','Oda','2026-11-20T07:40:00Z');
INSERT INTO "job" VALUES(2,1,'Tail-lift does not rise, lowers normally','','Wim','2026-11-23T08:05:00Z');
INSERT INTO "job" VALUES(3,3,'Rear glass clears slowly and unevenly','Cold mornings. Tailgate plug was opened for the camera last winter.','Oda','2026-11-23T13:20:00Z');
INSERT INTO "job" VALUES(4,2,'No light at the door at all','Reported by the driver this morning, nothing tried yet.','','2026-11-24T06:50:00Z');
INSERT INTO "job" VALUES(5,3,'Battery flat after a day of short rounds','Worse with lights and blower on. Alternator was out for the belt in October.','Wim','2026-11-18T07:15:00Z');
INSERT INTO "job" VALUES(6,2,'Left front does not kneel','Since the frost. The right side kneels as always.','Wim','2026-11-19T13:05:00Z');
INSERT INTO "job" VALUES(7,1,'Reversing bleeper silent','','','2026-11-24T08:30:00Z');
INSERT INTO "job" VALUES(8,1,'Reading-room light goes out too soon','Only in the evening, after a long stop with the lights on.','Oda','2026-11-17T15:40:00Z');
INSERT INTO "job" VALUES(9,5,'Cart stops under the pedal','','Wim','2026-11-25T09:10:00Z');
INSERT INTO "job" VALUES(10,4,'Temperature gauge stays low, fuel gauge too','','Oda','2026-11-24T10:15:00Z');
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
INSERT INTO "meter" VALUES(1,'Yellow meter','the one in the van','{"V": [0.005, 2.0], "Ω": [0.009000000000000001, 2.0], "A": [0.015, 3.0], "F": [0.02, 4.0]}','[]',0.0,2.0,'',0,'2026-11-27T11:50:53Z');
INSERT INTO "meter" VALUES(2,'Old needle meter','for the shelf','{"V": [0.03, 1.0], "Ω": [0.05, 1.0]}','[100.0, 1000.0, 10000.0, 100000.0]',0.4,3.0,'',0,'2026-11-27T11:50:53Z');
CREATE TABLE outlook (
    trace_id INTEGER PRIMARY KEY REFERENCES trace (id),
    entries INTEGER NOT NULL,
    last_id INTEGER NOT NULL,
    ready INTEGER NOT NULL CHECK (ready IN (0, 1)),
    says TEXT NOT NULL
);
CREATE TABLE own_drawing (
    sheet_id INTEGER PRIMARY KEY REFERENCES sheet (id),
    library_id INTEGER NOT NULL REFERENCES sheet (id),
    vehicle_id INTEGER NOT NULL REFERENCES vehicle (id),
    made_at TEXT NOT NULL
);
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
INSERT INTO "own_limit" VALUES(1,1,1,'coil','Roof unit clutch','ohms 3.40..3.70 @20C (maker: Hollin data sheet 12, demo)','roof units of the Reader and the Hop','Oda',0,'2026-11-27T11:50:53Z');
INSERT INTO "own_limit" VALUES(2,2,1,'valve','Tank vent valve','ohms 24..30 @20C (maker: Quessel circuit book, demo)','closed at rest','Wim',0,'2026-11-27T11:50:53Z');
INSERT INTO "own_limit" VALUES(3,3,1,'stator','Yard cart stator','phase 45..60V (maker: Brennock sheet 3 at 1500 rpm, demo)','','Oda',0,'2026-11-27T11:50:53Z');
CREATE TABLE sheet (
    id INTEGER PRIMARY KEY,
    title TEXT NOT NULL,
    family TEXT NOT NULL DEFAULT '',
    digest TEXT NOT NULL UNIQUE,
    text TEXT NOT NULL,
    added_at TEXT NOT NULL
, replaces_id INTEGER REFERENCES sheet (id), note TEXT NOT NULL DEFAULT '');
INSERT INTO "sheet" VALUES(1,'Cabin heater with breaker and over-temperature switch','heaters','da9e840f12ee49ce8de70c896bdc4fe3a6e2df7c80aeecfc268e45f33e81802c','format: pondrel-sheet/1
title: Cabin heater with breaker and over-temperature switch
family: heaters
note: Two heating elements and their blower behind one thermal breaker; the relay only pulls while the blower''s air switch is made.
caution: Elements stay hot for minutes after they are switched off.
supply: {nominal: 25.2, unit: V}

access:
  heater_box: {minutes: 10, note: heater box cover - eight screws of two lengths}

places:
  batt+: {at: battery plus post, minutes: 1}
  q1.out: {at: breaker Q1 load stud, minutes: 1}
  k20.30: {at: relay K20 terminal 30, minutes: 1}
  k20.87: {at: relay K20 terminal 87, minutes: 1}
  k20.86: {at: relay K20 terminal 86, minutes: 1}
  k20.85: {at: relay K20 terminal 85, minutes: 1}
  m5.a: {at: blower plug pin 1, minutes: 1, behind: heater_box}
  m5.b: {at: blower plug pin 2, minutes: 1, behind: heater_box}
  e5.feed: {at: element 1 feed, minutes: 1, behind: heater_box, caution: Hot - let it cool}
  e6.feed: {at: element 2 feed, minutes: 1, behind: heater_box, caution: Hot - let it cool}
  e.gnd: {at: elements'' common ground stud, minutes: 1, behind: heater_box}
  batt-: {at: battery minus post, minutes: 0}

parts:
  BAT: {kind: battery, pins: {p: batt+, n: batt-}, ohms: 0.012, label: battery pair}
  Q1: {kind: breaker, pins: {a: batt+, b: q1.out}, rating: 60, ohms: 0.001, label: heater breaker}
  W90: {kind: wire, pins: {a: q1.out, b: k20.30}, length_m: 4.2, csa_mm2: 10, label: breaker to relay}
  S20: {kind: selector, pins: {c: q1.out, 1: s20.1, 2: s20.2}, label: heater switch}
  W91: {kind: wire, pins: {a: s20.1, b: m5.a}, length_m: 2.0, csa_mm2: 2.5, label: switch to blower}
  D1: {kind: diode, pins: {a: s20.2, k: s20.1}, forward: 0.85, ohms: 0.02, label: blower diode}
  M5: {kind: fan, pins: {a: m5.a, b: m5.b}, volts: 24, amps: 6, label: blower}
  G50: {kind: ground, pins: {a: m5.b, b: batt-}, label: blower ground}
  B5: {kind: pressure_switch, pins: {a: s20.2, b: k20.86}, threshold: 0.002, label: air-flow switch}
  K20: {kind: relay, pins: {"30": k20.30, "87": k20.87, "85": k20.85, "86": k20.86}, coil_ohms: 260, pull_in: 15, drop_out: 3, contact_ohms: 0.001, suppressor: resistor, suppressor_ohms: 2700, label: element relay}
  G51: {kind: ground, pins: {a: k20.85, b: batt-}, label: relay ground}
  W92: {kind: wire, pins: {a: k20.87, b: e5.feed}, length_m: 1.5, csa_mm2: 10, label: relay to element 1}
  W93: {kind: wire, pins: {a: e5.feed, b: e6.feed}, length_m: 0.3, csa_mm2: 6, label: element 1 to element 2}
  E5: {kind: heater, pins: {a: e5.feed, b: e.gnd}, volts: 24, watts: 500, label: element 1}
  E6: {kind: heater, pins: {a: e6.feed, b: e.gnd}, volts: 24, watts: 500, label: element 2}
  G52: {kind: ground, pins: {a: e.gnd, b: batt-}, ohms: 0.001, label: element ground}

states:
  "off": {}
  blow: {S20: 1, B5: 0.003}
  heat: {S20: 2, B5: 0.003, caution: The elements glow within seconds}
  heat without air: {S20: 2, B5: 0, note: "air switch unplugged or held open"}

limits:
  - {what: drop, from: e.gnd, to: batt-, state: heat, most: 0.3, source: "common practice: ground side of a heavy load"}
  - {what: drop, from: batt+, to: e5.feed, state: heat, most: 1.0, source: maker''s sheet of the heater (demo)}
  - {what: ohms, of: E5, least: 1.05, most: 1.25, temperature: 20, source: maker''s sheet of the heater (demo)}
  - {what: amps, of: Q1, state: heat, least: 38, most: 52, source: maker''s sheet of the heater (demo)}

observe:
  blower: {part: M5, sees: runs}
  element 1: {part: E5, sees: heats}
  element 2: {part: E6, sees: heats}
','2026-11-27T11:50:44Z',NULL,'');
INSERT INTO "sheet" VALUES(2,'Reading-room light with delayed switch-off','timed relays','16e60daafc3d6ea12bd71e442614f0011016fe1aa7c02ffd8276b4a21b0cb8f7','format: pondrel-sheet/1
title: Reading-room light with delayed switch-off
family: timed relays
note: The light stays on for a while after the door button is released; relay K12 keeps it by an RC delay.
supply: {nominal: 12.6, unit: V}

access:
  ceiling: {minutes: 8, note: ceiling panel with nine clips}

places:
  batt+: {at: battery plus post, minutes: 1}
  f11.out: {at: "fuse box, load side of F11", minutes: 1}
  k12.15: {at: relay K12 terminal 15, minutes: 1}
  k12.87: {at: relay K12 terminal 87, minutes: 1}
  k12.31: {at: relay K12 terminal 31, minutes: 1}
  e1.feed: {at: first ceiling light feed, minutes: 1, behind: ceiling}
  e1.gnd: {at: first ceiling light ground, minutes: 1, behind: ceiling}
  e2.gnd: {at: LED strip ground, minutes: 2, behind: ceiling}
  batt-: {at: battery minus post, minutes: 0}

parts:
  BAT: {kind: battery, pins: {p: batt+, n: batt-}, ohms: 0.01, label: battery}
  F11: {kind: fuse, pins: {a: batt+, b: f11.out}, rating: 10, label: interior light}
  S11: {kind: switch, pins: {a: f11.out, b: s11.out}, label: door button}
  W80: {kind: wire, pins: {a: s11.out, b: k12.15}, length_m: 3.4, csa_mm2: 0.5, label: button to relay}
  K12: {kind: timed_relay, pins: {"30": f11.out, "87": k12.87, "15": k12.15, "31": k12.31}, delays: "off", ohms: 330000, farads: 0.000047, label: delay relay}
  G40: {kind: ground, pins: {a: k12.31, b: batt-}, label: relay ground}
  W81: {kind: wire, pins: {a: k12.87, b: e1.feed}, length_m: 4.0, csa_mm2: 0.75, label: relay to ceiling}
  E1: {kind: lamp, pins: {a: e1.feed, b: e1.gnd}, watts: 10, label: ceiling light}
  E2: {kind: led, pins: {a: e1.feed, b: e2.gnd}, amps: 0.35, forward: 6.4, label: LED strip}
  G41: {kind: ground, pins: {a: e1.gnd, b: batt-}, label: ceiling ground}
  C31: {kind: contact, pins: {a: e2.gnd, b: e1.gnd}, label: LED strip terminal}

states:
  shut: {}
  open: {S11: closed, note: door button pressed or the delay still running}

limits:
  - {what: drop, from: e1.gnd, to: batt-, state: open, most: 0.1, source: "common practice: one connection"}
  - {what: volts, at: e1.feed, state: open, least: 11.8, source: "common practice: supply less 0.5 V"}

observe:
  ceiling light: {part: E1, sees: brightness}
  strip: {part: E2, sees: brightness}
','2026-11-27T11:50:44Z',NULL,'');
INSERT INTO "sheet" VALUES(3,'Charging circuit of the yard van','charging','dee9fe3ade8f253412904ae42dd4265184b3c149289128b28e2d2753888ee13a','format: pondrel-sheet/1
title: Charging circuit of the yard van
family: charging
note: Alternator, output cable with its fusible link, battery, and what the van draws at idle.
caution: Disconnect battery minus before you touch the alternator stud; belt and fan turn.
supply: {nominal: 12.6, unit: V}

access:
  shield: {minutes: 6, note: belt shield with three bolts}

places:
  batt+: {at: battery plus post, minutes: 0.5}
  clamp+: {at: battery plus clamp, minutes: 0.5}
  box: {at: main fuse box stud, minutes: 1}
  alt+: {at: alternator stud B+, minutes: 1, behind: shield, caution: Unfused - no rings and no spanner across to ground}
  alt.case: {at: alternator case, minutes: 1, behind: shield}
  block: {at: engine block, minutes: 1}
  batt-: {at: battery minus post, minutes: 0}

parts:
  BAT: {kind: battery, pins: {p: batt+, n: batt-}, ohms: 0.012, charge: 70, accepts: 12, label: battery}
  C1: {kind: contact, pins: {a: batt+, b: clamp+}, ohms: 0.0005, label: plus clamp}
  W1: {kind: wire, pins: {a: clamp+, b: box}, length_m: 0.8, csa_mm2: 16, label: battery to fuse box}
  FL1: {kind: fusible_link, pins: {a: box, b: fl1.out}, rating: 100, length_m: 0.2, csa_mm2: 6, label: charging link}
  W2: {kind: wire, pins: {a: fl1.out, b: alt+}, length_m: 1.8, csa_mm2: 16, label: output cable}
  GEN: {kind: alternator, pins: {p: alt+, n: alt.case}, volts: 14.3, amps: 75, ohms: 0.01, label: alternator}
  G1: {kind: ground, pins: {a: alt.case, b: block}, ohms: 0.0006, label: alternator bracket}
  G2: {kind: ground, pins: {a: block, b: batt-}, ohms: 0.001, label: engine ground strap}
  F1: {kind: fuse, pins: {a: box, b: f1.out}, rating: 40, label: van loads}
  S1: {kind: switch, pins: {a: f1.out, b: loads}, ohms: 0.003, label: "lights, blower and rear glass"}
  R1: {kind: resistor, pins: {a: loads, b: batt-}, ohms: 0.55, tolerance: 0.1, label: all loads together}

states:
  parked: {}
  loaded: {S1: closed, note: "engine off, loads on"}
  charging: {GEN: running, caution: Engine runs - keep leads off the belt}
  charging loaded: {GEN: running, S1: closed, caution: Engine runs - keep leads off the belt}

limits:
  - {what: volts, at: batt+, state: charging, least: 13.5, most: 14.7, source: "common practice: 13.5 to 14.7 V at idle"}
  - {what: volts, at: batt+, state: charging loaded, least: 13.5, most: 14.7, source: "common practice: 13.5 to 14.7 V loaded"}
  - {what: drop, from: alt+, to: batt+, state: charging loaded, most: 0.3, source: "common practice: alternator output cable"}
  - {what: drop, from: alt.case, to: batt-, state: charging loaded, most: 0.2, source: "common practice: ground side"}

codes:
  D-14 charging: {at: clamp+, state: charging, below: 13.0, meaning: battery below 13.0 V with the engine running}
','2026-11-27T11:50:44Z',NULL,'');
INSERT INTO "sheet" VALUES(4,'Fuel and temperature gauge on a pulsing regulator','instruments','6af34ed9461860ac036d84f787c2002511535cc587adf9145a376897caf708a2','format: pondrel-sheet/1
title: Fuel and temperature gauge on a pulsing regulator
family: instruments
note: "The oldest van in the yard: a bimetal regulator behind the dash feeds both gauges with about 5 V on the mean."
supply: {nominal: 12.6, unit: V}

access:
  dash: {minutes: 12, note: instrument panel - four nuts from behind}
  tank_flap: {minutes: 5, note: flap in the load floor}

places:
  batt+: {at: battery plus post, minutes: 1}
  s1.out: {at: ignition switch terminal 15, minutes: 2}
  ivr.in: {at: regulator input tag, minutes: 1, behind: dash}
  ivr.out: {at: regulator output tag, minutes: 1, behind: dash}
  fuel.sig: {at: fuel gauge tag S, minutes: 1, behind: dash}
  temp.sig: {at: temperature gauge tag S, minutes: 1, behind: dash}
  tank: {at: tank sender tag, minutes: 1, behind: tank_flap, never: [lamp, load, power], because: Petrol vapour stands over the sender and one spark lights it., caution: Petrol vapour - no sparks and no test lamp at an open tank flap}
  head: {at: temperature sender on the head, minutes: 2}
  batt-: {at: battery minus post, minutes: 0}

parts:
  BAT: {kind: battery, pins: {p: batt+, n: batt-}, ohms: 0.012, label: battery}
  S1: {kind: switch, pins: {a: batt+, b: s1.out}, label: ignition switch}
  W70: {kind: wire, pins: {a: s1.out, b: ivr.in}, length_m: 0.9, csa_mm2: 1.0, label: ignition to regulator}
  U1: {kind: bimetal_regulator, pins: {in: ivr.in, out: ivr.out, gnd: ivr.case}, label: instrument regulator}
  G30: {kind: ground, pins: {a: ivr.case, b: batt-}, label: regulator case on the panel}
  P1: {kind: gauge, pins: {a: ivr.out, b: fuel.sig}, ohms: 55, empty_amps: 0.022, full_amps: 0.075, label: fuel gauge}
  W71: {kind: wire, pins: {a: fuel.sig, b: c20.1}, length_m: 3.8, csa_mm2: 0.75, label: fuel gauge to floor plug}
  C20.1: {kind: contact, pins: {a: c20.1, b: c20.1m}, label: floor plug pin 1}
  W72: {kind: wire, pins: {a: c20.1m, b: tank}, length_m: 1.1, csa_mm2: 0.75, label: floor plug to tank}
  R1: {kind: level_sender, pins: {a: tank, b: tank.gnd}, empty_ohms: 170, full_ohms: 12, label: tank sender}
  G31: {kind: ground, pins: {a: tank.gnd, b: batt-}, label: tank ground strap}
  P2: {kind: gauge, pins: {a: ivr.out, b: temp.sig}, ohms: 55, empty_amps: 0.005, full_amps: 0.055, label: temperature gauge}
  W73: {kind: wire, pins: {a: temp.sig, b: head}, length_m: 2.4, csa_mm2: 0.75, label: temperature gauge to engine}
  R2: {kind: thermistor, pins: {a: head, b: batt-}, ohms: 620, beta: 3600, label: temperature sender}

states:
  "off": {}
  cold and half full: {S1: closed, R1: 50, R2: 20}
  warm and full: {S1: closed, R1: 100, R2: 88}

limits:
  - {what: drop, from: ivr.out, to: batt-, state: cold and half full, least: 4.6, most: 5.4, source: "common practice: about 5 V on the mean, read on a slow meter"}
  - {what: ohms, of: R1, least: 80, most: 102, source: sender table at half full (demo)}

observe:
  fuel: {part: P1, sees: indicates}
  temperature: {part: P2, sees: indicates}
','2026-11-27T11:50:44Z',NULL,'');
INSERT INTO "sheet" VALUES(5,'Engine sensors on the shared 5 V reference','sensors','864415a05dd97bcc6593b5cce142179c22cef8b46ea23331bb0ee7d96349514b','format: pondrel-sheet/1
title: Engine sensors on the shared 5 V reference
family: sensors
note: The engine module feeds pedal, rail pressure and boost sensor from one reference; the coolant sensor has a pull-up of its own.
supply: {nominal: 12.6, unit: V}

access:
  engine_cover: {minutes: 3, note: engine cover off its four rubber feet}
  footwell: {minutes: 4, note: carpet edge and one screw}

places:
  batt+: {at: battery plus post, minutes: 1}
  n1.30: {at: engine module pin 30, minutes: 2}
  n1.5v: {at: engine module pin 5V, minutes: 2}
  n1.gnd: {at: engine module sensor ground pin, minutes: 2}
  b1.ref: {at: boost sensor pin 1, minutes: 1, behind: engine_cover}
  b1.sig: {at: boost sensor pin 3, minutes: 1, behind: engine_cover}
  b1.gnd: {at: boost sensor pin 2, minutes: 1, behind: engine_cover}
  b2.ref: {at: rail sensor pin 1, minutes: 2, behind: engine_cover}
  b2.sig: {at: rail sensor pin 3, minutes: 2, behind: engine_cover, caution: Never open a rail line with the engine running or just stopped}
  t1.sig: {at: coolant sensor pin 1, minutes: 1, behind: engine_cover}
  t1.gnd: {at: coolant sensor pin 2, minutes: 1, behind: engine_cover}
  p.ref: {at: pedal plug pin 1, minutes: 1, behind: footwell}
  p.sig1: {at: pedal plug pin 2, minutes: 1, behind: footwell}
  p.sig2: {at: pedal plug pin 5, minutes: 1, behind: footwell}
  batt-: {at: battery minus post, minutes: 0}

parts:
  BAT: {kind: battery, pins: {p: batt+, n: batt-}, ohms: 0.01, label: battery}
  F2: {kind: fuse, pins: {a: batt+, b: f2.out}, rating: 15, label: engine module}
  W60: {kind: wire, pins: {a: f2.out, b: n1.30}, length_m: 1.1, csa_mm2: 1.5, label: fuse box to module}
  G1: {kind: ground, pins: {a: n1.gnd, b: batt-}, label: module ground}
  N1.5V: {kind: reference, pins: {in: n1.30, out: n1.5v, gnd: n1.gnd}, amps: 0.12, label: 5 V reference of the engine module}
  SP5: {kind: splice, pins: {a: n1.5v, b: r1, c: r2, d: r3}, label: reference splice}
  W61: {kind: wire, pins: {a: r1, b: b1.ref}, length_m: 1.4, csa_mm2: 0.5, label: reference to boost sensor}
  B1: {kind: pressure_sensor, pins: {supply: b1.ref, signal: b1.sig, gnd: b1.gnd}, full_scale: 4, label: boost sensor}
  W62: {kind: wire, pins: {a: b1.gnd, b: n1.gnd}, length_m: 1.4, csa_mm2: 0.5, label: boost sensor ground}
  W63: {kind: wire, pins: {a: b1.sig, b: n1.12}, length_m: 1.4, csa_mm2: 0.5, label: boost signal}
  N1.12: {kind: module_input, pins: {in: n1.12, gnd: n1.gnd}, pull_volts: 0, ohms: 150000, low_code: 0.25, high_code: 4.75, label: module input boost}
  W64: {kind: wire, pins: {a: r2, b: b2.ref}, length_m: 1.9, csa_mm2: 0.5, label: reference to rail sensor}
  B2: {kind: pressure_sensor, pins: {supply: b2.ref, signal: b2.sig, gnd: n1.gnd}, full_scale: 1800, label: rail pressure sensor}
  W65: {kind: wire, pins: {a: b2.sig, b: n1.14}, length_m: 1.9, csa_mm2: 0.5, label: rail signal}
  N1.14: {kind: module_input, pins: {in: n1.14, gnd: n1.gnd, supply: n1.30}, pull_volts: 5, ohms: 100000, low_code: 0.25, high_code: 4.75, label: module input rail}
  W66: {kind: wire, pins: {a: r3, b: p.ref}, length_m: 2.2, csa_mm2: 0.5, label: reference to pedal}
  PED: {kind: pedal, pins: {supply1: p.ref, signal1: p.sig1, gnd1: n1.gnd, supply2: p.ref, signal2: p.sig2, gnd2: n1.gnd}, ohms: 2000, label: accelerator pedal}
  N1.21: {kind: module_input, pins: {in: p.sig1, gnd: n1.gnd}, pull_volts: 0, ohms: 220000, low_code: 0.3, high_code: 4.7, label: module input pedal 1}
  N1.22: {kind: module_input, pins: {in: p.sig2, gnd: n1.gnd}, pull_volts: 0, ohms: 220000, low_code: 0.15, high_code: 2.4, label: module input pedal 2}
  T1: {kind: thermistor, pins: {a: t1.sig, b: t1.gnd}, ohms: 2300, beta: 3450, label: coolant sensor}
  C3.1: {kind: contact, pins: {a: t1.sig, b: n1.31}, label: coolant sensor plug pin 1}
  W67: {kind: wire, pins: {a: t1.gnd, b: n1.gnd}, length_m: 1.6, csa_mm2: 0.5, label: coolant sensor ground}
  N1.31: {kind: module_input, pins: {in: n1.31, gnd: n1.gnd, supply: n1.30}, pull_volts: 5, ohms: 2200, low_code: 0.2, high_code: 4.85, label: module input coolant}

states:
  cold: {T1: 12, B1: 1, B2: 0, PED: 0, note: "ignition on, engine stopped and cold"}
  idle: {T1: 85, B1: 1, B2: 320, PED: 0, caution: "Engine runs - keep loose clothing and leads away from belt and fan"}
  pedal down: {T1: 85, B1: 1, B2: 0, PED: 100, note: "ignition on, engine stopped, pedal pressed fully"}

limits:
  - {what: drop, from: n1.5v, to: n1.gnd, state: cold, least: 4.9, most: 5.1, source: "common practice: 5.0 V reference ± 0.1 V"}
  - {what: volts, at: p.sig1, state: cold, least: 0.6, most: 0.9, source: pedal data sheet (demo)}
  - {what: volts, at: p.sig1, state: pedal down, least: 3.8, most: 4.2, source: pedal data sheet (demo)}
  - {what: ohms, of: T1, least: 1900, most: 4700, temperature: 12, source: coolant sensor data sheet (demo)}
  - {what: drop, from: n1.gnd, to: batt-, state: idle, most: 0.1, source: "common practice: module ground"}

observe:
  boost code: {part: N1.12, sees: code}
  rail code: {part: N1.14, sees: code}
  coolant code: {part: N1.31, sees: code}
  pedal 1 code: {part: N1.21, sees: code}
  pedal 2 code: {part: N1.22, sees: code}

codes:
  E-05 reference: {at: n1.5v, state: cold, below: 4.6, fed: n1.30, meaning: sensor reference below 4.6 V}
','2026-11-27T11:50:44Z',NULL,'');
INSERT INTO "sheet" VALUES(6,'Heated rear glass','relays and heaters','0b2df55cad4d12fdcfada0faf47c7a4aba39bc2fd3f8178b51cb39e233fd8885','format: pondrel-sheet/1
title: Heated rear glass
family: relays and heaters
note: The dash switch pulls relay K5, which feeds the glass. Two heater fields side by side.
supply: {nominal: 12.6, unit: V}

access:
  dash_side: {minutes: 5, note: "side cover of the dash, two clips"}
  tailgate_trim: {minutes: 10, note: "tailgate trim, eight clips"}

places:
  batt+: {at: battery plus post, minutes: 1}
  f14.out: {at: "fuse box, load side of F14", minutes: 1}
  f3.out: {at: "fuse box, load side of F3", minutes: 1}
  k5.86: {at: relay socket K5 terminal 86, minutes: 1, behind: dash_side}
  k5.85: {at: relay socket K5 terminal 85, minutes: 1, behind: dash_side}
  k5.30: {at: relay socket K5 terminal 30, minutes: 1, behind: dash_side}
  k5.87: {at: relay socket K5 terminal 87, minutes: 1, behind: dash_side}
  tab.feed: {at: "glass tab, feed side", minutes: 1, caution: The heater tracks tear easily - touch the tab and not the track}
  tab.gnd: {at: "glass tab, ground side", minutes: 1}
  g5: {at: tailgate ground G5, minutes: 1, behind: tailgate_trim}
  batt-: {at: battery minus post, minutes: 0}

parts:
  BAT: {kind: battery, pins: {p: batt+, n: batt-}, volts: 12.6, ohms: 0.01, label: battery}
  F14: {kind: fuse, pins: {a: batt+, b: f14.out}, rating: 25, label: rear glass}
  W30: {kind: wire, pins: {a: f14.out, b: k5.30}, length_m: 1.2, csa_mm2: 4, label: fuse box to relay}
  F3: {kind: fuse, pins: {a: batt+, b: f3.out}, rating: 5, label: dash switches}
  S2: {kind: switch, pins: {a: f3.out, b: s2.out}, label: rear glass switch}
  W31: {kind: wire, pins: {a: s2.out, b: k5.86}, length_m: 0.8, csa_mm2: 0.5, label: switch to relay}
  K5: {kind: relay, pins: {"30": k5.30, "87": k5.87, "85": k5.85, "86": k5.86}, coil_ohms: 88, pull_in: 7.6, drop_out: 2.0, label: rear glass relay}
  G2: {kind: ground, pins: {a: k5.85, b: batt-}, label: dash ground}
  W32: {kind: wire, pins: {a: k5.87, b: c20.in}, length_m: 4.4, csa_mm2: 4, label: relay to tailgate}
  C20.1: {kind: contact, pins: {a: c20.in, b: tab.feed}, label: tailgate plug pin 1}
  R1: {kind: resistor, pins: {a: tab.feed, b: tab.gnd}, ohms: 1.5, label: upper heater field}
  R2: {kind: resistor, pins: {a: tab.feed, b: tab.gnd}, ohms: 1.5, label: lower heater field}
  C20.2: {kind: contact, pins: {a: tab.gnd, b: c20.out}, label: tailgate plug pin 2}
  W33: {kind: wire, pins: {a: c20.out, b: g5}, length_m: 0.6, csa_mm2: 4, label: tailgate ground lead}
  G5: {kind: ground, pins: {a: g5, b: batt-}, label: tailgate ground}

states:
  "off": {S2: open}
  "on": {S2: closed, note: ignition on and glass switched on}

limits:
  - {what: drop, from: k5.30, to: k5.87, state: "on", most: 0.1, source: "common practice: contact at working current"}
  - {what: drop, from: tab.gnd, to: batt-, state: "on", most: 0.2, source: "common practice: ground side of a heavy load"}

observe:
  glass: {part: R1, sees: clears}
','2026-11-27T11:50:44Z',NULL,'');
INSERT INTO "sheet" VALUES(7,'Kneeling valves at the front axle','module-driven valves','fc769806675b2a26e5447897529210c7be92320c2410ed64e2c743765246ec4c','format: pondrel-sheet/1
title: Kneeling valves at the front axle
family: module-driven valves
note: Relay K8 feeds both vent valves while the ignition is on; the air module pulls each valve to ground and pulses it to let air out slowly.
caution: Stands under the frame before anyone reaches in - a valve that opens drops the front of the bus.
supply: {nominal: 25.2, unit: V}

access:
  wheel_arch: {minutes: 9, note: wheel arch liner with ten clips}
  module_bay: {minutes: 5, note: driver''s locker - two quarter turns}

places:
  batt+: {at: battery plus post, minutes: 1}
  f8.out: {at: "fuse box, load side of F8", minutes: 1}
  k8.86: {at: relay K8 terminal 86, minutes: 1}
  k8.87: {at: relay K8 terminal 87, minutes: 1}
  y1.1: {at: left valve pin 1, minutes: 1, behind: wheel_arch, connector: Y1, cavity: 1}
  y1.2: {at: left valve pin 2, minutes: 1, behind: wheel_arch, connector: Y1, cavity: 2}
  y2.1: {at: right valve pin 1, minutes: 2, behind: wheel_arch, connector: Y2, cavity: 1}
  y2.2: {at: right valve pin 2, minutes: 2, behind: wheel_arch, connector: Y2, cavity: 2}
  n7.5: {at: air module pin 5, minutes: 1, behind: module_bay, caution: Never power a valve that is still plugged into its module, connector: N7, cavity: 5}
  n7.6: {at: air module pin 6, minutes: 1, behind: module_bay, connector: N7, cavity: 6}
  n7.31: {at: air module pin 31, minutes: 1, behind: module_bay, connector: N7, cavity: 31, colour: brown}
  batt-: {at: battery minus post, minutes: 0}

connectors:
  Y1: {label: left valve plug, cavities: [[1, 2]], note: lock on top}
  Y2: {label: right valve plug, cavities: [[1, 2]], note: lock on top}
  N7: {label: air module, cavities: [[1, 2, 3, 4, 5, 6], [30, null, null, null, null, 31]], note: long side with the lever on top}

parts:
  BAT: {kind: battery, pins: {p: batt+, n: batt-}, ohms: 0.015, label: battery pair}
  F8: {kind: fuse, pins: {a: batt+, b: f8.out}, rating: 7.5, label: air system}
  S1: {kind: switch, pins: {a: f8.out, b: s1.out}, label: ignition feed}
  W50: {kind: wire, pins: {a: s1.out, b: k8.86}, length_m: 1.6, csa_mm2: 0.75, label: ignition to relay}
  K8: {kind: relay, pins: {"30": f8.out, "87": k8.87, "85": k8.85, "86": k8.86}, coil_ohms: 320, pull_in: 15, drop_out: 3, suppressor: diode, label: valve supply relay}
  G20: {kind: ground, pins: {a: k8.85, b: batt-}, label: relay ground}
  W51: {kind: wire, pins: {a: k8.87, b: sp1}, length_m: 4.5, csa_mm2: 1.0, label: relay to splice}
  SP1: {kind: splice, pins: {a: sp1, b: v1, c: v2}, label: valve feed splice}
  W52: {kind: wire, pins: {a: v1, b: y1.1}, length_m: 1.2, csa_mm2: 0.75, label: feed of left valve, colour: yellow/red}
  W53: {kind: wire, pins: {a: v2, b: y2.1}, length_m: 2.6, csa_mm2: 0.75, label: feed of right valve, colour: yellow/red}
  Y1: {kind: solenoid, pins: {a: y1.1, b: y1.2}, ohms: 38, henries: 0.12, pull_in_amps: 0.32, label: left vent valve}
  Y2: {kind: solenoid, pins: {a: y2.1, b: y2.2}, ohms: 38, henries: 0.12, pull_in_amps: 0.32, label: right vent valve}
  W54: {kind: wire, pins: {a: y1.2, b: n7.5}, length_m: 5.1, csa_mm2: 0.75, label: left valve to module, colour: yellow/blue}
  W55: {kind: wire, pins: {a: y2.2, b: n7.6}, length_m: 6.3, csa_mm2: 0.75, label: right valve to module, colour: yellow/green}
  N7.5: {kind: low_side, pins: {out: n7.5, gnd: n7.31, supply: f8.out}, limit: 2, duty: 60, hertz: 120, label: air module output left}
  N7.6: {kind: low_side, pins: {out: n7.6, gnd: n7.31, supply: f8.out}, limit: 2, duty: 60, hertz: 120, label: air module output right}
  G21: {kind: ground, pins: {a: n7.31, b: batt-}, label: module ground}

states:
  parked: {}
  ready: {S1: closed, note: ignition on}
  kneel left: {S1: closed, N7.5: "on", acknowledge: true, caution: The left front sinks - nobody under or beside it}
  kneel right: {S1: closed, N7.6: "on", acknowledge: true, caution: The right front sinks - nobody under or beside it}
  slow: {S1: closed, N7.5: pulsed, N7.6: pulsed, caution: The front sinks slowly}

limits:
  - {what: ohms, of: Y1, least: 35, most: 41, temperature: 20, source: valve data sheet (demo)}
  - {what: ohms, of: Y2, least: 35, most: 41, temperature: 20, source: valve data sheet (demo)}
  - {what: volts, at: y1.1, state: ready, least: 24, source: "common practice: supply less 0.5 V"}
  - {what: drop, from: n7.31, to: batt-, state: kneel left, most: 0.1, source: "common practice: module ground"}

observe:
  left valve: {part: Y1, sees: moves}
  right valve: {part: Y2, sees: moves}
  module left: {part: N7.5, sees: diagnosis}
  module right: {part: N7.6, sees: diagnosis}
','2026-11-27T11:50:44Z',NULL,'');
INSERT INTO "sheet" VALUES(8,'Wheelchair ramp motor','motors','4306a5628b4f0acf525eb209192c29617a13fdd3500e88cd25a3b38cf4720848','format: pondrel-sheet/1
title: Wheelchair ramp motor
family: motors
note: The ramp module N4 drives motor M3 both ways through two half-bridges and a plug at the hinge.
caution: Keep hands and feet out of the ramp''s path - it moves as soon as a button is pressed.
supply: {nominal: 12.6, unit: V}

access:
  ramp_cover: {minutes: 7, note: ramp cover plate with six screws}
  seat_box: {minutes: 4, note: lift the seat box lid}

places:
  batt+: {at: battery plus post, minutes: 1}
  f30.out: {at: "fuse box, load side of F30", minutes: 1}
  n4.30: {at: module N4 pin 30, minutes: 1, behind: seat_box}
  n4.31: {at: module N4 pin 31, minutes: 1, behind: seat_box}
  n4.m1: {at: module N4 pin M1, minutes: 1, behind: seat_box}
  n4.m2: {at: module N4 pin M2, minutes: 1, behind: seat_box}
  m3.a: {at: motor plug pin 1, minutes: 1, behind: ramp_cover}
  m3.b: {at: motor plug pin 2, minutes: 1, behind: ramp_cover}
  batt-: {at: battery minus post, minutes: 0}

parts:
  BAT: {kind: battery, pins: {p: batt+, n: batt-}, ohms: 0.008, label: battery}
  F30: {kind: fuse, pins: {a: batt+, b: f30.out}, rating: 30, label: ramp}
  W40: {kind: wire, pins: {a: f30.out, b: n4.30}, length_m: 3.2, csa_mm2: 4, label: fuse box to module}
  N4.1: {kind: half_bridge, pins: {supply: n4.30, out: n4.m1, gnd: n4.31}, on_ohms: 0.03, limit: 45, label: ramp module output M1}
  N4.2: {kind: half_bridge, pins: {supply: n4.30, out: n4.m2, gnd: n4.31}, on_ohms: 0.03, limit: 45, label: ramp module output M2}
  W41: {kind: wire, pins: {a: n4.m1, b: x9.1a}, length_m: 2.4, csa_mm2: 2.5, label: module to hinge plug}
  W42: {kind: wire, pins: {a: n4.m2, b: x9.2a}, length_m: 2.4, csa_mm2: 2.5, label: module to hinge plug}
  X9: {kind: plug, pins: {1a: x9.1a, 1b: x9.1b, 2a: x9.2a, 2b: x9.2b}, label: hinge plug}
  W43: {kind: wire, pins: {a: x9.1b, b: m3.a}, length_m: 0.9, csa_mm2: 2.5, label: hinge to motor}
  W44: {kind: wire, pins: {a: x9.2b, b: m3.b}, length_m: 0.9, csa_mm2: 2.5, label: hinge to motor}
  M3: {kind: motor, pins: {a: m3.a, b: m3.b}, volts: 12, amps: 9, ohms: 0.35, label: ramp motor}
  G12: {kind: ground, pins: {a: n4.31, b: batt-}, label: module ground in the seat box}

states:
  rest: {}
  extend: {N4.1: high, N4.2: low, caution: The ramp runs out - stand beside it}
  retract: {N4.1: low, N4.2: high, caution: The ramp runs in - keep fingers off its edge}

limits:
  - {what: drop, from: n4.31, to: batt-, state: extend, most: 0.1, source: "common practice: module ground"}
  - {what: drop, from: batt+, to: n4.30, state: extend, most: 0.5, source: "common practice: supply side of a heavy load"}
  - {what: amps, of: M3, state: extend, least: 6, most: 12, source: plate of the ramp motor (demo)}

tests:
  knock on M3: {minutes: 1, state: extend, behind: ramp_cover, outcomes: [starts, stays], note: "Button held, knock on the motor''s brush end with a screwdriver handle", caution: The ramp may start - stand beside it, given: {otherwise: [0.02, 0.98], M3.open: [0.5, 0.5]}}

observe:
  ramp: {part: M3, sees: runs}
','2026-11-27T11:50:44Z',NULL,'');
INSERT INTO "sheet" VALUES(9,'Step lights with a shared ground','lighting','20b1d12821f0cf7b43db20560ffaef9708b61dcaa4f11d07386cf6c789ff3076','format: pondrel-sheet/1
title: Step lights with a shared ground
family: lighting
note: Three lamps at the passenger door, lit by the door switch, on one ground stud behind the step well.
supply: {nominal: 12.6, unit: V}

access:
  pillar_cover: {minutes: 4, note: unclip the door pillar cover}
  step_panel: {minutes: 9, note: six screws of the step well panel}

places:
  batt+: {at: battery plus post, minutes: 1}
  f9.in: {at: "fuse box, supply side of F9", minutes: 1}
  f9.out: {at: "fuse box, load side of F9", minutes: 1}
  c12.in: {at: "pillar plug C12 pin 3, loom side", minutes: 1, behind: pillar_cover}
  s1.out: {at: door switch terminal 2, minutes: 1, behind: pillar_cover}
  la1.feed: {at: "front step lamp, feed", minutes: 2}
  la1.gnd: {at: "front step lamp, ground", minutes: 2}
  la2.feed: {at: "rear step lamp, feed", minutes: 2}
  la2.gnd: {at: "rear step lamp, ground", minutes: 2}
  la3.feed: {at: "door marker lamp, feed", minutes: 2}
  j2: {at: ground splice J2, minutes: 1, behind: step_panel}
  g3: {at: "ground stud G3, ring terminal", minutes: 1, behind: step_panel}
  batt-: {at: battery minus post, minutes: 0}

parts:
  BAT: {kind: battery, pins: {p: batt+, n: batt-}, volts: 12.6, ohms: 0.008, label: battery}
  W1: {kind: wire, pins: {a: batt+, b: f9.in}, length_m: 1.6, csa_mm2: 6, label: main feed to the fuse box}
  F9: {kind: fuse, pins: {a: f9.in, b: f9.out}, rating: 7.5, label: step lights}
  W2: {kind: wire, pins: {a: f9.out, b: c12.in}, length_m: 5.2, csa_mm2: 0.75, label: fuse box to pillar}
  C12.3: {kind: contact, pins: {a: c12.in, b: s1.in}, label: pillar plug pin 3}
  S1: {kind: switch, pins: {a: s1.in, b: s1.out}, label: door switch}
  J1: {kind: splice, pins: {a: s1.out, b: w3.in, c: w4.in, d: w5.in}, label: feed splice}
  W3: {kind: wire, pins: {a: w3.in, b: la1.feed}, length_m: 0.9, csa_mm2: 0.75, label: to front step lamp}
  W4: {kind: wire, pins: {a: w4.in, b: la2.feed}, length_m: 1.7, csa_mm2: 0.75, label: to rear step lamp}
  W5: {kind: wire, pins: {a: w5.in, b: la3.feed}, length_m: 2.1, csa_mm2: 0.75, label: to door marker lamp}
  LA1: {kind: lamp, pins: {a: la1.feed, b: la1.gnd}, volts: 12, watts: 10, label: front step lamp}
  LA2: {kind: lamp, pins: {a: la2.feed, b: la2.gnd}, volts: 12, watts: 10, label: rear step lamp}
  LA3: {kind: lamp, pins: {a: la3.feed, b: j2}, volts: 12, watts: 5, label: door marker lamp}
  W6: {kind: wire, pins: {a: la1.gnd, b: j2}, length_m: 0.9, csa_mm2: 0.75, label: ground of front step lamp}
  W7: {kind: wire, pins: {a: la2.gnd, b: j2}, length_m: 1.7, csa_mm2: 0.75, label: ground of rear step lamp}
  W8: {kind: wire, pins: {a: j2, b: g3}, length_m: 0.4, csa_mm2: 1.5, label: splice to stud}
  G3: {kind: ground, pins: {a: g3, b: batt-}, label: ground stud in the step well}

states:
  shut: {S1: open}
  open: {S1: closed, note: passenger door open, caution: The step may fold out with the door - keep feet clear of it}

limits:
  - {what: drop, from: g3, to: batt-, state: open, most: 0.1, source: "common practice: one connection"}
  - {what: volts, at: la2.feed, state: open, least: 11.6, source: "common practice: supply less 0.5 V and a little"}

observe:
  front: {part: LA1, sees: brightness}
  rear: {part: LA2, sees: brightness}
  marker: {part: LA3, sees: brightness}
','2026-11-27T11:50:44Z',NULL,'');
INSERT INTO "sheet" VALUES(10,'Tail-lift pump and lowering valve','solenoids and motors','72eed064d66a60b7e8c04a1380f3ddedb46c8c647f58689b5f21d1625c900dff','format: pondrel-sheet/1
title: Tail-lift pump and lowering valve
family: solenoids and motors
note: The cab master switch feeds the buttons at the lift; UP pulls the pump contactor K2, DOWN opens the lowering valve Y3.
caution: Prop the platform before you reach under it; a valve that opens lets it drop.
supply: {nominal: 12.6, unit: V}

access:
  lift_box: {minutes: 5, note: four bolts of the lift box lid}
  floor_hatch: {minutes: 8, note: clear the book crates and lift the floor hatch}

places:
  batt+: {at: battery plus post, minutes: 1}
  f21.out: {at: "cab fuse box, load side of F21", minutes: 1}
  s4.out: {at: "master switch, terminal 2", minutes: 3}
  c7.in: {at: "floor plug C7 pin 1, cab side", minutes: 1, behind: floor_hatch}
  c7.out: {at: "floor plug C7 pin 1, lift side", minutes: 1, behind: floor_hatch}
  k2.85: {at: contactor K2 terminal 85, minutes: 1, behind: lift_box}
  k2.86: {at: contactor K2 terminal 86, minutes: 1, behind: lift_box}
  k2.30: {at: contactor K2 stud 30, minutes: 1, behind: lift_box, caution: Unfused battery stud beside the frame - insulated probe and no rings}
  k2.87: {at: contactor K2 stud 87, minutes: 1, behind: lift_box}
  m1.minus: {at: "pump motor, minus stud", minutes: 2, behind: lift_box}
  y3.feed: {at: lowering valve plug pin 1, minutes: 2}
  y3.gnd: {at: lowering valve plug pin 2, minutes: 2}
  batt-: {at: battery minus post, minutes: 0}

parts:
  BAT: {kind: battery, pins: {p: batt+, n: batt-}, volts: 12.6, ohms: 0.006, label: battery}
  F21: {kind: fuse, pins: {a: batt+, b: f21.out}, rating: 10, label: lift control}
  S4: {kind: switch, pins: {a: f21.out, b: s4.out}, label: cab master switch}
  W10: {kind: wire, pins: {a: s4.out, b: c7.in}, length_m: 4.8, csa_mm2: 1.5, label: cab to floor plug}
  C7.1: {kind: contact, pins: {a: c7.in, b: c7.out}, label: floor plug pin 1}
  W11: {kind: wire, pins: {a: c7.out, b: lift.feed}, length_m: 2.2, csa_mm2: 1.5, label: floor plug to lift buttons}
  S5: {kind: switch, pins: {a: lift.feed, b: w12.in}, label: UP button}
  W12: {kind: wire, pins: {a: w12.in, b: k2.85}, length_m: 0.6, csa_mm2: 1.0, label: UP button to contactor}
  K2: {kind: relay, pins: {"30": k2.30, "87": k2.87, "85": k2.85, "86": k2.86}, coil_ohms: 18, pull_in: 7.5, drop_out: 2.5, contact_ohms: 0.0005, label: pump contactor}
  W13: {kind: wire, pins: {a: k2.86, b: g7}, length_m: 0.5, csa_mm2: 1.5, label: contactor coil to ground}
  S6: {kind: switch, pins: {a: lift.feed, b: w14.in}, label: DOWN button}
  W14: {kind: wire, pins: {a: w14.in, b: y3.feed}, length_m: 1.4, csa_mm2: 1.0, label: DOWN button to valve}
  Y3: {kind: coil, pins: {a: y3.feed, b: y3.gnd}, ohms: 14, pull_in_amps: 0.45, label: lowering valve}
  W15: {kind: wire, pins: {a: y3.gnd, b: g7}, length_m: 1.1, csa_mm2: 1.0, label: valve to ground}
  G7: {kind: ground, pins: {a: g7, b: batt-}, label: lift frame ground}
  F40: {kind: fuse, pins: {a: batt+, b: w20.in}, rating: 150, label: pump motor}
  W20: {kind: wire, pins: {a: w20.in, b: k2.30}, length_m: 5.5, csa_mm2: 35, label: battery cable to contactor}
  W21: {kind: wire, pins: {a: k2.87, b: m1.plus}, length_m: 0.5, csa_mm2: 35, label: contactor to pump}
  M1: {kind: resistor, pins: {a: m1.plus, b: m1.minus}, ohms: 0.11, tolerance: 0.08, label: pump motor under load}
  G8: {kind: ground, pins: {a: m1.minus, b: batt-}, ohms: 0.0008, label: pump ground strap}

states:
  rest: {S4: open, S5: open, S6: open}
  ready: {S4: closed, S5: open, S6: open, note: master switch on}
  raise: {S4: closed, S5: closed, S6: open, caution: The pump runs and the platform rises - nobody on or under it}
  lower: {S4: closed, S5: open, S6: closed, caution: The platform sinks - nobody on or under it}

limits:
  - {what: drop, from: batt+, to: k2.30, state: raise, most: 0.5, source: "common practice: supply side of a heavy load"}
  - {what: drop, from: k2.30, to: k2.87, state: raise, most: 0.1, source: "common practice: contact at working current"}
  - {what: drop, from: m1.minus, to: batt-, state: raise, most: 0.2, source: "common practice: ground side of a heavy load"}
  - {what: ohms, of: Y3, least: 12.5, most: 15.5, temperature: 20, source: valve data sheet (demo)}

observe:
  pump: {part: M1, sees: runs}
  contactor: {part: K2, sees: click}
  platform: {part: Y3, sees: moves}
','2026-11-27T11:50:44Z',NULL,'');
INSERT INTO "sheet" VALUES(11,'Two-wire bus between door, ramp and dash module','buses','d0ad3aa9dce45020c716c783dc88de9e7647a904f2544f847025eb3337f1abf4','format: pondrel-sheet/1
title: Two-wire bus between door, ramp and dash module
family: buses
note: Three modules on one pair, an end resistor at the dash and one in the rear. Static levels stand for the bus held recessive or dominant.
supply: {nominal: 12.6, unit: V}

access:
  dash: {minutes: 8, note: dash module out of its bracket}
  rear_panel: {minutes: 10, note: rear side panel}

places:
  diag.high: {at: diagnosis socket pin 6, minutes: 0.5}
  diag.low: {at: diagnosis socket pin 14, minutes: 0.5}
  dash.high: {at: dash module bus pin high, minutes: 1, behind: dash}
  dash.low: {at: dash module bus pin low, minutes: 1, behind: dash}
  rear.high: {at: rear end resistor high, minutes: 1, behind: rear_panel}
  rear.low: {at: rear end resistor low, minutes: 1, behind: rear_panel}
  batt-: {at: battery minus post, minutes: 1}

parts:
  BAT: {kind: battery, pins: {p: batt+, n: batt-}, ohms: 0.01, label: battery}
  R0: {kind: resistor, pins: {a: batt+, b: batt-}, ohms: 60, label: what the modules draw}
  T1: {kind: bus_terminator, pins: {high: dash.high, low: dash.low}, label: end resistor in the dash module}
  N10: {kind: bus_transceiver, pins: {high: dash.high, low: dash.low, gnd: batt-}, label: dash module}
  W1H: {kind: wire, pins: {a: dash.high, b: diag.high}, length_m: 1.5, csa_mm2: 0.5, label: dash to diagnosis socket high}
  W1L: {kind: wire, pins: {a: dash.low, b: diag.low}, length_m: 1.5, csa_mm2: 0.5, label: dash to diagnosis socket low}
  X5: {kind: plug, pins: {1a: diag.high, 1b: mid.high, 2a: diag.low, 2b: mid.low}, label: body plug}
  N11: {kind: bus_transceiver, pins: {high: mid.high, low: mid.low, gnd: batt-}, label: door module}
  W2H: {kind: wire, pins: {a: mid.high, b: rear.high}, length_m: 5.2, csa_mm2: 0.5, label: body to rear high}
  W2L: {kind: wire, pins: {a: mid.low, b: rear.low}, length_m: 5.2, csa_mm2: 0.5, label: body to rear low}
  N12: {kind: bus_transceiver, pins: {high: rear.high, low: rear.low, gnd: batt-}, label: ramp module}
  T2: {kind: bus_terminator, pins: {high: rear.high, low: rear.low}, label: rear end resistor}

states:
  asleep: {N10: "off", N11: "off", N12: "off", note: "battery on, all modules asleep"}
  recessive: {}
  dash dominant: {N10: dominant}
  ramp dominant: {N12: dominant}

limits:
  - {what: drop, from: diag.high, to: diag.low, state: dash dominant, least: 1.5, most: 3.0, source: "ISO 11898-2, from memory: differential dominant 1.5 to 3.0 V"}
  - {what: volts, at: diag.high, state: recessive, least: 2.0, most: 3.0, source: "ISO 11898-2, from memory: recessive about 2.5 V"}
  - {what: ohms, from: diag.high, to: diag.low, state: asleep, least: 54, most: 66, source: "common practice: two ends of 120 Ω"}

observe: {}
','2026-11-27T11:50:44Z',NULL,'');
CREATE TABLE sheet_summary (
    sheet_id INTEGER PRIMARY KEY REFERENCES sheet (id),
    parts INTEGER NOT NULL,
    places INTEGER NOT NULL,
    states INTEGER NOT NULL,
    limits INTEGER NOT NULL,
    note TEXT NOT NULL,
    flaw TEXT NOT NULL DEFAULT ''
, words TEXT NOT NULL DEFAULT '');
INSERT INTO "sheet_summary" VALUES(1,16,12,4,4,'Two heating elements and their blower behind one thermal breaker; the relay only pulls while the blower''s air switch is made.','','[["title", "Cabin heater with breaker and over-temperature switch"], ["family", "heaters"], ["note", "Two heating elements and their blower behind one thermal breaker; the relay only pulls while the blower''s air switch is made."], ["seen", "blower"], ["seen", "element 1"], ["seen", "element 2"], ["part", "battery pair"], ["part", "heater breaker"], ["part", "breaker to relay"], ["part", "heater switch"], ["part", "switch to blower"], ["part", "blower diode"], ["part", "blower"], ["part", "blower ground"], ["part", "air-flow switch"], ["part", "element relay"], ["part", "relay ground"], ["part", "relay to element 1"], ["part", "element 1 to element 2"], ["part", "element 1"], ["part", "element 2"], ["part", "element ground"], ["place", "heater box heater box cover - eight screws of two lengths"]]');
INSERT INTO "sheet_summary" VALUES(2,11,9,2,2,'The light stays on for a while after the door button is released; relay K12 keeps it by an RC delay.','','[["title", "Reading-room light with delayed switch-off"], ["family", "timed relays"], ["note", "The light stays on for a while after the door button is released; relay K12 keeps it by an RC delay."], ["seen", "ceiling light"], ["seen", "strip"], ["part", "battery"], ["part", "interior light"], ["part", "door button"], ["part", "button to relay"], ["part", "delay relay"], ["part", "relay ground"], ["part", "relay to ceiling"], ["part", "ceiling light"], ["part", "LED strip"], ["part", "ceiling ground"], ["part", "LED strip terminal"], ["place", "ceiling ceiling panel with nine clips"]]');
INSERT INTO "sheet_summary" VALUES(3,11,7,4,4,'Alternator, output cable with its fusible link, battery, and what the van draws at idle.','','[["title", "Charging circuit of the yard van"], ["family", "charging"], ["note", "Alternator, output cable with its fusible link, battery, and what the van draws at idle."], ["code", "D-14 charging battery below 13.0 V with the engine running"], ["part", "battery"], ["part", "plus clamp"], ["part", "battery to fuse box"], ["part", "charging link"], ["part", "output cable"], ["part", "alternator"], ["part", "alternator bracket"], ["part", "engine ground strap"], ["part", "van loads"], ["part", "lights, blower and rear glass"], ["part", "all loads together"], ["place", "shield belt shield with three bolts"]]');
INSERT INTO "sheet_summary" VALUES(4,14,9,3,2,'The oldest van in the yard: a bimetal regulator behind the dash feeds both gauges with about 5 V on the mean.','','[["title", "Fuel and temperature gauge on a pulsing regulator"], ["family", "instruments"], ["note", "The oldest van in the yard: a bimetal regulator behind the dash feeds both gauges with about 5 V on the mean."], ["seen", "fuel"], ["seen", "temperature"], ["part", "battery"], ["part", "ignition switch"], ["part", "ignition to regulator"], ["part", "instrument regulator"], ["part", "regulator case on the panel"], ["part", "fuel gauge"], ["part", "fuel gauge to floor plug"], ["part", "floor plug pin 1"], ["part", "floor plug to tank"], ["part", "tank sender"], ["part", "tank ground strap"], ["part", "temperature gauge"], ["part", "temperature gauge to engine"], ["part", "temperature sender"], ["place", "dash instrument panel - four nuts from behind"], ["place", "tank flap flap in the load floor"]]');
INSERT INTO "sheet_summary" VALUES(5,23,15,3,5,'The engine module feeds pedal, rail pressure and boost sensor from one reference; the coolant sensor has a pull-up of its own.','','[["title", "Engine sensors on the shared 5 V reference"], ["family", "sensors"], ["note", "The engine module feeds pedal, rail pressure and boost sensor from one reference; the coolant sensor has a pull-up of its own."], ["seen", "boost code"], ["seen", "rail code"], ["seen", "coolant code"], ["seen", "pedal 1 code"], ["seen", "pedal 2 code"], ["code", "E-05 reference sensor reference below 4.6 V"], ["part", "battery"], ["part", "engine module"], ["part", "fuse box to module"], ["part", "module ground"], ["part", "5 V reference of the engine module"], ["part", "reference splice"], ["part", "reference to boost sensor"], ["part", "boost sensor"], ["part", "boost sensor ground"], ["part", "boost signal"], ["part", "module input boost"], ["part", "reference to rail sensor"], ["part", "rail pressure sensor"], ["part", "rail signal"], ["part", "module input rail"], ["part", "reference to pedal"], ["part", "accelerator pedal"], ["part", "module input pedal 1"], ["part", "module input pedal 2"], ["part", "coolant sensor"], ["part", "coolant sensor plug pin 1"], ["part", "coolant sensor ground"], ["part", "module input coolant"], ["place", "engine cover engine cover off its four rubber feet"], ["place", "footwell carpet edge and one screw"]]');
INSERT INTO "sheet_summary" VALUES(6,15,11,2,2,'The dash switch pulls relay K5, which feeds the glass. Two heater fields side by side.','','[["title", "Heated rear glass"], ["family", "relays and heaters"], ["note", "The dash switch pulls relay K5, which feeds the glass. Two heater fields side by side."], ["seen", "glass"], ["part", "battery"], ["part", "rear glass"], ["part", "fuse box to relay"], ["part", "dash switches"], ["part", "rear glass switch"], ["part", "switch to relay"], ["part", "rear glass relay"], ["part", "dash ground"], ["part", "relay to tailgate"], ["part", "tailgate plug pin 1"], ["part", "upper heater field"], ["part", "lower heater field"], ["part", "tailgate plug pin 2"], ["part", "tailgate ground lead"], ["part", "tailgate ground"], ["place", "dash side side cover of the dash, two clips"], ["place", "tailgate trim tailgate trim, eight clips"]]');
INSERT INTO "sheet_summary" VALUES(7,17,12,5,4,'Relay K8 feeds both vent valves while the ignition is on; the air module pulls each valve to ground and pulses it to let air out slowly.','','[["title", "Kneeling valves at the front axle"], ["family", "module-driven valves"], ["note", "Relay K8 feeds both vent valves while the ignition is on; the air module pulls each valve to ground and pulses it to let air out slowly."], ["seen", "left valve"], ["seen", "right valve"], ["seen", "module left"], ["seen", "module right"], ["part", "battery pair"], ["part", "air system"], ["part", "ignition feed"], ["part", "ignition to relay"], ["part", "valve supply relay"], ["part", "relay ground"], ["part", "relay to splice"], ["part", "valve feed splice"], ["part", "feed of left valve"], ["part", "feed of right valve"], ["part", "left vent valve"], ["part", "right vent valve"], ["part", "left valve to module"], ["part", "right valve to module"], ["part", "air module output left"], ["part", "air module output right"], ["part", "module ground"], ["place", "wheel arch wheel arch liner with ten clips"], ["place", "module bay driver''s locker - two quarter turns"]]');
INSERT INTO "sheet_summary" VALUES(8,12,9,3,3,'The ramp module N4 drives motor M3 both ways through two half-bridges and a plug at the hinge.','','[["title", "Wheelchair ramp motor"], ["family", "motors"], ["note", "The ramp module N4 drives motor M3 both ways through two half-bridges and a plug at the hinge."], ["seen", "ramp"], ["part", "battery"], ["part", "ramp"], ["part", "fuse box to module"], ["part", "ramp module output M1"], ["part", "ramp module output M2"], ["part", "module to hinge plug"], ["part", "hinge plug"], ["part", "hinge to motor"], ["part", "ramp motor"], ["part", "module ground in the seat box"], ["place", "ramp cover ramp cover plate with six screws"], ["place", "seat box lift the seat box lid"]]');
INSERT INTO "sheet_summary" VALUES(9,17,13,2,2,'Three lamps at the passenger door, lit by the door switch, on one ground stud behind the step well.','','[["title", "Step lights with a shared ground"], ["family", "lighting"], ["note", "Three lamps at the passenger door, lit by the door switch, on one ground stud behind the step well."], ["seen", "front"], ["seen", "rear"], ["seen", "marker"], ["part", "battery"], ["part", "main feed to the fuse box"], ["part", "step lights"], ["part", "fuse box to pillar"], ["part", "pillar plug pin 3"], ["part", "door switch"], ["part", "feed splice"], ["part", "to front step lamp"], ["part", "to rear step lamp"], ["part", "to door marker lamp"], ["part", "front step lamp"], ["part", "rear step lamp"], ["part", "door marker lamp"], ["part", "ground of front step lamp"], ["part", "ground of rear step lamp"], ["part", "splice to stud"], ["part", "ground stud in the step well"], ["place", "pillar cover unclip the door pillar cover"], ["place", "step panel six screws of the step well panel"]]');
INSERT INTO "sheet_summary" VALUES(10,20,13,4,4,'The cab master switch feeds the buttons at the lift; UP pulls the pump contactor K2, DOWN opens the lowering valve Y3.','','[["title", "Tail-lift pump and lowering valve"], ["family", "solenoids and motors"], ["note", "The cab master switch feeds the buttons at the lift; UP pulls the pump contactor K2, DOWN opens the lowering valve Y3."], ["seen", "pump"], ["seen", "contactor"], ["seen", "platform"], ["part", "battery"], ["part", "lift control"], ["part", "cab master switch"], ["part", "cab to floor plug"], ["part", "floor plug pin 1"], ["part", "floor plug to lift buttons"], ["part", "UP button"], ["part", "UP button to contactor"], ["part", "pump contactor"], ["part", "contactor coil to ground"], ["part", "DOWN button"], ["part", "DOWN button to valve"], ["part", "lowering valve"], ["part", "valve to ground"], ["part", "lift frame ground"], ["part", "pump motor"], ["part", "battery cable to contactor"], ["part", "contactor to pump"], ["part", "pump motor under load"], ["part", "pump ground strap"], ["place", "lift box four bolts of the lift box lid"], ["place", "floor hatch clear the book crates and lift the floor hatch"]]');
INSERT INTO "sheet_summary" VALUES(11,12,7,4,3,'Three modules on one pair, an end resistor at the dash and one in the rear. Static levels stand for the bus held recessive or dominant.','','[["title", "Two-wire bus between door, ramp and dash module"], ["family", "buses"], ["note", "Three modules on one pair, an end resistor at the dash and one in the rear. Static levels stand for the bus held recessive or dominant."], ["part", "battery"], ["part", "what the modules draw"], ["part", "end resistor in the dash module"], ["part", "dash module"], ["part", "dash to diagnosis socket high"], ["part", "dash to diagnosis socket low"], ["part", "body plug"], ["part", "door module"], ["part", "body to rear high"], ["part", "body to rear low"], ["part", "ramp module"], ["part", "rear end resistor"], ["place", "dash dash module out of its bracket"], ["place", "rear panel rear side panel"]]');
CREATE TABLE "strike" (
    entry_id INTEGER PRIMARY KEY REFERENCES entry (id),
    reason TEXT NOT NULL CHECK (reason <> ''),
    person TEXT NOT NULL DEFAULT '',
    struck_at TEXT NOT NULL
);
INSERT INTO "strike" VALUES(22,'misread','Oda','2026-11-23T13:26:00Z');
CREATE TABLE trace (
    id INTEGER PRIMARY KEY,
    job_id INTEGER NOT NULL REFERENCES "job" (id),
    number INTEGER NOT NULL CHECK (number > 0),
    sheet_id INTEGER NOT NULL REFERENCES sheet (id),
    person TEXT NOT NULL DEFAULT '',
    opened_at TEXT NOT NULL,
    UNIQUE (job_id, number),
    UNIQUE (job_id, id)
);
INSERT INTO "trace" VALUES(1,1,1,9,'Oda','2026-11-20T07:40:00Z');
INSERT INTO "trace" VALUES(2,2,1,10,'Wim','2026-11-23T08:05:00Z');
INSERT INTO "trace" VALUES(3,3,1,6,'Oda','2026-11-23T13:20:00Z');
INSERT INTO "trace" VALUES(4,4,1,9,'','2026-11-24T06:50:00Z');
INSERT INTO "trace" VALUES(5,5,1,3,'Wim','2026-11-18T07:15:00Z');
INSERT INTO "trace" VALUES(6,6,1,7,'Wim','2026-11-19T13:05:00Z');
INSERT INTO "trace" VALUES(7,8,1,2,'Oda','2026-11-17T15:40:00Z');
INSERT INTO "trace" VALUES(8,10,1,4,'Oda','2026-11-24T10:15:00Z');
CREATE TABLE vehicle (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL UNIQUE CHECK (name <> ''),
    make TEXT NOT NULL DEFAULT '',
    model TEXT NOT NULL DEFAULT '',
    year TEXT NOT NULL DEFAULT '',
    plate TEXT NOT NULL DEFAULT '',
    note TEXT NOT NULL DEFAULT ''
, vin TEXT NOT NULL DEFAULT '', volts REAL, unit TEXT NOT NULL DEFAULT 'km', options TEXT NOT NULL DEFAULT '');
INSERT INTO "vehicle" VALUES(1,'Library 2','Tarnbolt','Reader 75','2016','MW 4410','book lorry with tail-lift','9T2RDR754G1004410',12.0,'km','tail-lift');
INSERT INTO "vehicle" VALUES(2,'Bus 4','Quessel','Hop 16','2019','MW 2217','community bus, 16 seats; 24 V in the chassis, 12 V in the body','9W1HP16A7K2002217',NULL,'km','');
INSERT INTO "vehicle" VALUES(3,'Yard van','Maurevik','Carrall','2014','MW 0903','','',12.0,'km','');
INSERT INTO "vehicle" VALUES(4,'Old van','Maurevik','Pilot','1987','MW 118','the oldest in the yard, with gauges','',12.0,'mi','');
INSERT INTO "vehicle" VALUES(5,'Yard cart','Brennock','Haul 3','2020','','electric cart for crates and bins','',48.0,'h','load bed, tow and run switch');
CREATE TABLE vehicle_before (
    id INTEGER PRIMARY KEY,
    vehicle_id INTEGER NOT NULL REFERENCES vehicle (id),
    facts TEXT NOT NULL CHECK (json_valid(facts)),
    changed_at TEXT NOT NULL
);
CREATE TABLE vehicle_entry (
    id INTEGER PRIMARY KEY,
    vehicle_id INTEGER NOT NULL REFERENCES vehicle (id),
    job_id INTEGER REFERENCES job (id),
    kind TEXT NOT NULL CHECK (kind <> ''),
    content TEXT NOT NULL CHECK (json_valid(content) AND json_type(content) = 'object'),
    person TEXT NOT NULL DEFAULT '',
    made_at TEXT NOT NULL
);
INSERT INTO "vehicle_entry" VALUES(1,1,NULL,'mileage','{"reads": "204310 km", "renewed": false}','Wim','2026-10-14T09:00:00Z');
INSERT INTO "vehicle_entry" VALUES(2,1,NULL,'fitted','{"part": "UP button", "name": "S5", "on": "2025-05", "at": "171900 km", "how": "used", "source": "the old lorry", "months": "", "distance": "", "helped": "", "note": "tested on the bench first"}','Wim','2025-05-12T10:00:00Z');
INSERT INTO "vehicle_entry" VALUES(3,1,NULL,'fitted','{"part": "battery", "name": "", "on": "2025-10-20", "at": "187400 km", "how": "new", "source": "Hollin Parts", "months": "24", "distance": "", "helped": "", "note": ""}','Wim','2025-10-20T14:00:00Z');
INSERT INTO "vehicle_entry" VALUES(4,1,NULL,'note','{"text": "Crates block the floor hatch. Ask the librarian to clear them before you start."}','Wim','2026-10-14T09:35:00Z');
INSERT INTO "vehicle_entry" VALUES(5,2,NULL,'mileage','{"reads": "146050 km", "renewed": false}','Oda','2026-09-02T07:00:00Z');
INSERT INTO "vehicle_entry" VALUES(6,2,NULL,'fitted','{"part": "Door switch", "name": "", "on": "2025-05-09", "at": "118000 km", "how": "used", "source": "stores", "months": "", "distance": "", "helped": "", "note": "tested first"}','Oda','2025-05-09T11:00:00Z');
INSERT INTO "vehicle_entry" VALUES(7,4,NULL,'mileage','{"reads": "88200 mi", "renewed": false}','Oda','2026-06-03T08:00:00Z');
INSERT INTO "vehicle_entry" VALUES(8,4,NULL,'note','{"text": "The panel light fuse is a repair of 1998, it sits behind the ashtray."}','Oda','2026-06-03T08:10:00Z');
INSERT INTO "vehicle_entry" VALUES(9,2,1,'mileage','{"reads": "148220 km", "renewed": false}','Oda','2026-11-20T07:41:00Z');
INSERT INTO "vehicle_entry" VALUES(10,2,1,'fitted','{"part": "rear step lamp", "name": "LA2", "on": "2026-10-30", "at": "147900 km", "how": "new", "source": "Hollin Parts", "months": "12", "distance": "", "helped": "no", "note": ""}','Oda','2026-11-20T07:43:00Z');
INSERT INTO "vehicle_entry" VALUES(11,5,9,'mileage','{"reads": "2140 h", "renewed": false}','Wim','2026-11-25T09:11:00Z');
INSERT INTO "vehicle_entry" VALUES(12,4,10,'mileage','{"reads": "88940 mi", "renewed": false}','Oda','2026-11-24T10:16:00Z');
INSERT INTO "vehicle_entry" VALUES(13,4,10,'fitted','{"part": "temperature sender", "name": "R2", "on": "2026-11-21", "at": "88930 mi", "how": "new", "source": "Hollin Parts", "months": "12", "distance": "", "helped": "no", "note": ""}','Oda','2026-11-24T10:20:00Z');
CREATE TABLE vehicle_strike (
    entry_id INTEGER PRIMARY KEY REFERENCES vehicle_entry (id),
    reason TEXT NOT NULL CHECK (reason <> ''),
    person TEXT NOT NULL DEFAULT '',
    struck_at TEXT NOT NULL
);
CREATE TABLE workshop (
    id INTEGER PRIMARY KEY CHECK (id = 1),
    temperature TEXT NOT NULL,
    pressure TEXT NOT NULL,
    width TEXT NOT NULL
);
CREATE TABLE written (
    key TEXT PRIMARY KEY,
    answer TEXT NOT NULL,
    written_at TEXT NOT NULL
) WITHOUT ROWID;
CREATE UNIQUE INDEX sheet_replaces ON sheet (replaces_id) WHERE replaces_id IS NOT NULL;
CREATE INDEX correction_sheet ON correction (sheet_id, id);
CREATE TRIGGER correction_kept BEFORE UPDATE ON correction BEGIN SELECT RAISE(ABORT, 'a correction is never changed'); END;
CREATE TRIGGER correction_stays BEFORE DELETE ON correction BEGIN SELECT RAISE(ABORT, 'a correction is never deleted'); END;
CREATE INDEX entry_job ON entry (job_id, id);
CREATE INDEX entry_file_digest ON entry_file (digest);
CREATE INDEX job_vehicle ON job (vehicle_id);
CREATE INDEX bay_order ON bay (party, opened_at DESC, job_id DESC);
CREATE INDEX bay_person ON bay (person, party, opened_at DESC, job_id DESC);
CREATE INDEX bay_vehicle ON bay (vehicle_id, party, opened_at DESC, job_id DESC);
CREATE INDEX bay_unknown ON bay (known) WHERE known = 0;
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
CREATE TRIGGER vehicle_renamed AFTER UPDATE ON vehicle BEGIN
    UPDATE bay SET known = 0 WHERE vehicle_id = NEW.id;
END;
CREATE TRIGGER vehicle_stays BEFORE DELETE ON vehicle BEGIN SELECT RAISE(ABORT, 'a vehicle is never deleted'); END;
CREATE INDEX vehicle_entry_vehicle ON vehicle_entry (vehicle_id, id);
CREATE TRIGGER vehicle_entry_once BEFORE INSERT ON vehicle_entry WHEN EXISTS (SELECT 1 FROM vehicle_entry WHERE vehicle_entry.id = NEW.id)
BEGIN SELECT RAISE(ABORT, 'an entry is never replaced, only struck out'); END;
CREATE TRIGGER vehicle_entry_kept BEFORE UPDATE ON vehicle_entry
BEGIN SELECT RAISE(ABORT, 'an entry is never changed, only struck out'); END;
CREATE TRIGGER vehicle_entry_stays BEFORE DELETE ON vehicle_entry
BEGIN SELECT RAISE(ABORT, 'an entry is never deleted, only struck out'); END;
CREATE TRIGGER vehicle_strike_kept BEFORE UPDATE ON vehicle_strike BEGIN SELECT RAISE(ABORT, 'a strike is never changed'); END;
CREATE TRIGGER vehicle_strike_stays BEFORE DELETE ON vehicle_strike BEGIN SELECT RAISE(ABORT, 'a strike is never deleted'); END;
CREATE TRIGGER cause_table_kept BEFORE UPDATE ON cause_table BEGIN SELECT RAISE(ABORT, 'a table of causes is never changed'); END;
CREATE TRIGGER cause_table_stays BEFORE DELETE ON cause_table BEGIN SELECT RAISE(ABORT, 'a table of causes is never deleted'); END;
CREATE INDEX draft_step_draft ON draft_step (draft_id, id);
CREATE INDEX draft_move_draft ON draft_move (draft_id, id);
CREATE TRIGGER draft_unchanged BEFORE UPDATE ON draft BEGIN SELECT RAISE(ABORT, 'a draft is never changed, only moved on'); END;
CREATE TRIGGER draft_step_unchanged BEFORE UPDATE ON draft_step BEGIN SELECT RAISE(ABORT, 'a step is never changed'); END;
CREATE TRIGGER draft_step_stays BEFORE DELETE ON draft_step BEGIN SELECT RAISE(ABORT, 'a step is never deleted, only undone'); END;
CREATE INDEX own_drawing_vehicle ON own_drawing (vehicle_id, library_id);
CREATE INDEX bench_check_alike ON bench_check (family, title, unit, id);
CREATE INDEX bench_check_vehicle ON bench_check (vehicle_id, id);
CREATE INDEX bench_check_job ON bench_check (job_id, id);
CREATE TRIGGER bench_check_unchanged BEFORE UPDATE ON bench_check BEGIN SELECT RAISE(ABORT, 'a check is never changed, only repeated'); END;
CREATE TRIGGER bench_check_stays BEFORE DELETE ON bench_check BEGIN SELECT RAISE(ABORT, 'a check is never deleted'); END;
CREATE INDEX meter_name ON meter (name, id);
CREATE INDEX own_limit_family ON own_limit (family, what);
CREATE TRIGGER own_limit_unchanged BEFORE UPDATE ON own_limit BEGIN SELECT RAISE(ABORT, 'a limit is never changed, only versioned'); END;
CREATE TRIGGER own_limit_stays BEFORE DELETE ON own_limit BEGIN SELECT RAISE(ABORT, 'a limit is never deleted, only taken off the list'); END;
COMMIT;
PRAGMA user_version = 9;
