"""Whether a database was written to since, told by its files."""

import os
import sqlite3
import time
from collections.abc import Iterator
from contextlib import closing
from pathlib import Path
from types import SimpleNamespace

import pytest

from spare_margin.store.file import state
from spare_margin.store.file.database import connect
from spare_margin.store.file.migrating import migrate
from spare_margin.store.file.state import (
    SETTLED_COARSE_S,
    SETTLED_LOG_S,
    SETTLED_S,
    file_state,
)


@pytest.fixture
def database(tmp_path: Path) -> Path:
    path = tmp_path / "jobs.sqlite3"
    migrate(path)
    return path


@pytest.fixture
def anchored(database: Path) -> Iterator[sqlite3.Connection]:
    """A connection that stays open, as the serving program's does: the log stays beside the file."""
    with closing(connect(database)) as connection:
        yield connection


def title(connection: sqlite3.Connection, text: str) -> None:
    connection.execute(
        "INSERT INTO setting VALUES ('workshop', ?) ON CONFLICT DO UPDATE SET value = ?",
        (text, text),
    )


def later(monkeypatch: pytest.MonkeyPatch, seconds: float) -> None:
    """So long after the last thing that was written."""
    now = time.time_ns() + int(seconds * 1e9)
    monkeypatch.setattr(state, "time", SimpleNamespace(time_ns=lambda: now))


def test_what_was_written_just_now_cannot_be_told_by_its_time(
    database: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    later(monkeypatch, 0)
    assert file_state(database) is None
    later(monkeypatch, -3600)
    assert file_state(database) is None, "a clock that was set back tells nothing"
    later(monkeypatch, 2 * SETTLED_S)
    assert file_state(database) is not None


def test_it_stays_while_others_read(
    database: Path, anchored: sqlite3.Connection, monkeypatch: pytest.MonkeyPatch
) -> None:
    title(anchored, "Quay workshop")
    later(monkeypatch, 60)
    before = file_state(database)
    for _ in range(2):
        with closing(connect(database)) as reader:
            assert reader.execute("SELECT value FROM setting").fetchone()[0] == "Quay workshop"
        assert file_state(database) == before


def test_an_empty_log_is_none(database: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    later(monkeypatch, 60)
    before = file_state(database)
    with closing(connect(database)) as reader:
        reader.execute("SELECT * FROM setting").fetchall()
        assert database.with_name(f"{database.name}-wal").exists()
        assert file_state(database) == before


def test_what_is_kept_changes_it_though_it_stands_in_the_log_alone(
    database: Path, anchored: sqlite3.Connection, monkeypatch: pytest.MonkeyPatch
) -> None:
    title(anchored, "Quay workshop")
    later(monkeypatch, 60)
    before = file_state(database)
    assert before is not None
    with closing(connect(database)) as writer:
        title(writer, "Slip workshop")
    assert file_state(database) not in (before, None)


def test_the_log_takes_longer_to_settle(
    database: Path, anchored: sqlite3.Connection, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A commit of another program is in it before it can be seen: the disk may take its time."""
    title(anchored, "Quay workshop")
    later(monkeypatch, (SETTLED_S + SETTLED_LOG_S) / 2)
    assert file_state(database) is None
    later(monkeypatch, 2 * SETTLED_LOG_S)
    assert file_state(database) is not None


def test_another_file_in_its_place_is_another_state(
    database: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    later(monkeypatch, 60)
    before = file_state(database)
    other = tmp_path / "other.sqlite3"
    other.write_bytes(database.read_bytes())
    os.utime(other, ns=(database.stat().st_atime_ns, database.stat().st_mtime_ns))
    other.replace(database)
    assert file_state(database) not in (before, None)


def test_other_content_of_the_same_age_is_another_state(
    database: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    later(monkeypatch, 60)
    before, was = file_state(database), database.stat()
    with database.open("r+b") as file:
        file.write(file.read(100))
    os.utime(database, ns=(was.st_atime_ns, was.st_mtime_ns))
    assert database.stat().st_mtime_ns == was.st_mtime_ns
    assert file_state(database) not in (before, None)


def test_whole_seconds_take_longer_to_settle(
    database: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    whole = int(time.time()) * 10**9
    os.utime(database, ns=(whole, whole))
    later(monkeypatch, (SETTLED_S + SETTLED_COARSE_S) / 2)
    assert file_state(database) is None
    later(monkeypatch, 2 * SETTLED_COARSE_S)
    assert file_state(database) is not None


def test_where_the_system_tells_late_nothing_is_told(
    database: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    later(monkeypatch, 60)
    monkeypatch.setattr(state, "TIMES_ARE_TRUE", False)
    assert file_state(database) is None


def test_a_file_that_is_not_there_has_no_state(tmp_path: Path) -> None:
    (tmp_path / "gone.sqlite3-wal").write_bytes(b"left over")
    assert file_state(tmp_path / "gone.sqlite3") is None
    assert file_state(tmp_path / "gone.sqlite3-wal" / "in-a-file.sqlite3") is None
