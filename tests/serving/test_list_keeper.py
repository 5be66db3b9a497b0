"""The list of jobs is worked out while nobody asks for anything."""

import sqlite3
from contextlib import closing
from pathlib import Path

import pytest

from spare_margin.service.workshop.demo import fill_with_demo
from spare_margin.serving.list_keeper import EVERY_S, FAILED_S, QUIET_S, REST_S, ListKeeper
from spare_margin.store import records
from spare_margin.store.file.database import connect
from spare_margin.web.app import create_app


@pytest.fixture
def database(tmp_path: Path) -> Path:
    path = tmp_path / "jobs.sqlite3"
    fill_with_demo(path)
    return path


def waiting(database: Path) -> int:
    with closing(connect(database)) as connection:
        return records.waiting_count(connection)


def test_it_works_off_what_waits(database: Path) -> None:
    keeper = ListKeeper(create_app(database))
    assert waiting(database) == 5
    looks = 0
    while keeper.look() == REST_S:
        looks += 1
        assert looks < 5, "one job at least a look"
    assert waiting(database) == 0
    assert keeper.look() == EVERY_S


def test_people_come_first(database: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    moment = [0.0]
    monkeypatch.setattr("spare_margin.serving.list_keeper.time.monotonic", lambda: moment[0])
    app = create_app(database)
    keeper = ListKeeper(app)
    moment[0] = 100.0
    assert keeper.is_quiet()
    app.test_client().get("/api/v1/settings")
    assert not keeper.is_quiet()
    moment[0] += QUIET_S
    assert keeper.is_quiet()
    app.test_client().get("/api/v1/jobs/demo-1-sloop-marram/pulse")
    assert keeper.is_quiet(), "for a page that is only open nobody waits"


def test_it_bears_a_database_that_fails(database: Path) -> None:
    keeper = ListKeeper(create_app(database))
    database.rename(database.with_name("elsewhere"))
    assert keeper.look() == FAILED_S
    database.with_name("elsewhere").rename(database)
    with closing(sqlite3.connect(database)) as connection:
        assert connection.execute("SELECT count(*) FROM job").fetchone()[0] == 5
    with closing(connect(database)) as other:
        other.execute(
            "CREATE TRIGGER full BEFORE UPDATE ON job BEGIN SELECT RAISE(ABORT, 'full'); END"
        )
    assert waiting(database) == 5
    assert keeper.look() == FAILED_S
    assert waiting(database) == 5


def test_it_bears_a_job_that_fails(database: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    def broken(*_: object) -> None:
        raise KeyError("something")

    keeper = ListKeeper(create_app(database))
    monkeypatch.setattr("spare_margin.serving.list_keeper.catch_up", broken)
    assert keeper.look() == FAILED_S
