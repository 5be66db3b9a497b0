"""Migrations, and what the database itself refuses."""

import os
import sqlite3
import threading
from pathlib import Path

import pytest

from spare_margin.service.workshop.demo import fill_with_demo
from spare_margin.store import readings, records
from spare_margin.store.file.database import (
    DatabaseError,
    connect,
    default_path,
    migrations,
    transaction,
)
from spare_margin.store.file.migrating import migrate
from spare_margin.store.records import Asked

NEWEST = migrations()[-1][0]


def version(path: Path) -> int:
    with sqlite3.connect(path) as connection:
        return int(connection.execute("PRAGMA user_version").fetchone()[0])


def test_an_empty_database_is_brought_to_the_newest_schema(tmp_path: Path) -> None:
    path = tmp_path / "deep" / "jobs.sqlite3"
    migrate(path)
    connection = connect(path)
    assert version(path) == NEWEST
    assert connection.execute("PRAGMA journal_mode").fetchone()[0] == "wal"
    assert connection.execute("PRAGMA foreign_keys").fetchone()[0] == 1
    migrate(path)
    assert version(path) == NEWEST


@pytest.mark.parametrize("previous", range(1, NEWEST))
def test_a_previous_database_is_brought_up_with_what_it_holds(
    tmp_path: Path, previous: int
) -> None:
    path = tmp_path / "jobs.sqlite3"
    migrate(path, up_to=previous)
    assert version(path) == previous
    with sqlite3.connect(path) as connection:
        connection.execute(
            "INSERT INTO job (id, title, complaint_what, complaint_when, limit_set, stock, made_at)"
            " VALUES ('j', 'Old job', '', '', 'by-duty', '[]', '2026-01-01')"
        )
    connection.close()
    migrate(path)
    assert version(path) == NEWEST
    assert [r.title for r in records.search(connect(path), Asked())[0]] == ["Old job"]


def test_a_newer_database_is_refused_untouched(tmp_path: Path) -> None:
    path = tmp_path / "jobs.sqlite3"
    with sqlite3.connect(path) as connection:
        connection.execute(f"PRAGMA user_version = {NEWEST + 1}")
    with pytest.raises(DatabaseError, match=r"written by a newer Spare Margin"):
        migrate(path)
    assert version(path) == NEWEST + 1


def test_what_is_no_database_is_refused(tmp_path: Path) -> None:
    path = tmp_path / "jobs.sqlite3"
    path.write_text("These are shopping notes, and there are quite a few of them.\n" * 20)
    with pytest.raises(DatabaseError, match="cannot be"):
        migrate(path)


def test_a_step_that_fails_leaves_nothing_behind(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "jobs.sqlite3"
    migrate(path)
    broken = [*migrations(), (NEWEST + 1, "CREATE TABLE one (a);\nCREATE TABLE one (a);\n")]
    monkeypatch.setattr("spare_margin.store.file.migrating.migrations", lambda: broken)
    with pytest.raises(DatabaseError):
        migrate(path)
    assert version(path) == NEWEST
    with sqlite3.connect(path) as connection:
        assert not connection.execute("SELECT 1 FROM sqlite_master WHERE name = 'one'").fetchall()


def test_two_starts_at_once_migrate_once(tmp_path: Path) -> None:
    path = tmp_path / "jobs.sqlite3"
    troubles: list[Exception] = []

    def start() -> None:
        try:
            migrate(path)
        except Exception as trouble:
            troubles.append(trouble)

    threads = [threading.Thread(target=start) for _ in range(8)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert troubles == []
    assert version(path) == NEWEST


def test_a_transaction_keeps_all_or_nothing(tmp_path: Path) -> None:
    path = tmp_path / "jobs.sqlite3"
    migrate(path)
    connection = connect(path)

    def half() -> None:
        with transaction(connection):
            connection.execute("INSERT INTO setting VALUES ('word', 'half')")
            raise ZeroDivisionError

    with pytest.raises(ZeroDivisionError):
        half()
    assert connection.execute("SELECT * FROM setting").fetchall() == []


def test_a_transaction_within_another_is_a_part_of_that(tmp_path: Path) -> None:
    path = tmp_path / "jobs.sqlite3"
    migrate(path)
    connection = connect(path)

    def kept(outside: str) -> list[str]:
        with transaction(connection):
            with transaction(connection):
                connection.execute("INSERT INTO setting VALUES ('word', 'inside')")
            connection.execute(outside)
        return [row["key"] for row in connection.execute("SELECT key FROM setting ORDER BY key")]

    with pytest.raises(sqlite3.OperationalError):
        kept("INSERT INTO nowhere VALUES (1)")
    assert connection.execute("SELECT * FROM setting").fetchall() == []
    assert kept("INSERT INTO setting VALUES ('other', 'outside')") == ["other", "word"]
    assert not connection.in_transaction


def test_readings_can_be_superseded_but_never_changed(tmp_path: Path) -> None:
    path = tmp_path / "jobs.sqlite3"
    fill_with_demo(path)
    connection = connect(path)
    job = records.search(connection, Asked())[0][0]
    before = readings.readings(connection, job.id)
    with pytest.raises(sqlite3.IntegrityError, match="superseded, never changed"):
        connection.execute("UPDATE reading SET value = 1")
    readings.add_readings(connection, job.id, before[:1])
    assert readings.readings(connection, job.id) == before


def test_the_default_place_is_the_users_own() -> None:
    assert default_path().name == "jobs.sqlite3"
    assert str(default_path()).startswith(str(Path.home()))


@pytest.mark.skipif(os.name != "posix", reason="modes are POSIX's")
def test_nobody_else_reads_the_database(tmp_path: Path) -> None:
    path = tmp_path / "jobs.sqlite3"
    migrate(path)
    assert path.stat().st_mode & 0o077 == 0
