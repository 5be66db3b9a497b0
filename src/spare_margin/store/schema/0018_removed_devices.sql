-- A device that was removed is remembered until its time would have ended, so that it can be told to keep nothing.

ALTER TABLE device ADD COLUMN removed_at TEXT;  -- UTC; NULL while it may come in
