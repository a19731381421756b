-- The firm's signing keys. The public half stays for ever, so that what it signed can be checked;
-- the private half goes when the key is replaced. One key is in use.
CREATE TABLE firm_keys (
    fingerprint TEXT PRIMARY KEY,
    public_pem TEXT NOT NULL,
    private_pem TEXT,
    in_use INTEGER NOT NULL CHECK (in_use IN (0, 1))
) STRICT;
CREATE UNIQUE INDEX firm_keys_in_use ON firm_keys (in_use) WHERE in_use = 1;

-- What became of each key: made, exported, restored, replaced, by whom and why.
CREATE TABLE firm_key_log (
    seq INTEGER PRIMARY KEY AUTOINCREMENT,
    fingerprint TEXT NOT NULL REFERENCES firm_keys (fingerprint),
    what TEXT NOT NULL CHECK (what IN ('made', 'exported', 'restored', 'replaced')),
    by_whom TEXT NOT NULL,
    reason TEXT NOT NULL,
    at TEXT NOT NULL
) STRICT;

-- What went out with a certificate, as it went out: the document, the job file and their seal.
CREATE TABLE certificate_papers (
    number TEXT PRIMARY KEY REFERENCES certificates (number),
    seal TEXT NOT NULL CHECK (json_valid(seal)),
    pdf BLOB NOT NULL,
    job_file BLOB NOT NULL
) STRICT;

CREATE TRIGGER firm_keys_public BEFORE UPDATE OF fingerprint, public_pem ON firm_keys
BEGIN SELECT RAISE(ABORT, 'a public key is never changed'); END;
CREATE TRIGGER firm_keys_delete BEFORE DELETE ON firm_keys
BEGIN SELECT RAISE(ABORT, 'a public key is never deleted: what it signed is checked with it'); END;
CREATE TRIGGER firm_keys_replace BEFORE INSERT ON firm_keys
WHEN EXISTS (SELECT 1 FROM firm_keys WHERE fingerprint = NEW.fingerprint OR rowid = NEW.rowid)
BEGIN SELECT RAISE(ABORT, 'a public key is never replaced in place'); END;
CREATE TRIGGER firm_key_log_update BEFORE UPDATE ON firm_key_log
BEGIN SELECT RAISE(ABORT, 'the record of keys is appended, never changed'); END;
CREATE TRIGGER firm_key_log_delete BEFORE DELETE ON firm_key_log
BEGIN SELECT RAISE(ABORT, 'the record of keys is appended, never deleted'); END;
CREATE TRIGGER firm_key_log_replace BEFORE INSERT ON firm_key_log
WHEN EXISTS (SELECT 1 FROM firm_key_log WHERE seq = NEW.seq)
BEGIN SELECT RAISE(ABORT, 'the record of keys is appended, never replaced'); END;

CREATE TRIGGER certificate_papers_update BEFORE UPDATE ON certificate_papers
BEGIN SELECT RAISE(ABORT, 'what went out with a certificate is never changed'); END;
CREATE TRIGGER certificate_papers_delete BEFORE DELETE ON certificate_papers
BEGIN SELECT RAISE(ABORT, 'what went out with a certificate is never deleted'); END;
CREATE TRIGGER certificate_papers_replace BEFORE INSERT ON certificate_papers
WHEN EXISTS (SELECT 1 FROM certificate_papers WHERE number = NEW.number)
BEGIN SELECT RAISE(ABORT, 'what went out with a certificate is never replaced in place'); END;
