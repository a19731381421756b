-- Limits of the firm's own copy, in the order written; the last of a limit stands.
CREATE TABLE own_rows (
    seq  INTEGER PRIMARY KEY,
    id   TEXT NOT NULL UNIQUE,
    body TEXT NOT NULL
) STRICT;
