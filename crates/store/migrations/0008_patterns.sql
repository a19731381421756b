-- Patterns of the firm: what jobs are begun from.
CREATE TABLE patterns (
    id   TEXT PRIMARY KEY,
    name TEXT NOT NULL UNIQUE,
    body TEXT NOT NULL CHECK (json_valid(body))
) STRICT;
