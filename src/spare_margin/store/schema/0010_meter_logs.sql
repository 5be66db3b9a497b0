-- Logs of meters: what is drawn and found of each, its samples, and which window a reading was taken from.

CREATE TABLE meter_log (
    job_id     TEXT NOT NULL REFERENCES job (id) ON DELETE CASCADE,
    id         TEXT NOT NULL,
    name       TEXT NOT NULL,
    made_at    TEXT NOT NULL,                  -- UTC, when it was brought in
    started_at TEXT,                           -- UTC, of its first sample, where the file says
    duration_s REAL NOT NULL,
    row_count  INTEGER NOT NULL,
    channels   TEXT NOT NULL,                  -- JSON: name, quantity, and the points it was read between
    trace      TEXT NOT NULL,                  -- JSON: seconds; least and most of every channel
    segments   TEXT NOT NULL,                  -- JSON: [kind, start s, end s]
    PRIMARY KEY (job_id, id)
) STRICT;

-- The samples themselves; a log that came with a job file has none, only what is drawn of it.
CREATE TABLE meter_log_samples (
    job_id  TEXT NOT NULL,
    log_id  TEXT NOT NULL,
    samples BLOB NOT NULL,                     -- NumPy's npz
    PRIMARY KEY (job_id, log_id),
    FOREIGN KEY (job_id, log_id) REFERENCES meter_log (job_id, id) ON DELETE CASCADE
) STRICT;

ALTER TABLE reading ADD COLUMN log_window TEXT;    -- JSON: log, channel, figure, start s, end s
