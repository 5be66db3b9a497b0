-- Who may come in over the local network. Nothing here can be turned back into what opens the door: of a device's
-- token and of the passphrase only a hash is kept.

CREATE TABLE device (
    id         TEXT PRIMARY KEY,
    name       TEXT NOT NULL,                  -- as people call it: the phone in the van
    person     TEXT NOT NULL,                  -- who reads and changes with it
    token_hash TEXT NOT NULL UNIQUE,           -- SHA-256, hex
    paired_at  TEXT NOT NULL,                  -- UTC, ISO 8601
    ends_at    TEXT NOT NULL,
    seen_at    TEXT NOT NULL
) STRICT;

CREATE TABLE secret (
    key   TEXT PRIMARY KEY CHECK (key IN ('passphrase', 'cookies')),
    value TEXT NOT NULL
) STRICT;
