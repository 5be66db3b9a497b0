-- How a conductor lies: what it bears and the sizes it may take depend on it.

ALTER TABLE piece ADD COLUMN bundle INTEGER NOT NULL DEFAULT 1 CHECK (bundle >= 1);
ALTER TABLE piece ADD COLUMN unsupported INTEGER NOT NULL DEFAULT 0 CHECK (unsupported IN (0, 1));
ALTER TABLE piece ADD COLUMN cable TEXT NOT NULL DEFAULT '';
