-- Exercises at the bench: the seed and what was done, a line an act, from which all of it follows. No job ever holds any
-- of it.
CREATE TABLE practice (
    id TEXT PRIMARY KEY,
    person TEXT NOT NULL,
    exercise TEXT NOT NULL,
    seed INTEGER NOT NULL,
    -- The circuit of a job that is tried, and with which fault; empty for an exercise.
    about TEXT NOT NULL DEFAULT '',
    begun_at TEXT NOT NULL,
    acts TEXT NOT NULL DEFAULT '',
    answers TEXT NOT NULL DEFAULT '{}' CHECK (json_valid(answers)),
    finished_at TEXT,
    clean INTEGER NOT NULL DEFAULT 0 CHECK (clean IN (0, 1))
) STRICT;
CREATE INDEX practice_of_person ON practice (person, finished_at);
