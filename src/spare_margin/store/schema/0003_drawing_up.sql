-- What drawing up and budgeting a whole craft adds to a wiring.

ALTER TABLE source ADD COLUMN battery TEXT NOT NULL DEFAULT 'none';
ALTER TABLE source ADD COLUMN capacity_ah REAL;
ALTER TABLE piece ADD COLUMN pinned_v REAL;
ALTER TABLE piece ADD COLUMN engine_space INTEGER NOT NULL DEFAULT 0;
ALTER TABLE load ADD COLUMN critical INTEGER NOT NULL DEFAULT 0;
ALTER TABLE scenario ADD COLUMN starting TEXT NOT NULL DEFAULT '[]';   -- JSON list of load ids
ALTER TABLE scenario ADD COLUMN engine_c REAL;
