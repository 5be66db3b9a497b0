-- Moments, trials, contacts; what a revision did, not its words; cautions by their ids; what the list shows.

DROP TRIGGER reading_stays;
CREATE INDEX reading_superseded ON reading (job_id, supersedes);

CREATE TABLE reading_new (
    job_id      TEXT NOT NULL,
    id          TEXT NOT NULL,
    revision_id TEXT NOT NULL,
    quantity    TEXT NOT NULL CHECK (quantity IN ('volts', 'amperes', 'ohms', 'kelvin')),
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
    moment      TEXT,
    trial       TEXT,
    leads_ohm   REAL NOT NULL DEFAULT 0,       -- of an ohms reading, the leads' own
    PRIMARY KEY (job_id, id),
    FOREIGN KEY (job_id, revision_id) REFERENCES revision (job_id, id) ON DELETE CASCADE,
    FOREIGN KEY (job_id, supersedes) REFERENCES reading_new (job_id, id),
    CHECK ((state = 'value') = (value IS NOT NULL))
) STRICT;

INSERT INTO reading_new
    (job_id, id, revision_id, quantity, red, black, value, state, typed, accuracy, scenario, taken_at,
     supersedes, source_v, note, meter, hold, warm_min, who)
SELECT job_id, id, revision_id, quantity, red, black, value, state, typed, accuracy, scenario, taken_at,
       supersedes, source_v, note, meter, hold, warm_min, who
FROM reading ORDER BY rowid;

DROP TABLE reading;
ALTER TABLE reading_new RENAME TO reading;
CREATE INDEX reading_by_revision ON reading (job_id, revision_id);
CREATE INDEX reading_superseded ON reading (job_id, supersedes);

CREATE TRIGGER reading_stays BEFORE UPDATE ON reading
BEGIN
    SELECT RAISE(ABORT, 'a reading is superseded, never changed');
END;

CREATE TABLE moment (
    job_id   TEXT NOT NULL REFERENCES job (id) ON DELETE CASCADE,
    id       TEXT NOT NULL,
    scenario TEXT NOT NULL,
    loads    TEXT NOT NULL,                    -- JSON: load id -> state
    warm_min REAL,
    rpm      REAL,
    charging INTEGER,
    note     TEXT NOT NULL,
    PRIMARY KEY (job_id, id)
) STRICT;

CREATE TABLE trial (
    job_id  TEXT NOT NULL REFERENCES job (id) ON DELETE CASCADE,
    id      TEXT NOT NULL,
    moment  TEXT NOT NULL,
    kind    TEXT NOT NULL CHECK (kind IN ('bridge', 'feed', 'return')),
    start   TEXT NOT NULL,
    "end"   TEXT NOT NULL,
    outcome TEXT CHECK (outcome IN ('right', 'partly', 'none')),
    ohm     REAL NOT NULL,
    PRIMARY KEY (job_id, id)
) STRICT;

ALTER TABLE scenario ADD COLUMN contacts TEXT NOT NULL DEFAULT '{}';   -- JSON: piece id -> open, closed
ALTER TABLE revision ADD COLUMN action TEXT NOT NULL DEFAULT '';       -- what was done; words come later
ALTER TABLE job ADD COLUMN shown TEXT;                                 -- JSON: how it stands; NULL: to be worked out

UPDATE walk_note SET step = 'caution high_current' WHERE step = 'caution High current';
UPDATE walk_note SET step = 'caution battery' WHERE step = 'caution At the battery';
UPDATE walk_note SET step = 'caution petrol_gas' WHERE step = 'caution Petrol or gas aboard';
UPDATE walk_note SET step = 'caution lithium' WHERE step = 'caution Lithium battery';
UPDATE walk_note SET step = 'caution control_units' WHERE step = 'caution Control units and sensors';

-- What changes how a job stands makes its line in the list be worked out anew.
CREATE TRIGGER job_shown_reading AFTER INSERT ON reading
BEGIN
    UPDATE job SET shown = NULL WHERE id = NEW.job_id;
END;
CREATE TRIGGER job_shown_head AFTER INSERT ON head
BEGIN
    UPDATE job SET shown = NULL WHERE id = NEW.job_id;
END;
CREATE TRIGGER job_shown_moved AFTER UPDATE ON head
BEGIN
    UPDATE job SET shown = NULL WHERE id = NEW.job_id;
END;
CREATE TRIGGER job_shown_limits AFTER UPDATE OF limit_set ON job
BEGIN
    UPDATE job SET shown = NULL WHERE id = NEW.id;
END;
CREATE TRIGGER job_shown_rows AFTER INSERT ON own_row
BEGIN
    UPDATE job SET shown = NULL;
END;
CREATE TRIGGER job_shown_rows_changed AFTER UPDATE ON own_row
BEGIN
    UPDATE job SET shown = NULL;
END;
CREATE TRIGGER job_shown_rows_gone AFTER DELETE ON own_row
BEGIN
    UPDATE job SET shown = NULL;
END;
