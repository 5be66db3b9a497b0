-- Crafts saved to begin other jobs from: no job themselves, in no list, search or statistics.

CREATE TABLE template (
    id       TEXT PRIMARY KEY,
    name     TEXT NOT NULL UNIQUE,
    made_at  TEXT NOT NULL,                    -- UTC, ISO 8601
    document TEXT NOT NULL                     -- a job file: the craft and its limits, nothing of any customer
) STRICT;
