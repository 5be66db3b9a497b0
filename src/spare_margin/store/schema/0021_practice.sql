-- Practice: kept apart from the jobs, in no list, search, table or export of theirs.
CREATE TABLE practice_attempt (
    id       TEXT PRIMARY KEY,
    who      TEXT NOT NULL,             -- the learner, by the name that measures
    exercise TEXT NOT NULL,             -- what it is made from again: 3-14, or own- with an id
    asked_by TEXT NOT NULL DEFAULT '',  -- the id of the set that it was begun from
    begun_at TEXT NOT NULL,             -- UTC, ISO 8601
    ended_at TEXT,
    acts     TEXT NOT NULL DEFAULT '[]', -- JSON: what was done, in order
    result   TEXT                        -- JSON: what it came to, once it has ended
) STRICT;
CREATE INDEX practice_attempt_who ON practice_attempt (who, begun_at);

CREATE TABLE practice_own (
    id       TEXT PRIMARY KEY,
    made_at  TEXT NOT NULL,
    document TEXT NOT NULL              -- JSON: the craft without names of people, and what was wrong
) STRICT;

CREATE TABLE practice_set (
    id        TEXT PRIMARY KEY,
    name      TEXT NOT NULL,
    made_at   TEXT NOT NULL,
    made_by   TEXT NOT NULL DEFAULT '',
    exercises TEXT NOT NULL,            -- JSON: their keys
    learners  TEXT NOT NULL             -- JSON: their names
) STRICT;

CREATE TABLE practice_lesson (
    who         TEXT NOT NULL,
    lesson      TEXT NOT NULL,
    answered_at TEXT NOT NULL,
    is_right    INTEGER NOT NULL,
    PRIMARY KEY (who, lesson)
) STRICT;
