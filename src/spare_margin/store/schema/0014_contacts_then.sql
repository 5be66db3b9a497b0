-- What switches, breakers and relay contacts were commanded in a moment, otherwise than in its scenario.

ALTER TABLE moment ADD COLUMN contacts TEXT NOT NULL DEFAULT '{}';    -- JSON: piece id to open or closed
