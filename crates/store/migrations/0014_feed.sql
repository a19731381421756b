-- Instruments joined to the run of a job, one at a time; and every message that came from one, with what became of it:
-- sent again, it is answered the same.
CREATE TABLE feeds (
    id TEXT PRIMARY KEY,
    job TEXT NOT NULL REFERENCES jobs (id) ON DELETE CASCADE,
    address TEXT NOT NULL,
    instrument TEXT NOT NULL,
    read_by TEXT NOT NULL,
    joined_by TEXT NOT NULL,
    run_order TEXT NOT NULL,
    joined_at TEXT NOT NULL,
    left_at TEXT
) STRICT;
CREATE UNIQUE INDEX feed_of_job ON feeds (job) WHERE left_at IS NULL;
CREATE UNIQUE INDEX feed_at_address ON feeds (address) WHERE left_at IS NULL;

CREATE TABLE received (
    seq INTEGER PRIMARY KEY AUTOINCREMENT,
    id TEXT NOT NULL UNIQUE,
    feed TEXT NOT NULL,
    job TEXT NOT NULL,
    body TEXT NOT NULL CHECK (json_valid(body)),
    -- Why it was not taken; empty: it was.
    because TEXT NOT NULL,
    at TEXT NOT NULL
) STRICT;
CREATE INDEX received_of_feed ON received (feed, seq);
CREATE TRIGGER received_update BEFORE UPDATE ON received
BEGIN SELECT RAISE(ABORT, 'what was received is appended, never changed'); END;
CREATE TRIGGER received_delete BEFORE DELETE ON received
BEGIN SELECT RAISE(ABORT, 'what was received is appended, never deleted'); END;

-- Jobs that were made as demo or practice are told apart in the list; those from before this were made as work.
ALTER TABLE jobs ADD COLUMN is_work INTEGER NOT NULL DEFAULT 1 CHECK (is_work IN (0, 1));

-- Questions that somebody answered, in order: what was wrong is asked again sooner.
CREATE TABLE questions (
    seq INTEGER PRIMARY KEY AUTOINCREMENT,
    person TEXT NOT NULL,
    kind TEXT NOT NULL,
    correct INTEGER NOT NULL CHECK (correct IN (0, 1)),
    at TEXT NOT NULL
) STRICT;
CREATE INDEX questions_of_person ON questions (person, seq);
