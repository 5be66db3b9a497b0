-- What a workshop sets for itself, and what a job says beyond its wiring.

ALTER TABLE job ADD COLUMN complaint_conditions TEXT NOT NULL DEFAULT '';
ALTER TABLE job ADD COLUMN source_checks TEXT NOT NULL DEFAULT '{}';   -- JSON: source id -> figures, SI

CREATE TABLE setting (
    key   TEXT PRIMARY KEY,
    value TEXT NOT NULL
) STRICT, WITHOUT ROWID;

-- Rows of the workshop's own on the shelves of tables; one with a shipped row's key stands in for it.
CREATE TABLE own_row (
    shelf TEXT NOT NULL,
    key   TEXT NOT NULL,
    cells TEXT NOT NULL,                       -- JSON: column -> text
    PRIMARY KEY (shelf, key)
) STRICT;
