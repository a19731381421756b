-- Registers are looked up when an open job is read, and are not copied into each: raised with every change of them.
CREATE TABLE registers_state (
    only_row INTEGER PRIMARY KEY CHECK (only_row = 1),
    revision INTEGER NOT NULL
) STRICT;
INSERT INTO registers_state (only_row, revision) VALUES (1, 1);
-- Names that the firm had: a job that says one of them is the firm's own.
CREATE TABLE firm_names (
    name TEXT PRIMARY KEY
) STRICT, WITHOUT ROWID;
INSERT INTO firm_names (name) SELECT DISTINCT name FROM firm WHERE name <> '';
