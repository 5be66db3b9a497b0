-- Jobs, and every state their wiring has been in.

CREATE TABLE job (
    id             TEXT PRIMARY KEY,
    title          TEXT NOT NULL,
    complaint_what TEXT NOT NULL,
    complaint_when TEXT NOT NULL,
    limit_set      TEXT NOT NULL,
    stock          TEXT NOT NULL,              -- JSON list of size names
    made_at        TEXT NOT NULL,              -- UTC, ISO 8601
    put_away       INTEGER NOT NULL DEFAULT 0
) STRICT;

CREATE TABLE own_limit (
    job_id       TEXT NOT NULL REFERENCES job (id) ON DELETE CASCADE,
    load_id      TEXT NOT NULL,
    feed_v       REAL,
    return_v     REAL,
    round_trip_v REAL,
    PRIMARY KEY (job_id, load_id)
) STRICT;

-- A revision never changes once it is written; a change of the wiring is a new one.
CREATE TABLE revision (
    job_id    TEXT NOT NULL REFERENCES job (id) ON DELETE CASCADE,
    id        TEXT NOT NULL,
    stage     TEXT NOT NULL CHECK (stage IN ('as_found', 'planned', 'as_left')),
    parent    TEXT,
    summary   TEXT NOT NULL,
    made_at   TEXT NOT NULL,
    kind      TEXT NOT NULL,
    nominal_v REAL NOT NULL,
    polarity  TEXT NOT NULL,
    reference TEXT NOT NULL,
    PRIMARY KEY (job_id, id),
    FOREIGN KEY (job_id, parent) REFERENCES revision (job_id, id) ON DELETE CASCADE
) STRICT;

-- Where each stage stands: `revision_id` now, `tip` where redo leads. No revision: undone.
CREATE TABLE head (
    job_id      TEXT NOT NULL,
    stage       TEXT NOT NULL,
    revision_id TEXT,
    tip         TEXT NOT NULL,
    PRIMARY KEY (job_id, stage),
    FOREIGN KEY (job_id, revision_id) REFERENCES revision (job_id, id) ON DELETE CASCADE,
    FOREIGN KEY (job_id, tip) REFERENCES revision (job_id, id) ON DELETE CASCADE
) STRICT;

CREATE TABLE point (
    job_id      TEXT NOT NULL,
    revision_id TEXT NOT NULL,
    place       INTEGER NOT NULL,
    id          TEXT NOT NULL,
    name        TEXT NOT NULL,
    access      TEXT NOT NULL,
    PRIMARY KEY (job_id, revision_id, id),
    FOREIGN KEY (job_id, revision_id) REFERENCES revision (job_id, id) ON DELETE CASCADE
) STRICT, WITHOUT ROWID;

CREATE TABLE source (
    job_id         TEXT NOT NULL,
    revision_id    TEXT NOT NULL,
    place          INTEGER NOT NULL,
    id             TEXT NOT NULL,
    name           TEXT NOT NULL,
    live           TEXT NOT NULL,
    back           TEXT NOT NULL,
    open_circuit_v REAL NOT NULL,
    internal_ohm   REAL NOT NULL,
    PRIMARY KEY (job_id, revision_id, id),
    FOREIGN KEY (job_id, revision_id) REFERENCES revision (job_id, id) ON DELETE CASCADE
) STRICT, WITHOUT ROWID;

-- Conductors and fixed pieces; columns that a kind does not use are NULL.
CREATE TABLE piece (
    job_id         TEXT NOT NULL,
    revision_id    TEXT NOT NULL,
    place          INTEGER NOT NULL,
    id             TEXT NOT NULL,
    kind           TEXT NOT NULL,
    name           TEXT NOT NULL,
    start          TEXT NOT NULL,
    "end"          TEXT NOT NULL,
    side           TEXT NOT NULL,
    resistance_ohm REAL,
    open           INTEGER NOT NULL,
    repair         TEXT,
    length_m       REAL,
    size_system    TEXT,
    size_value     TEXT,
    size_finish    TEXT,
    ohm_per_m      REAL,
    insulation_c   REAL,
    temperature_c  REAL,
    style          TEXT,
    rating_a       REAL,
    PRIMARY KEY (job_id, revision_id, id),
    FOREIGN KEY (job_id, revision_id) REFERENCES revision (job_id, id) ON DELETE CASCADE
) STRICT, WITHOUT ROWID;

CREATE TABLE load (
    job_id         TEXT NOT NULL,
    revision_id    TEXT NOT NULL,
    place          INTEGER NOT NULL,
    id             TEXT NOT NULL,
    name           TEXT NOT NULL,
    start          TEXT NOT NULL,
    "end"          TEXT NOT NULL,
    behaviour      TEXT NOT NULL,
    current_a      REAL,
    load_ohm       REAL,
    power_w        REAL,
    rated_v        REAL,
    start_multiple REAL,
    least_v        REAL,
    duty           TEXT NOT NULL,
    PRIMARY KEY (job_id, revision_id, id),
    FOREIGN KEY (job_id, revision_id) REFERENCES revision (job_id, id) ON DELETE CASCADE
) STRICT, WITHOUT ROWID;

CREATE TABLE scenario (
    job_id            TEXT NOT NULL,
    revision_id       TEXT NOT NULL,
    place             INTEGER NOT NULL,
    id                TEXT NOT NULL,
    name              TEXT NOT NULL,
    ambient_c         REAL NOT NULL,
    temperature_model TEXT NOT NULL,
    "on"              TEXT NOT NULL,           -- JSON list of load ids
    sources           TEXT NOT NULL,           -- JSON: source id -> [open_circuit_v, internal_ohm]
    PRIMARY KEY (job_id, revision_id, id),
    FOREIGN KEY (job_id, revision_id) REFERENCES revision (job_id, id) ON DELETE CASCADE
) STRICT, WITHOUT ROWID;
