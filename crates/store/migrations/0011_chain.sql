-- A digest over every reading and event and the digest before it, in the order stored: a bit that is turned on disk is
-- told, with its row. Rows that were there before this began are linked by the migration.
CREATE TABLE chain (
    seq INTEGER PRIMARY KEY AUTOINCREMENT,
    of_table TEXT NOT NULL CHECK (of_table IN ('readings', 'events')),
    of_row INTEGER NOT NULL,
    digest TEXT NOT NULL,
    UNIQUE (of_table, of_row)
) STRICT;
CREATE TRIGGER chain_update BEFORE UPDATE ON chain
BEGIN SELECT RAISE(ABORT, 'the chain is appended, never changed'); END;
CREATE TRIGGER chain_delete BEFORE DELETE ON chain
BEGIN SELECT RAISE(ABORT, 'the chain is appended, never deleted'); END;
CREATE TRIGGER chain_replace BEFORE INSERT ON chain
WHEN EXISTS (SELECT 1 FROM chain WHERE seq = NEW.seq OR of_table = NEW.of_table AND of_row = NEW.of_row)
BEGIN SELECT RAISE(ABORT, 'the chain is appended, never replaced'); END;

-- Another after every restore: what was kept in memory of the database before is no longer of it.
CREATE TABLE generation (
    only_row INTEGER PRIMARY KEY CHECK (only_row = 1),
    id TEXT NOT NULL
) STRICT;
INSERT INTO generation (only_row, id) VALUES (1, lower(hex(randomblob(16))));

-- Copies that were made of the database, by the program.
CREATE TABLE backups (
    seq INTEGER PRIMARY KEY AUTOINCREMENT,
    path TEXT NOT NULL,
    at TEXT NOT NULL
) STRICT;
