-- What a client sent, by the id that it made, with a digest of what it said: sent twice, it is done once.
CREATE TABLE sent (
    id TEXT PRIMARY KEY,
    digest TEXT NOT NULL,
    at TEXT NOT NULL
) STRICT;

CREATE TRIGGER sent_update BEFORE UPDATE ON sent
BEGIN SELECT RAISE(ABORT, 'what was sent is appended, never changed'); END;
CREATE TRIGGER sent_delete BEFORE DELETE ON sent
BEGIN SELECT RAISE(ABORT, 'what was sent is appended, never deleted'); END;
CREATE TRIGGER sent_replace BEFORE INSERT ON sent
WHEN EXISTS (SELECT 1 FROM sent WHERE id = NEW.id OR rowid = NEW.rowid)
BEGIN SELECT RAISE(ABORT, 'what was sent is appended, never replaced'); END;
