-- Readings: appended, superseded, never changed or deleted.

CREATE TABLE reading (
    job_id      TEXT NOT NULL,
    id          TEXT NOT NULL,
    revision_id TEXT NOT NULL,
    quantity    TEXT NOT NULL CHECK (quantity IN ('volts', 'amperes')),
    red         TEXT NOT NULL,
    black       TEXT NOT NULL,
    value       REAL,
    state       TEXT NOT NULL
        CHECK (state IN ('value', 'over_range', 'wandering', 'not_reachable', 'withdrawn')),
    typed       TEXT NOT NULL,
    accuracy    REAL NOT NULL,
    scenario    TEXT NOT NULL,
    taken_at    TEXT NOT NULL,                 -- UTC, ISO 8601
    supersedes  TEXT,
    source_v    REAL,
    note        TEXT NOT NULL,
    PRIMARY KEY (job_id, id),
    FOREIGN KEY (job_id, revision_id) REFERENCES revision (job_id, id) ON DELETE CASCADE,
    FOREIGN KEY (job_id, supersedes) REFERENCES reading (job_id, id),
    CHECK ((state = 'value') = (value IS NOT NULL))
) STRICT;

CREATE INDEX reading_by_revision ON reading (job_id, revision_id);

CREATE TRIGGER reading_stays BEFORE UPDATE ON reading
BEGIN
    SELECT RAISE(ABORT, 'a reading is superseded, never changed');
END;
