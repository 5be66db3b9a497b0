-- The walk: how a reading was taken, rises of surface temperature, what was acknowledged and skipped.

DROP TRIGGER reading_stays;
-- Dropping the old table looks up who supersedes each row: without this, every one in all of them.
CREATE INDEX reading_superseded_before ON reading (job_id, supersedes);

CREATE TABLE reading_new (
    job_id      TEXT NOT NULL,
    id          TEXT NOT NULL,
    revision_id TEXT NOT NULL,
    quantity    TEXT NOT NULL CHECK (quantity IN ('volts', 'amperes', 'kelvin')),
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
    meter       TEXT NOT NULL DEFAULT '',
    hold        TEXT NOT NULL DEFAULT '' CHECK (hold IN ('', 'least', 'most')),
    warm_min    REAL,                          -- minutes that the load had been on
    who         TEXT NOT NULL DEFAULT '',
    PRIMARY KEY (job_id, id),
    FOREIGN KEY (job_id, revision_id) REFERENCES revision (job_id, id) ON DELETE CASCADE,
    FOREIGN KEY (job_id, supersedes) REFERENCES reading_new (job_id, id),
    CHECK ((state = 'value') = (value IS NOT NULL))
) STRICT;

INSERT INTO reading_new
    (job_id, id, revision_id, quantity, red, black, value, state, typed, accuracy, scenario, taken_at,
     supersedes, source_v, note)
SELECT job_id, id, revision_id, quantity, red, black, value, state, typed, accuracy, scenario, taken_at,
       supersedes, source_v, note
FROM reading ORDER BY rowid;

DROP TABLE reading;
ALTER TABLE reading_new RENAME TO reading;
CREATE INDEX reading_by_revision ON reading (job_id, revision_id);

CREATE TRIGGER reading_stays BEFORE UPDATE ON reading
BEGIN
    SELECT RAISE(ABORT, 'a reading is superseded, never changed');
END;

-- Appended once each, by an id made on the device; the newest of a step counts.
CREATE TABLE walk_note (
    job_id  TEXT NOT NULL REFERENCES job (id) ON DELETE CASCADE,
    id      TEXT NOT NULL,
    stage   TEXT NOT NULL,
    run     TEXT NOT NULL,
    step    TEXT NOT NULL,                     -- of the walk, or the caution that was acknowledged
    state   TEXT NOT NULL CHECK (state IN ('acknowledged', 'skipped', 'back')),
    reason  TEXT NOT NULL,
    who     TEXT NOT NULL,
    made_at TEXT NOT NULL,                     -- UTC, ISO 8601
    PRIMARY KEY (job_id, id)
) STRICT;
