-- Meters that speak: where each is, how it is understood; and of a reading what the meter gave by itself.
CREATE TABLE meter (
    id      TEXT PRIMARY KEY,
    name    TEXT NOT NULL UNIQUE,
    speaks  TEXT NOT NULL,             -- scpi, or lines of text
    address TEXT NOT NULL,
    spec    TEXT NOT NULL DEFAULT '',  -- its row in the table of meters
    figure  INTEGER NOT NULL DEFAULT 0, -- of lines: which figure is the reading
    unit    TEXT NOT NULL DEFAULT 'V', -- of lines: what it is in where the line does not say
    baud    INTEGER NOT NULL DEFAULT 9600,
    on_source INTEGER NOT NULL DEFAULT 0 -- whether it stays on the source's posts
) STRICT;

ALTER TABLE reading ADD COLUMN by_meter TEXT;      -- JSON: which meter, how long it stood still, its trace
