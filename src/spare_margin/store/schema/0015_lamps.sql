-- A test lamp between two points: lit, dim or dark.

DROP TRIGGER reading_stays;
DROP TRIGGER job_shown_reading;
CREATE TABLE reading_new (
    job_id      TEXT NOT NULL,
    id          TEXT NOT NULL,
    revision_id TEXT NOT NULL,
    quantity    TEXT NOT NULL CHECK (quantity IN ('volts', 'amperes', 'ohms', 'kelvin', 'ripple', 'lamp')),
    red         TEXT NOT NULL,
    black       TEXT NOT NULL,
    value       REAL,
    state       TEXT NOT NULL
        CHECK (state IN
            ('value', 'over_range', 'wandering', 'not_reachable', 'withdrawn', 'lit', 'dim', 'dark')),
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
    moment      TEXT,
    trial       TEXT,
    leads_ohm   REAL NOT NULL DEFAULT 0,       -- the leads' own, of ohms and across a stand-in load
    log_window  TEXT,                          -- JSON: log, channel, figure, start s, end s
    moved       TEXT NOT NULL DEFAULT '',
    PRIMARY KEY (job_id, id),
    FOREIGN KEY (job_id, revision_id) REFERENCES revision (job_id, id) ON DELETE CASCADE,
    FOREIGN KEY (job_id, supersedes) REFERENCES reading_new (job_id, id),
    CHECK ((state = 'value') = (value IS NOT NULL))
) STRICT;
INSERT INTO reading_new
    (job_id, id, revision_id, quantity, red, black, value, state, typed, accuracy, scenario, taken_at,
     supersedes, source_v, note, meter, hold, warm_min, who, moment, trial, leads_ohm, log_window, moved)
SELECT job_id, id, revision_id, quantity, red, black, value, state, typed, accuracy, scenario, taken_at,
       supersedes, source_v, note, meter, hold, warm_min, who, moment, trial, leads_ohm, log_window, moved
FROM reading ORDER BY rowid;
DROP TABLE reading;
ALTER TABLE reading_new RENAME TO reading;
CREATE INDEX reading_by_revision ON reading (job_id, revision_id);
CREATE INDEX reading_superseded ON reading (job_id, supersedes);
CREATE TRIGGER reading_stays BEFORE UPDATE ON reading
BEGIN
    SELECT RAISE(ABORT, 'a reading is superseded, never changed');
END;
CREATE TRIGGER job_shown_reading AFTER INSERT ON reading
BEGIN
    UPDATE job SET shown = NULL WHERE id = NEW.job_id;
END;
