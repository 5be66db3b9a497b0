-- What jobs are found by: words of their own, and what was worked out of each when it changed.

ALTER TABLE job ADD COLUMN words TEXT NOT NULL DEFAULT '';   -- title, craft, customer, complaint; folded

CREATE TABLE job_record (
    job_id     TEXT PRIMARY KEY REFERENCES job (id) ON DELETE CASCADE,
    state      TEXT NOT NULL CHECK (state IN ('drawn', 'read', 'planned', 'left', 'signed')),
    verdict    TEXT NOT NULL,
    kinds      TEXT NOT NULL,                 -- kinds and styles of its pieces, each between bars: |joint|pin|
    fault_kind TEXT NOT NULL,                 -- kind of the piece found at fault; empty for none
    fault      TEXT NOT NULL,                 -- its name
    words      TEXT NOT NULL,                 -- loads and the fault; folded
    samples    TEXT NOT NULL,                 -- JSON: accepted pieces, [kind, style, place, ohm, drawn ohm]
    last_at    TEXT NOT NULL                  -- UTC, when something was last done to it
) STRICT;

UPDATE job SET words = lower(title || ' ' || complaint_what), shown = NULL;

CREATE INDEX job_by_age ON job (put_away, made_at DESC);
CREATE INDEX job_by_craft ON job (craft_name);
CREATE INDEX job_to_be_worked_out ON job (made_at) WHERE shown IS NULL;

CREATE TRIGGER job_shown_signed AFTER INSERT ON sign_off
BEGIN
    UPDATE job SET shown = NULL WHERE id = NEW.job_id;
END;

-- Who changed a wiring; empty: nobody said.
ALTER TABLE revision ADD COLUMN who TEXT NOT NULL DEFAULT '';
