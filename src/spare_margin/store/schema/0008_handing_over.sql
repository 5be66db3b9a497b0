-- What is handed over: whose craft it is, and who signed which proof.

ALTER TABLE job ADD COLUMN craft_name TEXT NOT NULL DEFAULT '';
ALTER TABLE job ADD COLUMN customer TEXT NOT NULL DEFAULT '';

-- Appended once each; what was signed is the wiring as it was left then.
CREATE TABLE sign_off (
    job_id   TEXT NOT NULL REFERENCES job (id) ON DELETE CASCADE,
    id       TEXT NOT NULL,
    run      TEXT NOT NULL,
    revision TEXT NOT NULL,
    role     TEXT NOT NULL CHECK (role IN ('fitter', 'customer')),
    name     TEXT NOT NULL,
    strokes  TEXT NOT NULL,                    -- JSON: lines of [x, y] in shares of the box's width
    outcome  TEXT NOT NULL CHECK (outcome IN ('passed', 'failed', 'open')),
    made_at  TEXT NOT NULL,                    -- UTC, ISO 8601
    PRIMARY KEY (job_id, id)
) STRICT;

CREATE TRIGGER sign_off_stays BEFORE UPDATE ON sign_off
BEGIN
    SELECT RAISE(ABORT, 'a signature is added, never changed');
END;
CREATE TRIGGER sign_off_is_kept BEFORE DELETE ON sign_off
WHEN EXISTS (SELECT 1 FROM job WHERE id = OLD.job_id)
BEGIN
    SELECT RAISE(ABORT, 'a signature is added, never taken away');
END;
