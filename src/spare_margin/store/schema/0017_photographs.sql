-- Photographs: what is said of each, and beside it the picture, large and small.

CREATE TABLE photograph (
    job_id     TEXT NOT NULL REFERENCES job (id) ON DELETE CASCADE,
    id         TEXT NOT NULL,
    subject    TEXT NOT NULL CHECK (subject IN ('job', 'point', 'part', 'reading', 'step')),
    about      TEXT NOT NULL,                  -- id of the subject; empty for the job itself
    stage      TEXT NOT NULL CHECK (stage IN ('as_found', 'as_left')),
    note       TEXT NOT NULL,
    on_sheet   INTEGER NOT NULL,               -- whether it goes on the hand-over sheet
    taken_at   TEXT NOT NULL,                  -- UTC, ISO 8601
    who        TEXT NOT NULL,
    width_px   INTEGER NOT NULL,
    height_px  INTEGER NOT NULL,
    deleted_at TEXT,                           -- UTC; for a day it can be taken back
    PRIMARY KEY (job_id, id)
) STRICT;

CREATE TABLE photograph_picture (
    job_id        TEXT NOT NULL,
    photograph_id TEXT NOT NULL,
    large         BLOB NOT NULL,               -- JPEG
    small         BLOB NOT NULL,               -- JPEG
    PRIMARY KEY (job_id, photograph_id),
    FOREIGN KEY (job_id, photograph_id) REFERENCES photograph (job_id, id) ON DELETE CASCADE
) STRICT;
