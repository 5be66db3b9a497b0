-- Trials know the wiring they were tried on, when and by whom; a walk keeps what was seen and heard.

ALTER TABLE trial ADD COLUMN revision_id TEXT NOT NULL DEFAULT '';   -- '': the wiring as it was first found
ALTER TABLE trial ADD COLUMN taken_at TEXT NOT NULL DEFAULT '';      -- UTC, ISO 8601
ALTER TABLE trial ADD COLUMN note TEXT NOT NULL DEFAULT '';
ALTER TABLE trial ADD COLUMN who TEXT NOT NULL DEFAULT '';

ALTER TABLE moment ADD COLUMN stand_in TEXT;                          -- JSON: start, end, amperes
ALTER TABLE reading ADD COLUMN moved TEXT NOT NULL DEFAULT '';       -- the piece that was moved meanwhile

CREATE TRIGGER job_shown_trial AFTER INSERT ON trial
BEGIN
    UPDATE job SET shown = NULL WHERE id = NEW.job_id;
END;

CREATE TABLE walk_note_new (
    job_id  TEXT NOT NULL REFERENCES job (id) ON DELETE CASCADE,
    id      TEXT NOT NULL,
    stage   TEXT NOT NULL,
    run     TEXT NOT NULL,
    step    TEXT NOT NULL,                     -- of the walk, the caution that was acknowledged, or what was seen
    state   TEXT NOT NULL CHECK (state IN ('acknowledged', 'skipped', 'back', 'seen')),
    reason  TEXT NOT NULL,
    who     TEXT NOT NULL,
    made_at TEXT NOT NULL,                     -- UTC, ISO 8601
    PRIMARY KEY (job_id, id)
) STRICT;
INSERT INTO walk_note_new SELECT job_id, id, stage, run, step, state, reason, who, made_at
FROM walk_note ORDER BY rowid;
DROP TABLE walk_note;
ALTER TABLE walk_note_new RENAME TO walk_note;
