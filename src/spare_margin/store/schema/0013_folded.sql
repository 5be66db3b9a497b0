-- Old steps are let go in time; the next that stays says how many are told with it.

ALTER TABLE revision ADD COLUMN folded INTEGER NOT NULL DEFAULT 0;
