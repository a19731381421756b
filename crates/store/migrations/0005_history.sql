-- What came with a file is history: it opens no test here. Noted outside the job.
ALTER TABLE jobs ADD COLUMN history INTEGER NOT NULL DEFAULT 0;
ALTER TABLE jobs ADD COLUMN imported_at TEXT;
