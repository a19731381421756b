-- Firm, people, instruments: registers from which a new job is begun.
CREATE TABLE firm (
    only_row INTEGER PRIMARY KEY CHECK (only_row = 1),
    name TEXT NOT NULL,
    address TEXT NOT NULL,
    contact TEXT NOT NULL
) STRICT;

CREATE TABLE people (
    id TEXT PRIMARY KEY,
    name TEXT NOT NULL,
    position TEXT NOT NULL
) STRICT;

CREATE TABLE instruments (
    id TEXT PRIMARY KEY,
    kind TEXT NOT NULL,
    reference TEXT NOT NULL UNIQUE,
    calibration_due TEXT,
    over_range_mohm TEXT NOT NULL
) STRICT;

-- A job as described. `description` is the job file without its readings and events; the columns
-- beside it are what lists and searches need. `revision` guards against two editors.
CREATE TABLE jobs (
    id TEXT PRIMARY KEY,
    reference TEXT NOT NULL UNIQUE,
    title TEXT NOT NULL,
    client TEXT NOT NULL,
    site TEXT NOT NULL,
    created_at TEXT NOT NULL,
    description TEXT NOT NULL CHECK (json_valid(description)),
    revision INTEGER NOT NULL DEFAULT 1
) STRICT;
-- Covers lists and searches, so that they never read a description.
CREATE INDEX jobs_listed ON jobs (created_at DESC, reference, title, client, site, id);

-- Readings are appended, never changed. `subject_kind` says what a reading is of (supply, bond,
-- board, circuit_set, place); `circuit` is set for a place on a circuit.
CREATE TABLE readings (
    seq INTEGER PRIMARY KEY AUTOINCREMENT,
    id TEXT NOT NULL UNIQUE,
    job TEXT NOT NULL REFERENCES jobs (id),
    subject_kind TEXT NOT NULL,
    circuit TEXT,
    test TEXT NOT NULL,
    typed TEXT NOT NULL,
    entered_by TEXT NOT NULL,
    stored_at TEXT NOT NULL,
    body TEXT NOT NULL CHECK (json_valid(body))
) STRICT;
CREATE INDEX readings_of_job ON readings (job);

-- The one log: isolation, exposure, nulls, alterations, put back, strike-outs, energising.
CREATE TABLE events (
    seq INTEGER PRIMARY KEY AUTOINCREMENT,
    id TEXT NOT NULL UNIQUE,
    job TEXT NOT NULL REFERENCES jobs (id),
    at TEXT NOT NULL,
    by_whom TEXT NOT NULL,
    what TEXT NOT NULL,
    body TEXT NOT NULL CHECK (json_valid(body))
) STRICT;
CREATE INDEX events_of_job ON events (job);

-- Issued certificates: canonical bytes, their digest, the version of the rules. Their status and
-- what replaced them stand in the next table.
CREATE TABLE certificates (
    number TEXT PRIMARY KEY,
    job TEXT NOT NULL REFERENCES jobs (id),
    issued_at TEXT NOT NULL,
    rules_version INTEGER NOT NULL,
    digest TEXT NOT NULL,
    bytes BLOB NOT NULL
) STRICT;
CREATE INDEX certificates_of_job ON certificates (job);

CREATE TABLE certificate_status (
    seq INTEGER PRIMARY KEY AUTOINCREMENT,
    number TEXT NOT NULL REFERENCES certificates (number),
    status TEXT NOT NULL CHECK (status IN ('issued', 'replaced')),
    replaced_by TEXT REFERENCES certificates (number),
    at TEXT NOT NULL
) STRICT;

-- Append-only, also on a bare connection. INSERT OR REPLACE deletes without firing delete
-- triggers unless recursive triggers are on, so a row that exists is refused before the insert.
CREATE TRIGGER readings_update BEFORE UPDATE ON readings
BEGIN SELECT RAISE(ABORT, 'readings are appended, never changed'); END;
CREATE TRIGGER readings_delete BEFORE DELETE ON readings
BEGIN SELECT RAISE(ABORT, 'readings are appended, never deleted'); END;
CREATE TRIGGER readings_replace BEFORE INSERT ON readings
WHEN EXISTS (SELECT 1 FROM readings WHERE id = NEW.id OR seq = NEW.seq)
BEGIN SELECT RAISE(ABORT, 'readings are appended, never replaced'); END;

CREATE TRIGGER events_update BEFORE UPDATE ON events
BEGIN SELECT RAISE(ABORT, 'events are appended, never changed'); END;
CREATE TRIGGER events_delete BEFORE DELETE ON events
BEGIN SELECT RAISE(ABORT, 'events are appended, never deleted'); END;
CREATE TRIGGER events_replace BEFORE INSERT ON events
WHEN EXISTS (SELECT 1 FROM events WHERE id = NEW.id OR seq = NEW.seq)
BEGIN SELECT RAISE(ABORT, 'events are appended, never replaced'); END;

CREATE TRIGGER certificates_update BEFORE UPDATE ON certificates
BEGIN SELECT RAISE(ABORT, 'issued certificates are never changed'); END;
CREATE TRIGGER certificates_delete BEFORE DELETE ON certificates
BEGIN SELECT RAISE(ABORT, 'issued certificates are never deleted'); END;
CREATE TRIGGER certificates_replace BEFORE INSERT ON certificates
WHEN EXISTS (SELECT 1 FROM certificates WHERE number = NEW.number OR rowid = NEW.rowid)
BEGIN SELECT RAISE(ABORT, 'issued certificates are never replaced in place'); END;

CREATE TRIGGER certificate_status_update BEFORE UPDATE ON certificate_status
BEGIN SELECT RAISE(ABORT, 'the status of certificates is appended, never changed'); END;
CREATE TRIGGER certificate_status_delete BEFORE DELETE ON certificate_status
BEGIN SELECT RAISE(ABORT, 'the status of certificates is appended, never deleted'); END;
CREATE TRIGGER certificate_status_replace BEFORE INSERT ON certificate_status
WHEN EXISTS (SELECT 1 FROM certificate_status WHERE seq = NEW.seq)
BEGIN SELECT RAISE(ABORT, 'the status of certificates is appended, never replaced'); END;
