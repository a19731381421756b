-- A key may be put under a passphrase, and under another one later: that goes on record too. The record is made anew
-- for it, with what it holds.
CREATE TABLE firm_key_record (
    seq INTEGER PRIMARY KEY AUTOINCREMENT,
    fingerprint TEXT NOT NULL REFERENCES firm_keys (fingerprint),
    what TEXT NOT NULL CHECK (what IN ('made', 'exported', 'restored', 'replaced', 'locked')),
    by_whom TEXT NOT NULL,
    reason TEXT NOT NULL,
    at TEXT NOT NULL
) STRICT;
INSERT INTO firm_key_record SELECT seq, fingerprint, what, by_whom, reason, at FROM firm_key_log;
DROP TABLE firm_key_log;
ALTER TABLE firm_key_record RENAME TO firm_key_log;
CREATE TRIGGER firm_key_log_update BEFORE UPDATE ON firm_key_log
BEGIN SELECT RAISE(ABORT, 'the record of keys is appended, never changed'); END;
CREATE TRIGGER firm_key_log_delete BEFORE DELETE ON firm_key_log
BEGIN SELECT RAISE(ABORT, 'the record of keys is appended, never deleted'); END;
CREATE TRIGGER firm_key_log_replace BEFORE INSERT ON firm_key_log
WHEN EXISTS (SELECT 1 FROM firm_key_log WHERE seq = NEW.seq)
BEGIN SELECT RAISE(ABORT, 'the record of keys is appended, never replaced'); END;
