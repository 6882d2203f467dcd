-- What holds for everybody who works with this folder: the units in which conditions are shown.
CREATE TABLE workshop (
    id INTEGER PRIMARY KEY CHECK (id = 1),
    temperature TEXT NOT NULL,
    pressure TEXT NOT NULL,
    width TEXT NOT NULL
);
