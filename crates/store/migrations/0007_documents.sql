-- Documents that jobs name, stored once by the digest of their bytes.
CREATE TABLE documents (
    sha256 TEXT PRIMARY KEY,
    bytes  BLOB NOT NULL
) STRICT;
