-- What stood before a description was changed, a few of each job: two editors see what the other changed.
CREATE TABLE descriptions (
    job TEXT NOT NULL REFERENCES jobs (id),
    revision INTEGER NOT NULL,
    description TEXT NOT NULL CHECK (json_valid(description)),
    PRIMARY KEY (job, revision)
) STRICT, WITHOUT ROWID;
