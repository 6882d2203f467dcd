BEGIN TRANSACTION;
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
INSERT INTO "conclusion" VALUES(1,1,'G3','G3 (ground stud in the step well)',9.99996503432934669142e-01,1,'','4','2026-11-20T09:05:00Z');
INSERT INTO "conclusion" VALUES(2,5,'C5.1','Pin',0.41,0,'customer waits','11
13','2026-10-01T11:00:00Z');
INSERT INTO "conclusion" VALUES(3,5,'G3','Ground G3',0.9962,1,'','14
15','2026-10-02T12:00:00Z');
INSERT INTO "conclusion" VALUES(4,6,'F21
W10','Fuse or wire',0.3,0,'sold as it is','16
17','2026-10-05T08:20:00Z');
INSERT INTO "conclusion" VALUES(5,7,'','Nothing on this sheet is wrong',0.2,0,'weather','','2026-10-06T09:40:00Z');
CREATE TABLE job (
    id INTEGER PRIMARY KEY,
    vehicle_id INTEGER NOT NULL REFERENCES vehicle (id),
    sheet_id INTEGER NOT NULL REFERENCES sheet (id),
    complaint TEXT NOT NULL CHECK (complaint <> ''),
    conditions TEXT NOT NULL DEFAULT '',
    person TEXT NOT NULL DEFAULT '',
    opened_at TEXT NOT NULL
);
INSERT INTO "job" VALUES(1,2,2,'All three door lamps dim','Always, also with the engine running. Step well was washed out last month.','Oda','2026-11-20T07:40:00Z');
INSERT INTO "job" VALUES(2,1,3,'Tail-lift does not rise, lowers normally','Since Tuesday, first only with a full load of crates. No click from the contactor.','Wim','2026-11-23T08:05:00Z');
INSERT INTO "job" VALUES(3,3,1,'Rear glass clears slowly and unevenly','Cold mornings. Tailgate plug was opened for the camera last winter.','Oda','2026-11-23T13:20:00Z');
INSERT INTO "job" VALUES(4,2,2,'No light at the door at all','Reported by the driver this morning, nothing tried yet.','','2026-11-24T06:50:00Z');
INSERT INTO "job" VALUES(5,4,2,'Door lamps dim
sometimes','wet','Oda','2026-10-01T08:00:00Z');
INSERT INTO "job" VALUES(6,4,3,'Lift dead','','','2026-10-05T08:00:00Z');
INSERT INTO "job" VALUES(7,4,1,'Glass fogs','','Wim','2026-10-06T08:00:00Z');
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
INSERT INTO "reading" VALUES(1,1,'open','volts','batt+','batt-','12.47','','2026-11-20T07:45:00Z');
INSERT INTO "reading" VALUES(2,1,'open','volts','la2.feed','batt-','12.15','','2026-11-20T07:46:00Z');
INSERT INTO "reading" VALUES(3,1,'open','volts','la2.gnd','batt-','3.81','','2026-11-20T07:47:00Z');
INSERT INTO "reading" VALUES(4,1,'open','volts','g3','batt-','3.76','ring terminal looks clean from above','2026-11-20T07:48:00Z');
INSERT INTO "reading" VALUES(5,2,'raise','volts','f21.out','batt-','12.49','','2026-11-23T08:10:00Z');
INSERT INTO "reading" VALUES(6,2,'lower','volts','y3.feed','batt-','12.35','','2026-11-23T08:11:00Z');
INSERT INTO "reading" VALUES(7,3,'on','volts','batt+','batt-','12.42','','2026-11-23T13:25:00Z');
INSERT INTO "reading" VALUES(8,3,'on','volts','tab.feed','batt-','5.57','read off upside down','2026-11-23T13:26:00Z');
INSERT INTO "reading" VALUES(9,3,'on','volts','tab.feed','batt-','9.57','','2026-11-23T13:27:00Z');
INSERT INTO "reading" VALUES(10,3,'on','volts','tab.gnd','batt-','0.11','','2026-11-23T13:28:00Z');
INSERT INTO "reading" VALUES(11,5,'open','volts','batt+','batt-','12.5','','2026-10-01T09:00:00Z');
INSERT INTO "reading" VALUES(12,5,'open','volts','la2.feed','batt-','12,2','comma','2026-10-01T09:03:00Z');
INSERT INTO "reading" VALUES(13,5,'open','volts','la2.gnd','batt-','3.8','','2026-10-01T09:06:00Z');
INSERT INTO "reading" VALUES(14,5,'open','volts','la2.feed','batt-','12.1','again','2026-10-01T10:00:00Z');
INSERT INTO "reading" VALUES(15,5,'open','volts','g3','batt-','3.76','','2026-10-02T09:00:00Z');
INSERT INTO "reading" VALUES(16,6,'raise','volts','f21.out','batt-','12.49','','2026-10-05T09:30:00Z');
INSERT INTO "reading" VALUES(17,6,'rest','volts','batt+','batt-','12.6','clock was wrong','2026-10-05T08:10:00Z');
INSERT INTO "reading" VALUES(18,7,'on','volts','batt+','batt-','12.4','','2026-10-06T09:00:00Z');
INSERT INTO "reading" VALUES(19,7,'on','ohms','tab.feed','tab.gnd','OL','','2026-10-06T09:03:00Z');
CREATE TABLE reopening (
    id INTEGER PRIMARY KEY,
    conclusion_id INTEGER NOT NULL UNIQUE REFERENCES conclusion (id),
    reason TEXT NOT NULL CHECK (reason <> ''),
    reopened_at TEXT NOT NULL
);
INSERT INTO "reopening" VALUES(1,2,'came back the same day','2026-11-26T05:04:05Z');
CREATE TABLE sheet (
    id INTEGER PRIMARY KEY,
    title TEXT NOT NULL,
    family TEXT NOT NULL DEFAULT '',
    digest TEXT NOT NULL UNIQUE,
    text TEXT NOT NULL,
    added_at TEXT NOT NULL
);
INSERT INTO "sheet" VALUES(1,'Heated rear glass','relays and heaters','bbcfc78ff8da847621d810bdedd4650803a7ef40a29c5c449d5f6282ffd7eb2e','format: pondrel-sheet/1
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

observe:
  glass: {part: R1, sees: clears}
','2026-11-26T05:04:03Z');
INSERT INTO "sheet" VALUES(2,'Step lights with a shared ground','lighting','ac9221c7b5a543d9e529243de4304d0bb2e6f35bc8d791a97f0ca54d073a4f1d','format: pondrel-sheet/1
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

observe:
  front: {part: LA1, sees: brightness}
  rear: {part: LA2, sees: brightness}
  marker: {part: LA3, sees: brightness}
','2026-11-26T05:04:04Z');
INSERT INTO "sheet" VALUES(3,'Tail-lift pump and lowering valve','solenoids and motors','1dee0702915e385f674da1e221b1b041ee30c4fdb79bfdc2e511af18ddedc39a','format: pondrel-sheet/1
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
  Y3: {kind: coil, pins: {a: y3.feed, b: y3.gnd}, ohms: 14, label: lowering valve}
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

observe:
  pump: {part: M1, sees: runs}
  contactor: {part: K2, sees: click}
','2026-11-26T05:04:04Z');
CREATE TABLE strike (
    id INTEGER PRIMARY KEY,
    reading_id INTEGER NOT NULL UNIQUE REFERENCES reading (id),
    reason TEXT NOT NULL CHECK (reason <> ''),
    struck_at TEXT NOT NULL
);
INSERT INTO "strike" VALUES(1,8,'misread','2026-11-26T05:04:05Z');
INSERT INTO "strike" VALUES(2,12,'wrong pin','2026-11-26T05:04:05Z');
CREATE TABLE vehicle (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL UNIQUE CHECK (name <> ''),
    make TEXT NOT NULL DEFAULT '',
    model TEXT NOT NULL DEFAULT '',
    year TEXT NOT NULL DEFAULT '',
    plate TEXT NOT NULL DEFAULT '',
    note TEXT NOT NULL DEFAULT ''
);
INSERT INTO "vehicle" VALUES(1,'Library 2','Tarnbolt','Reader 75','2016','MW 4410','book lorry with tail-lift');
INSERT INTO "vehicle" VALUES(2,'Bus 4','Quessel','Hop 16','2019','MW 2217','community bus, 16 seats');
INSERT INTO "vehicle" VALUES(3,'Yard van','Maurevik','Carrall','2014','MW 0903','');
INSERT INTO "vehicle" VALUES(4,'Büchergärtchen ''Nord''','Tarnbolt','Reader 60','2011','MW 77','roof leaks; "old" radio');
CREATE INDEX job_vehicle ON job (vehicle_id);
CREATE INDEX reading_job ON reading (job_id, id);
CREATE INDEX conclusion_job ON conclusion (job_id, id);
CREATE TRIGGER reading_kept BEFORE UPDATE ON reading BEGIN SELECT RAISE(ABORT, 'a reading is never changed, only struck out'); END;
CREATE TRIGGER reading_stays BEFORE DELETE ON reading BEGIN SELECT RAISE(ABORT, 'a reading is never deleted, only struck out'); END;
CREATE TRIGGER strike_kept BEFORE UPDATE ON strike BEGIN SELECT RAISE(ABORT, 'a strike is never changed'); END;
CREATE TRIGGER strike_stays BEFORE DELETE ON strike BEGIN SELECT RAISE(ABORT, 'a strike is never deleted'); END;
CREATE TRIGGER conclusion_kept BEFORE UPDATE ON conclusion BEGIN SELECT RAISE(ABORT, 'a conclusion is never changed, only reopened'); END;
CREATE TRIGGER conclusion_stays BEFORE DELETE ON conclusion BEGIN SELECT RAISE(ABORT, 'a conclusion is never deleted, only reopened'); END;
PRAGMA user_version = 1;
COMMIT;
