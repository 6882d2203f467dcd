-- What the workshop has settled once where the trade has several schools; what nobody settled has no row.
CREATE TABLE house_rule (
    name TEXT PRIMARY KEY,
    choice TEXT NOT NULL,
    person TEXT NOT NULL DEFAULT '',
    settled_at TEXT NOT NULL
) WITHOUT ROWID;
